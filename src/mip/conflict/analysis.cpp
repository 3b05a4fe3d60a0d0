#include "mip/conflict/analysis.hpp"

#include <algorithm>
#include <cmath>

#include "lp/proof.hpp"

namespace kiteknot::mip {

void Analysis::begin(TrailPosition root, std::span<const TrailPosition> marks, WorkCounter& work) {
  marks_ = marks;
  work_ = &work;
  work.add(static_cast<std::int64_t>(domain_.mark() - root));
  decisions_.clear();
  first_orbit_ = kFromTheStart;
  for (TrailPosition p = root; p < domain_.mark(); ++p) {
    const Reason::By by = domain_.trail()[p].reason.by;
    if (by == Reason::By::orbit && first_orbit_ == kFromTheStart) first_orbit_ = p;
    if (by == Reason::By::decision) decisions_.push_back(p);
  }
  history_.read(domain_, root);
}

// How many branchings of the way came before the place.
std::size_t Analysis::level(TrailPosition p) const {
  return static_cast<std::size_t>(std::upper_bound(marks_.begin(), marks_.end(), p) -
                                  marks_.begin());
}

void Analysis::add_decisions(TrailPosition before) {
  for (const TrailPosition p : decisions_)
    if (p < before) why_.push_back(p);
}

// What constraints say of their conclusions goes into `why_`.
class Analysis::Before final : public Explanation {
 public:
  Before(Analysis& analysis, TrailPosition place) : analysis_(analysis), place_(place) {}
  bool needs(const Change& bound) override { return analysis_.explain_known(bound, place_); }
  bool needs_row(const RowView& row, const Change* concluded) override {
    return analysis_.explain_row(row, place_, concluded);
  }
  double bound(Index column, bool upper) const override {
    return analysis_.history_.bound(column, upper, place_);
  }

 private:
  Analysis& analysis_;
  TrailPosition place_;
};

bool Analysis::explain_constraint(const Reason& reason, TrailPosition before,
                                  const Change* concluded) {
  const Problem& problem = domain_.problem();
  Before why(*this, before);
  return problem.kinds().all()[reason.kind]->explain(problem, reason.place, concluded, why);
}

std::optional<RowView> Analysis::pool_row(const Reason& reason) const {
  if (reason.by == Reason::By::generated_row && pool_.holds_everywhere(reason.place))
    return pool_.view(reason.place);
  return std::nullopt;
}

// The bounds before the place with which the row left nothing, or nothing beyond the bound that was
// concluded.
bool Analysis::explain_row(const RowView& row, TrailPosition before, const Change* concluded) {
  work_->add(2 * static_cast<std::int64_t>(row.index.size()));
  const auto explains = [&](double sign, double limit) {
    if (!std::isfinite(limit)) return false;
    terms_.clear();
    double others = -limit;
    bool strict = false;  // beyond a real column's bound lies whatever is above it
    for (std::size_t k = 0; k < row.index.size(); ++k) {
      if (row.value[k] == 0.0) continue;
      const Interval a = coefficient(sign * row.value[k], row.exact);
      const Index j = row.index[k];
      if (concluded == nullptr || j != concluded->index) {
        terms_.push_back({j, a});
        continue;
      }
      const bool upper = concluded->what == Change::What::upper;
      if (upper != (a.low > 0.0)) return false;  // this side says nothing of that bound
      const Change out = beyond(domain_.problem(), *concluded);
      others = add_down(others, times(out.value, a).low);
      strict = !domain_.problem().integer(j);
    }
    const auto still = [&](double least) {
      const double sum = add_down(least, others);
      return strict ? sum >= 0.0 : sum > 0.0;
    };
    return explainer_.least_stays(terms_, before, still, why_);
  };
  return explains(1.0, row.upper) || explains(-1.0, -row.lower);
}

// The first step that made the bound hold; nothing to add where it has held from the start.
bool Analysis::explain_known(const Change& bound, TrailPosition before) {
  const TrailPosition p = history_.first_saying(bound, before);
  if (p == before) return false;
  if (p != kFromTheStart) why_.push_back(p);
  return true;
}

// A condition moves right after its column: the step of that.
std::optional<TrailPosition> Analysis::twin(TrailPosition p) const {
  const Change& c = history_.step(p).change;
  if (c.what != Change::What::condition || p == history_.from()) return std::nullopt;
  const Change& other = history_.step(p - 1).change;
  if (other.what == Change::What::condition ||
      other.index != domain_.problem().column_of_condition(c.index) ||
      (other.what == Change::What::lower) != (c.value == 1.0))
    return std::nullopt;
  return p - 1;
}

// Adds what the step follows from.
bool Analysis::explain(TrailPosition p) {
  const Domain::Step& step = history_.step(p);
  const Change& c = step.change;
  const Problem& problem = domain_.problem();
  if (const auto column = twin(p)) {
    why_.push_back(*column);
    return true;
  }
  switch (step.reason.by) {
    case Reason::By::condition:
      return explain_known(
          {Change::What::condition, step.reason.place, c.what == Change::What::lower ? 1.0 : 0.0},
          p);
    case Reason::By::constraint:
      return explain_constraint(step.reason, p, &c);
    case Reason::By::generated_row:
      if (c.what == Change::What::condition) return false;
      if (const auto row = pool_row(step.reason)) return explain_row(*row, p, &c);
      return false;
    case Reason::By::conflict: {
      const Conflict* conflict = learned_.find(step.reason.place);
      if (conflict == nullptr) return false;
      work_->add(static_cast<std::int64_t>(conflict->bounds.size()));
      for (const Change& bound : conflict->bounds) {
        const Change out = beyond(problem, bound);
        if (out.what == c.what && out.index == c.index) continue;
        if (!explain_known(bound, p)) return false;
      }
      return true;
    }
    default:
      return false;
  }
}

std::optional<Conflict> Analysis::of(const Reason& reason) {
  why_.clear();
  const TrailPosition end = domain_.mark();
  if (reason.by == Reason::By::conflict) {
    const Conflict* conflict = learned_.find(reason.place);
    if (conflict == nullptr) return std::nullopt;
    for (const Change& bound : conflict->bounds)
      if (!explain_known(bound, end)) return std::nullopt;
    return resolve();
  }
  if (reason.by == Reason::By::constraint) {
    if (!explain_constraint(reason, end, nullptr)) return std::nullopt;
    return resolve();
  }
  const auto row = pool_row(reason);
  if (!row || !explain_row(*row, end, nullptr)) return std::nullopt;
  return resolve();
}

std::optional<Conflict> Analysis::of(Relaxation& relaxation, const std::optional<Cutoff>& cutoff) {
  lp::Simplex& simplex = relaxation.simplex();
  if (cutoff) {
    std::vector<double> y = simplex.row_duals();
    return of_sum(y, relaxation, cutoff);
  }
  for (const double sign : {1.0, -1.0}) {  // a proof may be told either way round
    std::vector<double> y(simplex.farkas().begin(), simplex.farkas().end());
    if (y.empty()) return std::nullopt;
    for (double& v : y) v *= sign;
    if (auto conflict = of_sum(y, relaxation, cutoff)) return conflict;
  }
  return std::nullopt;
}

std::optional<Conflict> Analysis::of_sum(std::span<double> multipliers,
                                         const Relaxation& relaxation,
                                         const std::optional<Cutoff>& cutoff) {
  const lp::Program& program = relaxation.simplex().program();
  const Problem& problem = domain_.problem();
  if (pool_.any_local())
    for (Index i = 0; i < program.num_rows(); ++i)
      if (multipliers[at(i)] != 0.0 && pool_.row_is_local(i)) return std::nullopt;
  work_->add(program.num_nonzeros() + program.num_columns());
  const double constant = lp::proof_sum(program, multipliers, cutoff.has_value(), sums_);
  why_.clear();
  Before here(*this, domain_.mark());
  if (!relaxation.explain_sum(multipliers, here)) return std::nullopt;
  terms_.clear();
  for (Index j = 0; j < problem.num_columns(); ++j) {
    const Interval a = sums_[at(j)];
    if (a.low == 0.0 && a.high == 0.0) continue;
    const double unit = relaxation.unit(j);
    terms_.push_back({j, {a.low / unit, a.high / unit}});
  }
  const auto still = [&](double least) {
    const double sum = add_down(constant, least);
    return cutoff ? cutoff->closes(sum) : sum > 0.0;
  };
  if (!explainer_.least_stays(terms_, domain_.mark(), still, why_)) return std::nullopt;
  return resolve();
}

std::optional<Conflict> Analysis::resolve() {
  constexpr std::size_t kLongest = 40;  // bounds; longer ones hardly ever say anything
  // Thousands of steps that follow from one row of thousands of columns: that takes longer than the
  // node, and hardly ever ends at a few bounds.
  constexpr std::int64_t kMostWork = 4'000'000;
  const std::int64_t most = work_->units() + kMostWork;
  std::priority_queue<TrailPosition> open;
  std::vector<char> seen(history_.end() - history_.from(), 0);
  const auto take_why = [&] {
    for (const TrailPosition p : why_) {
      char& known = seen[p - history_.from()];
      if (!known) open.push(p);
      known = 1;
    }
    why_.clear();
  };
  take_why();
  if (open.empty()) return std::nullopt;
  const std::size_t deepest = level(open.top());
  std::vector<TrailPosition> result;
  while (!open.empty()) {
    if (work_->units() > most || work_->interrupted()) return std::nullopt;
    const TrailPosition p = open.top();
    open.pop();
    const Domain::Step& step = history_.step(p);
    const bool real = step.change.what != Change::What::condition &&
                      !domain_.problem().integer(step.change.index);
    const bool sole = open.empty() || level(open.top()) < deepest;
    if (!twin(p) &&
        (step.reason.by == Reason::By::decision || (!real && (level(p) < deepest || sole)))) {
      result.push_back(p);
      if (result.size() > kLongest) return std::nullopt;
      continue;
    }
    if (!explain(p)) {
      if (p >= first_orbit_) return std::nullopt;
      why_.clear();
      add_decisions(p);
    }
    take_why();
  }
  // Of two bounds of one side the later one says both; result goes from the last place to the
  // first.
  Conflict conflict;
  std::vector<History::Key> keys;
  for (const TrailPosition p : result) {
    const Change& c = history_.step(p).change;
    if (std::find(keys.begin(), keys.end(), history_.key(c)) != keys.end()) continue;
    keys.push_back(history_.key(c));
    conflict.bounds.push_back(c);
  }
  return conflict;
}

}  // namespace kiteknot::mip
