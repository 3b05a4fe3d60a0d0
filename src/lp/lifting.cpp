#include "lp/lifting.hpp"

#include <algorithm>
#include <cmath>
#include <limits>

#include "base/at.hpp"

namespace kiteknot::lp {
namespace {

long bits(const mpz_class& v) {
  return v == 0 ? 0 : static_cast<long>(mpz_sizeinbase(v.get_mpz_t(), 2));
}

// Digits gathered so far: value = high 2^-scale, the latest steps kept apart, so that the long
// numbers are not moved at every step.
class Digits {
 public:
  explicit Digits(std::size_t size) : high_(size), low_(size) {}
  void add(const std::vector<mpz_class>& d, long shift) {
    for (std::size_t k = 0; k < d.size(); ++k) {
      if (low_[k] != 0) low_[k] <<= static_cast<unsigned long>(shift);
      low_[k] += d[k];
    }
    low_scale_ += shift;
    constexpr long kLong = 2000;
    if (low_scale_ > kLong) fold();
  }
  void fold() {
    for (std::size_t k = 0; k < high_.size(); ++k) {
      if (high_[k] != 0) high_[k] <<= static_cast<unsigned long>(low_scale_);
      high_[k] += low_[k];
      low_[k] = 0;
    }
    scale_ += low_scale_;
    low_scale_ = 0;
  }
  [[nodiscard]] const std::vector<mpz_class>& value() const { return high_; }  // after fold()
  [[nodiscard]] long scale() const { return scale_ + low_scale_; }

 private:
  std::vector<mpz_class> high_, low_;
  long scale_ = 0, low_scale_ = 0;
};

// The nearest whole number to v / 2^scale.
mpz_class rounded(const mpz_class& v, long scale) {
  if (scale == 0) return v;
  mpz_class half = 1;
  half <<= static_cast<unsigned long>(scale - 1);
  half += v;
  mpz_class q;
  mpz_fdiv_q_2exp(q.get_mpz_t(), half.get_mpz_t(), static_cast<mp_bitcnt_t>(scale));
  return q;
}

// The least denominator q for which q v / 2^scale is within 2^-slack of a whole number, by
// continued fraction; 0 where it would have more than `most` bits.
mpz_class denominator_of(const mpz_class& v, long scale, long slack, long most) {
  mpz_class r0 = 1, r1, t0 = 0, t1 = 1, q, limit = 1;
  r0 <<= static_cast<unsigned long>(scale);
  mpz_fdiv_r_2exp(r1.get_mpz_t(), v.get_mpz_t(), static_cast<mp_bitcnt_t>(scale));
  limit <<= static_cast<unsigned long>(std::max(scale - slack, 0L));
  while (r1 > limit) {
    mpz_fdiv_qr(q.get_mpz_t(), r0.get_mpz_t(), r0.get_mpz_t(), r1.get_mpz_t());
    std::swap(r0, r1);
    t0 += q * t1;
    std::swap(t0, t1);
    if (bits(t1) > most) return 0;
  }
  return t1;
}

// Fractions over one denominator that the digits agree with, if there are any short enough: a
// number with q < 2^a and error below 2^-2a is the only one, so half of the digits confirm.
std::optional<ScaledVector> fractions(const std::vector<mpz_class>& digits, long scale) {
  constexpr long kGuard = 12;  // bits that the last digits may be wrong by, and more in longer ones
  const long guard = kGuard + scale / 16;
  const long most = scale / 2 - guard;
  if (most <= 0) return std::nullopt;
  ScaledVector x;
  x.numerator.resize(digits.size());
  mpz_class scaled, off;
  for (std::size_t k = 0; k < digits.size(); ++k) {
    if (digits[k] == 0) continue;
    scaled = digits[k] * x.denominator;
    mpz_class n = rounded(scaled, scale);
    off = n;
    off <<= static_cast<unsigned long>(scale);
    off -= scaled;
    const long slack = scale - bits(x.denominator) - guard;
    if (bits(off) > scale - slack) {
      const mpz_class q = denominator_of(scaled, scale, slack, most - bits(x.denominator));
      if (q == 0) return std::nullopt;
      for (std::size_t j = 0; j < k; ++j) x.numerator[j] *= q;
      x.denominator *= q;
      n = rounded(digits[k] * x.denominator, scale);
    }
    x.numerator[k] = std::move(n);
  }
  return x;
}

}  // namespace

// Rows and columns in turn to the middle of their sizes (geometric scaling), in powers of two.
void ExactSystem::balance() {
  const std::size_t k = at(matrix_.size());
  constexpr int kPasses = 3;
  constexpr long kClose = 10;  // bits; below that it is not worth longer numbers
  std::vector<long> row(k, 0), column(k, 0);
  const auto middle = [&](std::vector<long>& to, const std::vector<long>& other, bool rows) {
    std::vector<long> least(k, std::numeric_limits<long>::max());
    std::vector<long> most(k, std::numeric_limits<long>::min());
    for (std::size_t r = 0; r < k; ++r)
      for (std::size_t e = matrix_.start[r]; e < matrix_.start[r + 1]; ++e) {
        const std::size_t c = at(matrix_.column[e]), own = rows ? r : c;
        const long size = bits(matrix_.value[e]) + other[rows ? c : r];
        least[own] = std::min(least[own], size);
        most[own] = std::max(most[own], size);
      }
    for (std::size_t i = 0; i < k; ++i) to[i] = least[i] > most[i] ? 0 : -(least[i] + most[i]) / 2;
  };
  for (int pass = 0; pass < kPasses; ++pass) {
    middle(row, column, true);
    middle(column, row, false);
  }
  const auto [row_low, row_high] = std::minmax_element(row.begin(), row.end());
  const auto [column_low, column_high] = std::minmax_element(column.begin(), column.end());
  if (k == 0 || (*row_high - *row_low < kClose && *column_high - *column_low < kClose)) return;
  for (const long v : row) row_shift_.push_back(static_cast<unsigned long>(v - *row_low));
  for (const long v : column) column_shift_.push_back(static_cast<unsigned long>(v - *column_low));
  for (std::size_t r = 0; r < k; ++r)
    for (std::size_t e = matrix_.start[r]; e < matrix_.start[r + 1]; ++e)
      matrix_.value[e] <<= row_shift_[r] + column_shift_[at(matrix_.column[e])];
}

ExactSystem::ExactSystem(Matrix matrix) : matrix_(std::move(matrix)) {
  balance();
  const Index k = matrix_.size();
  row_exponent_.assign(at(k), 0);
  std::vector<std::size_t> start(at(k) + 1, 0);
  for (const Index c : matrix_.column) ++start[at(c) + 1];
  for (std::size_t c = 0; c < at(k); ++c) start[c + 1] += start[c];
  std::vector<Index> index(matrix_.column.size());
  std::vector<double> value(matrix_.column.size());
  std::vector<std::size_t> next(start.begin(), start.end() - 1);
  for (Index r = 0; r < k; ++r) {
    long& exponent = row_exponent_[at(r)];
    for (std::size_t e = matrix_.start[at(r)]; e < matrix_.start[at(r) + 1]; ++e)
      exponent = std::max(exponent, bits(matrix_.value[e]));
    for (std::size_t e = matrix_.start[at(r)]; e < matrix_.start[at(r) + 1]; ++e) {
      long own = 0;
      const double mantissa = mpz_get_d_2exp(&own, matrix_.value[e].get_mpz_t());
      const std::size_t place = next[at(matrix_.column[e])]++;
      index[place] = r;
      value[place] = std::ldexp(mantissa, static_cast<int>(std::max(own - exponent, -1000L)));
    }
  }
  std::vector<linalg::ColumnView> columns;
  for (std::size_t c = 0; c < at(k); ++c)
    columns.push_back({{index.data() + start[c], start[c + 1] - start[c]},
                       {value.data() + start[c], start[c + 1] - start[c]}});
  linalg::LuOptions options;
  options.pivot_threshold = 0.5;  // digits count here, not speed
  regular_ = lu_.factor(columns, options).regular();
  pivot_row_.assign(lu_.pivot_row().begin(), lu_.pivot_row().end());
  work_.reset(k);
  near_.assign(at(k), 0.0);
}

// near_ := 2^-shift M^-1 r (or transposed), approximately.
void ExactSystem::approximate(const std::vector<mpz_class>& r, long shift, bool transposed) {
  const Index k = matrix_.size();
  work_.clear();
  for (Index i = 0; i < k; ++i) {
    if (r[at(i)] == 0) continue;
    long exponent = 0;
    const double mantissa = mpz_get_d_2exp(&exponent, r[at(i)].get_mpz_t());
    exponent -= shift + (transposed ? 0 : row_exponent_[at(i)]);
    const double v = std::ldexp(mantissa, static_cast<int>(std::max(exponent, -1000L)));
    work_.add(transposed ? pivot_row_[at(i)] : i, v);
  }
  if (transposed)
    lu_.btran(work_, 0.0);
  else
    lu_.ftran(work_, 0.0);
  for (Index i = 0; i < k; ++i)
    near_[at(i)] = transposed ? std::ldexp(work_[i], static_cast<int>(-row_exponent_[at(i)]))
                              : work_[pivot_row_[at(i)]];
}

void ExactSystem::subtract_product(std::vector<mpz_class>& r, const std::vector<mpz_class>& d,
                                   bool transposed) const {
  for (std::size_t row = 0; row + 1 < matrix_.start.size(); ++row)
    for (std::size_t e = matrix_.start[row]; e < matrix_.start[row + 1]; ++e) {
      const std::size_t from = transposed ? row : at(matrix_.column[e]);
      const std::size_t to = transposed ? at(matrix_.column[e]) : row;
      if (d[from] != 0)
        mpz_submul(r[to].get_mpz_t(), matrix_.value[e].get_mpz_t(), d[from].get_mpz_t());
    }
}

bool ExactSystem::confirmed(const ScaledVector& x, const std::vector<mpz_class>& b,
                            bool transposed) const {
  std::vector<mpz_class> rest = b;
  for (mpz_class& v : rest) v *= x.denominator;
  subtract_product(rest, x.numerator, transposed);
  return std::all_of(rest.begin(), rest.end(), [](const mpz_class& v) { return v == 0; });
}

// R M C x' = R b and x = C x'; for the transpose the two change places.
std::optional<ScaledVector> ExactSystem::solve(const std::vector<mpz_class>& b, bool transposed,
                                               const ExactLimits& limits, WorkCounter& work) {
  if (!regular_) return std::nullopt;
  if (row_shift_.empty()) return lift(b, transposed, limits, work);
  const auto shifted = [](std::vector<mpz_class>& v, const std::vector<unsigned long>& by) {
    for (std::size_t i = 0; i < v.size(); ++i)
      if (v[i] != 0) v[i] <<= by[i];
  };
  std::vector<mpz_class> right = b;
  shifted(right, transposed ? column_shift_ : row_shift_);
  std::optional<ScaledVector> x = lift(right, transposed, limits, work);
  if (x) shifted(x->numerator, transposed ? row_shift_ : column_shift_);
  return x;
}

std::optional<ScaledVector> ExactSystem::lift(const std::vector<mpz_class>& b, bool transposed,
                                              const ExactLimits& limits, WorkCounter& work) {
  const std::size_t k = b.size();
  constexpr long kDigits = 40;    // that a step asks of the factor, at most
  constexpr long kLeastGain = 8;  // bits that a step must bring
  const auto a_step = static_cast<std::int64_t>(lu_.num_entries()) +
                      2 * static_cast<std::int64_t>(matrix_.value.size() + k);
  const std::int64_t before = work.units();
  std::vector<mpz_class> r = b, d(k);
  Digits digits(k);
  long residual = 0;
  for (const mpz_class& v : r) residual = std::max(residual, bits(v));
  long next_look = 2 * kDigits;
  while (true) {
    if (residual == 0) {  // the digits are all there are
      digits.fold();
      ScaledVector x{digits.value(), 1};
      x.denominator <<= static_cast<unsigned long>(digits.scale());
      if (confirmed(x, b, transposed)) return x;
      return std::nullopt;
    }
    if (digits.scale() >= next_look) {
      digits.fold();
      work.add(static_cast<std::int64_t>(k) * (digits.scale() / 16 + 1));
      std::optional<ScaledVector> x = fractions(digits.value(), digits.scale());
      if (x && confirmed(*x, b, transposed)) return x;
      next_look = 2 * digits.scale();
    }
    if (work.units() - before >= limits.max_work || limits.interrupt.now()) return std::nullopt;
    approximate(r, residual, transposed);
    work.add(a_step + static_cast<std::int64_t>(k) * (residual / 64));
    double largest = 0.0;
    for (const double v : near_) largest = std::max(largest, std::abs(v));
    if (!std::isfinite(largest) || largest == 0.0) return std::nullopt;
    // near_ 2^residual is the solution; the step's unit is such that its digits fit.
    const long shift = std::max(kDigits - std::ilogb(largest) - residual, 0L);
    for (std::size_t j = 0; j < k; ++j) {
      const long exponent = residual + shift;
      int own = 0;
      const double mantissa = std::frexp(near_[j], &own);
      const long place = own + exponent;  // value = mantissa 2^place
      if (mantissa == 0.0 || place < 0) {
        d[j] = 0;
      } else if (place <= 62) {
        d[j] = std::round(std::ldexp(mantissa, static_cast<int>(place)));
      } else {
        d[j] = std::ldexp(mantissa, 62);  // whole: 53 bits of it count
        d[j] <<= static_cast<unsigned long>(place - 62);
      }
    }
    for (mpz_class& v : r)
      if (v != 0) v <<= static_cast<unsigned long>(shift);
    subtract_product(r, d, transposed);
    digits.add(d, shift);
    long now = 0;
    for (const mpz_class& v : r) now = std::max(now, bits(v));
    if (now > residual + shift - kLeastGain && now > 0) {
      // A whole solution is reached by a last small correction; anything else gains too little.
      return std::nullopt;
    }
    residual = now;
  }
}

}  // namespace kiteknot::lp
