#include "lp/sifting.hpp"

#include <algorithm>
#include <cmath>

namespace kiteknot::lp {
namespace {

constexpr std::int64_t kPivotsALine = 20;  // of a part; more of them, and it leads nowhere

class ColumnSifting {
 public:
  ColumnSifting(const Program& program, const SiftingOptions& options)
      : p_(program), options_(options), in_(at(program.num_columns()), 0) {}

  Sifted run() {
    constexpr int kMostRounds = 200;
    for (const Index j : options_.wanted) take(j);
    choose();
    if (worthless() || many_are_wanted()) return std::move(result_);
    Simplex part = made();
    part.set_seed(options_.seed);
    SimplexOptions steer{.quick = true, .exact_pivots = 0, .interrupt = options_.interrupt};
    for (int round = 0; round < kMostRounds; ++round) {
      steer.max_pivots = kPivotsALine * (p_.num_rows() + static_cast<Index>(columns_.size()));
      const Report report = part.solve(steer);
      result_.pivots += report.pivots;
      const bool none = report.status == Status::infeasible && !part.farkas().empty();
      if (report.status != Status::optimal && !none) break;
      if (!(none ? bring_in_possible(part) : bring_in_better(part))) {
        if (!none) keep(part);
        break;
      }
      if (worthless()) break;
      steer.path = Path::primal;  // what came in leaves the point as it was
    }
    result_.work += part.work().units();
    return std::move(result_);
  }

 private:
  void take(Index j) {
    if (in_[at(j)]) return;
    in_[at(j)] = 1;
    columns_.push_back(j);
  }
  [[nodiscard]] bool worthless() const { return columns_.size() > at(p_.num_columns() / 2); }

  // Where the goal itself asks for many columns they would all come in.
  [[nodiscard]] bool many_are_wanted() const {
    const auto wanted = std::ranges::count_if(p_.costs(), [](double c) { return c < 0.0; });
    return wanted > p_.num_columns() / 4;
  }

  // Those without a lower end, and of every row the cheapest for what they do.
  void choose() {
    constexpr std::ptrdiff_t kOfARow = 8;
    for (Index j = 0; j < p_.num_columns(); ++j)
      if (!std::isfinite(p_.lower(j))) take(j);
    std::vector<std::pair<double, Index>> rated;
    for (Index i = 0; i < p_.num_rows(); ++i) {
      rated.clear();
      for (const Index j : p_.rows().index(i))
        rated.emplace_back(p_.cost(j) / static_cast<double>(p_.columns().size(j)), j);
      const auto many = std::min(kOfARow, static_cast<std::ptrdiff_t>(rated.size()));
      std::partial_sort(rated.begin(), rated.begin() + many, rated.end());
      for (std::ptrdiff_t k = 0; k < many; ++k) take(rated[static_cast<std::size_t>(k)].second);
    }
    result_.work += 2 * p_.num_nonzeros();
  }

  // Columns count from their lower ends: those outside stand there.
  Simplex made() {
    Program part;
    std::vector<double> outside(at(p_.num_rows()), 0.0);
    for (Index j = 0; j < p_.num_columns(); ++j)
      if (std::isfinite(p_.lower(j)) && p_.lower(j) != 0.0)
        for (std::size_t k = 0; k < p_.columns().index(j).size(); ++k)
          outside[at(p_.columns().index(j)[k])] += p_.columns().value(j)[k] * p_.lower(j);
    for (Index i = 0; i < p_.num_rows(); ++i)
      (void)part.add_row(p_.row_lower(i) - outside[at(i)], p_.row_upper(i) - outside[at(i)], {});
    Simplex simplex(std::move(part));
    for (const Index j : columns_) add(simplex, j);
    return simplex;
  }
  void add(Simplex& simplex, Index j) const {
    std::vector<Entry> entries;
    for (std::size_t k = 0; k < p_.columns().index(j).size(); ++k)
      entries.push_back({p_.columns().index(j)[k], p_.columns().value(j)[k]});
    const bool ends = std::isfinite(p_.lower(j));
    (void)simplex.add_column(p_.cost(j), ends ? 0.0 : p_.lower(j),
                             ends ? p_.upper(j) - p_.lower(j) : p_.upper(j), entries);
  }

  // The columns that would lower the goal most; false: none would.
  bool bring_in_better(Simplex& part) {
    double largest = 0.0;
    for (Index j = 0; j < p_.num_columns(); ++j) largest = std::max(largest, std::abs(p_.cost(j)));
    return bring_in(part, part.row_duals(), 1.0, Tolerances{}.optimality * (1.0 + largest));
  }

  // A proof that no point meets the rows: y'(A x - r) = 0, but -y'A x + y'r is above 0, or below 0,
  // all over the bounds. The columns that pull it back most; false: none does.
  bool bring_in_possible(Simplex& part) {
    std::vector<double> y(part.farkas().begin(), part.farkas().end());
    double low = 0.0;
    const auto least = [](double d, double lower, double upper) {
      return d == 0.0 ? 0.0 : std::min(d * lower, d * upper);
    };
    const Program& q = part.program();
    for (Index i = 0; i < q.num_rows(); ++i) low += least(y[at(i)], q.row_lower(i), q.row_upper(i));
    for (Index j = 0; j < q.num_columns(); ++j)
      low += least(-product(q, j, y), q.lower(j), q.upper(j));
    if (!(low > 0.0))
      for (double& v : y) v = -v;
    return bring_in(part, y, 0.0, Tolerances{}.optimality);
  }

  static double product(const Program& program, Index j, std::span<const double> y) {
    double sum = 0.0;
    for (std::size_t k = 0; k < program.columns().index(j).size(); ++k)
      sum += program.columns().value(j)[k] * y[at(program.columns().index(j)[k])];
    return sum;
  }

  // Those whose cost, times `costs`, less y'A is most below 0.
  bool bring_in(Simplex& part, std::span<const double> y, double costs, double tolerance) {
    constexpr Index kFewest = 400;
    std::vector<std::pair<double, Index>> better;
    for (Index j = 0; j < p_.num_columns(); ++j) {
      if (in_[at(j)] || p_.lower(j) == p_.upper(j)) continue;
      const double d = costs * p_.cost(j) - product(p_, j, y);
      if (d < -tolerance) better.emplace_back(d, j);
    }
    result_.work += p_.num_nonzeros();
    const auto most = static_cast<std::size_t>(std::max(kFewest, p_.num_rows() / 2));
    if (better.size() > most)
      std::nth_element(better.begin(), better.begin() + static_cast<std::ptrdiff_t>(most),
                       better.end());
    better.resize(std::min(better.size(), most));
    for (const auto& [d, j] : better) {
      take(j);
      add(part, j);
    }
    return !better.empty();
  }

  void keep(const Simplex& part) {
    const Basis found = part.basis();
    result_.basis.columns.assign(at(p_.num_columns()), VariableStatus::at_lower);
    for (std::size_t k = 0; k < found.columns.size(); ++k)
      result_.basis.columns[at(columns_[k])] = found.columns[k];
    result_.basis.rows = found.rows;
  }

  const Program& p_;
  const SiftingOptions& options_;
  Stopwatch Stopwatch_;
  std::vector<char> in_;
  std::vector<Index> columns_;  // in the order of the part
  Sifted result_;
};

// Rows x <= M y, and others of two columns that are no equations: few of very many bind.
bool may_wait(const Program& program, Index i) {
  return program.rows().size(i) == 2 && program.row_lower(i) != program.row_upper(i);
}

class RowSifting {
 public:
  RowSifting(const Program& program, const SiftingOptions& options)
      : p_(program), options_(options), in_(at(program.num_rows()), 0) {}

  Sifted run() {
    constexpr int kMostRounds = 100;
    Program start;
    for (Index j = 0; j < p_.num_columns(); ++j)
      (void)start.add_column(p_.cost(j), p_.lower(j), p_.upper(j), {});
    Simplex part(std::move(start));
    part.set_seed(options_.seed);
    for (Index i = 0; i < p_.num_rows(); ++i)
      if (!may_wait(p_, i)) add(part, i);
    const SimplexOptions steer{.quick = true, .exact_pivots = 0, .interrupt = options_.interrupt};
    for (int round = 0; round < kMostRounds && 2 * rows_.size() < in_.size(); ++round) {
      const Report report = part.solve(steer);
      result_.pivots += report.pivots;
      if (report.status != Status::optimal) break;
      if (bring_in(part)) continue;
      keep(part);
      break;
    }
    result_.work += part.work().units();
    return std::move(result_);
  }

 private:
  void add(Simplex& part, Index i) {
    std::vector<Entry> entries;
    for (std::size_t k = 0; k < p_.rows().index(i).size(); ++k)
      entries.push_back({p_.rows().index(i)[k], p_.rows().value(i)[k]});
    (void)part.add_row(p_.row_lower(i), p_.row_upper(i), entries, p_.row_exact(i));
    in_[at(i)] = 1;
    rows_.push_back(i);
  }

  // The rows that the point breaks most; false: it breaks none.
  bool bring_in(Simplex& part) {
    const std::span<const double> x = part.column_values();
    std::vector<std::pair<double, Index>> broken;
    for (Index i = 0; i < p_.num_rows(); ++i) {
      if (in_[at(i)]) continue;
      double value = 0.0;
      for (std::size_t k = 0; k < p_.rows().index(i).size(); ++k)
        value += p_.rows().value(i)[k] * x[at(p_.rows().index(i)[k])];
      const double outside = std::max(p_.row_lower(i) - value, value - p_.row_upper(i));
      if (outside > Tolerances{}.integrality) broken.emplace_back(-outside, i);
    }
    result_.work += p_.num_nonzeros();
    std::sort(broken.begin(), broken.end());
    broken.resize(std::min(broken.size(), std::max<std::size_t>(1'000, rows_.size())));
    for (const auto& [by, i] : broken) add(part, i);
    return !broken.empty();
  }

  void keep(const Simplex& part) {
    const Basis found = part.basis();
    result_.basis.columns = found.columns;
    result_.basis.rows.assign(at(p_.num_rows()), VariableStatus::basic);
    for (std::size_t k = 0; k < rows_.size(); ++k) result_.basis.rows[at(rows_[k])] = found.rows[k];
  }

  const Program& p_;
  const SiftingOptions& options_;
  std::vector<char> in_;
  std::vector<Index> rows_;  // in the order of the part
  Sifted result_;
};

bool is_wide(const Program& program) {
  constexpr Index kLeastColumns = 4'000, kTimes = 4;
  return program.num_columns() >= kLeastColumns &&
         program.num_columns() / kTimes >= program.num_rows();
}

bool is_long(const Program& program) {
  constexpr Index kLeastRows = 4'000, kTimes = 4;
  Index waiting = 0;
  for (Index i = 0; i < program.num_rows(); ++i) waiting += may_wait(program, i) ? 1 : 0;
  return program.num_rows() >= kLeastRows && waiting / kTimes * (kTimes + 1) >= program.num_rows();
}

}  // namespace

Sifted sift(const Program& program, const SiftingOptions& options) {
  if (is_wide(program)) return ColumnSifting(program, options).run();
  if (is_long(program)) return RowSifting(program, options).run();
  return {};
}

}  // namespace kiteknot::lp
