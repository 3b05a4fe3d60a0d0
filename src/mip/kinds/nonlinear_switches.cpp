#include "mip/kinds/nonlinear_switches.hpp"

#include <cmath>
#include <map>

namespace kiteknot::mip {

namespace {

// Of a column and a binary: the column's range where the binary is 0 and where it is 1.
class Ranges {
 public:
  explicit Ranges(const Problem& problem) : p_(problem) {}

  void narrow(Index x, Index z, bool one, const Interval& to) {
    const Interval own{p_.lower(x), p_.upper(x)};
    auto& by_binary = all_[x];
    auto& range = by_binary.try_emplace(z, std::array{own, own}).first->second[one ? 1 : 0];
    range = intersection(range, to);
  }
  // Rows of one column beside a binary.
  void take_bounds_by_binaries() {
    each_pair([&](Index x, double a, Index z, double c, const Interval& sides) {
      if (!binary(z)) return;
      for (const bool one : {false, true}) {
        const Interval rest = one ? sides + Interval{-c, -c} : sides;
        narrow(x, z, one, divided(rest, {a, a}));
      }
    });
  }
  // Rows of two columns: what switches one bounds the other.
  void take_over() {
    each_pair([&](Index x, double a, Index y, double c, const Interval& sides) {
      const auto known = all_.find(y);
      if (known == all_.end() || binary(x) || binary(y)) return;
      const auto by_binary = known->second;  // x may be a new key
      for (const auto& [z, range] : by_binary)
        for (const bool one : {false, true})
          narrow(x, z, one, divided(sides + -(Interval{c, c} * range[one ? 1 : 0]), {a, a}));
    });
  }
  [[nodiscard]] const auto& all() const { return all_; }

 private:
  [[nodiscard]] bool binary(Index j) const {
    return p_.integer(j) && p_.lower(j) == 0.0 && p_.upper(j) == 1.0;
  }
  // Both ways round; rows whose numbers doubles are not say a little too much.
  template <class Hear>
  void each_pair(const Hear& hear) const {
    for (Index i = 0; i < p_.num_rows(); ++i) {
      const RowView row = p_.row(i);
      if (row.index.size() != 2 || !row.exact) continue;
      const Interval sides{row.lower, row.upper};
      hear(row.index[0], row.value[0], row.index[1], row.value[1], sides);
      hear(row.index[1], row.value[1], row.index[0], row.value[0], sides);
    }
  }

  const Problem& p_;
  std::map<Index, std::map<Index, std::array<Interval, 2>>> all_;
};

}  // namespace

void Switches::learn(const Problem& problem, const std::vector<NonlinearTerm>& terms,
                     const Implications& implied) {
  if (known_ == implied.size()) return;
  known_ = implied.size();
  by_column_.clear();
  Ranges ranges(problem);
  ranges.take_bounds_by_binaries();
  for (const Implication& i : implied)
    ranges.narrow(i.column, column_of(i.when), !is_no(i.when),
                  {i.upper ? -kInf : i.bound, i.upper ? i.bound : kInf});
  ranges.take_over();
  std::vector<char> wanted(at(problem.num_columns()), 0);
  for (const NonlinearTerm& t : terms)
    if (!t.product() || t.x == t.z) wanted[at(t.x)] = 1;
  constexpr double kOff = 1e-6;  // of the range that it has when it is on
  for (const auto& [x, by_binary] : ranges.all())
    for (const auto& [z, range] : by_binary) {
      if (!wanted[at(x)] || is_empty(range[0]) || is_empty(range[1])) continue;
      const double width[] = {range[0].high - range[0].low, range[1].high - range[1].low};
      const bool on = width[1] >= width[0];
      if (width[on ? 0 : 1] <= kOff * std::min(1.0, width[on ? 1 : 0]))
        by_column_[x].push_back({z, range[on ? 0 : 1], range[on ? 1 : 0], on});
    }
}

bool perspective_row(const NonlinearTerm& term, const UnaryFunction& f, bool above,
                     const Switch& by, std::span<const double> point, double least,
                     LinearRow& row) {
  constexpr double kSteepest = 1e9, kBarelyOn = 1e-9;
  const double share = by.share_on(point), x = point[at(term.x)], y = point[at(term.value)];
  if (share <= kBarelyOn) return false;
  const double off_at = 0.5 * (by.off.low + by.off.high);
  const double on_at = std::clamp(off_at + (x - off_at) / share, by.on.low, by.on.high);
  const double slope = f.slope(on_at);
  if (!std::isfinite(slope) || std::abs(slope) > kSteepest) return false;
  // Heights over either state; sides from above are those from below with every sign turned.
  const double sign = above ? 1.0 : -1.0;
  const auto height = [&](const Interval& range) {
    return above ? f.height_below(slope, range) : -f.height_above(slope, range);
  };
  const double on = height(by.on), off = height(by.off);
  if (!std::isfinite(on) || !std::isfinite(off)) return false;
  const double over = on * share + off * (1.0 - share) - sign * (y - slope * x);
  if (!(over > least * (1.0 + std::abs(y)))) return false;
  // sign (value - s x) >= at_zero + (at_one - at_zero) z, with a coefficient no greater than that
  // and a constant that is right at z = 1 as well.
  const double at_one = by.on_at_one ? on : off, at_zero = by.on_at_one ? off : on;
  const double rise = total_down(at_one, -at_zero);
  row = {{{term.value, 1.0}}, -kInf, kInf, true};
  if (slope != 0.0) row.entries.push_back({term.x, -slope});
  if (rise != 0.0) row.entries.push_back({by.binary, -sign * rise});
  (above ? row.lower : row.upper) = sign * at_zero;
  return true;
}

}  // namespace kiteknot::mip
