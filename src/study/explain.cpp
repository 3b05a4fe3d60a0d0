#include "kiteknot/explain.hpp"

#include <algorithm>
#include <set>

#include "kiteknot/solve.hpp"
#include "model/model_data.hpp"
#include "study/irreducible.hpp"
#include "study/loosen.hpp"
#include "study/time_left.hpp"
#include "study/tour_clash.hpp"

namespace kiteknot {
namespace {

bool has_plan(Outcome outcome) {
  return outcome == Outcome::optimal || outcome == Outcome::accepted ||
         outcome == Outcome::unproven;
}

class ClashFinder {
 public:
  ClashFinder(const Model& model, const SolveOptions& options) : model_(model), left_(options) {
    model_.forget_goals();
  }

  Clash run() {
    std::vector<RuleRow> all;
    const ModelData& m = model_.data();
    for (std::size_t r = 0; r < m.rules.size(); ++r)
      for (Index i = 0; i < m.rules[r]->index.count; ++i)
        if (!m.rules_off.contains(static_cast<Index>(r)) && !m.rules[r]->soft() &&
            !holds_always(m.rules[r]->conditions[static_cast<std::size_t>(i)]))
          all.push_back({static_cast<std::int32_t>(r), i});
    const Outcome outcome = solved(with_rows(all));
    if (outcome != Outcome::infeasible) {
      clash_.kind = has_plan(outcome) ? Clash::Kind::none : Clash::Kind::undecided;
      return std::move(clash_);
    }
    std::vector<RuleRow> proven = all;  // the smallest part so far that leaves nothing
    const auto clashes = [&](const std::vector<RuleRow>& rows) {
      const bool clash = !left_.over() && solved(with_rows(rows)) == Outcome::infeasible;
      if (clash && rows.size() < proven.size()) proven = rows;
      return clash;
    };
    if (!clashes({})) clash_.rows = irreducible(all, clashes);
    if (!left_.over()) find_limits();
    if (!left_.over()) verify();
    if (clash_.kind != Clash::Kind::found && left_.over()) settle_for(proven);
    if (clash_.kind == Clash::Kind::found) look_at_tours();
    return std::move(clash_);
  }

 private:
  static bool holds_always(const Condition& c) {
    return c.kind == Condition::Kind::all && c.parts.empty();
  }

  Model with_rows(const std::vector<RuleRow>& kept) const {
    Model m = model_;
    std::set<std::pair<std::int32_t, std::int32_t>> in;
    for (const RuleRow& row : kept) in.emplace(row.family, row.member);
    m.keep_rows([&](std::int32_t family, std::int32_t member) {
      return in.contains({family, member}) && !model_.data().rules_off.contains(family);
    });
    return m;
  }

  void look_at_tours() {
    for (const RuleRow& row : clash_.rows) {
      const RuleFamily& family = *model_.data().rules[static_cast<std::size_t>(row.family)];
      if (!family.is_tour()) continue;
      std::vector<RuleRow> others = clash_.rows;
      std::erase(others, row);
      for (std::string& text : why_no_tour(with_rows(others), *family.conditions[0].trips, left_))
        clash_.about_tours.push_back(std::move(text));
    }
  }

  // The time was over before a smaller part was found.
  void settle_for(const std::vector<RuleRow>& proven) {
    clash_.kind = Clash::Kind::found;
    clash_.rows = proven;
    clash_.limits.clear();
    clash_.limit_needed.clear();
    clash_.all_limits = true;
    clash_.row_needed.assign(proven.size(), 0);
  }

  Outcome solved(const Model& m) {
    if (left_.over()) return Outcome::undecided;
    ++clash_.solves;
    SolveOptions options = left_.options();
    // A whole decision without bounds can keep a search going for ever.
    constexpr std::int64_t kMostNodes = 5000;
    if (!m.data().dropped_limits.empty()) options.nodes = std::min(options.nodes, kMostNodes);
    const Result r = solve(m, options);
    clash_.work += r.search.work;
    return r.outcome;
  }

  // The limits of the decisions in the clashing rows, as far as they can be let go one by one.
  bool list_candidates() {
    const ModelData& m = model_.data();
    std::set<Index> in, held;
    const auto note = [&](const Expression& e, std::set<Index>& into) {
      for (const auto& t : e.terms()) into.insert(t.decision);
      for (const auto& t : e.factored())
        if (t.decision >= 0) into.insert(t.decision);
    };
    for (const RuleRow& row : clash_.rows) {
      const Condition& c = m.rules[static_cast<std::size_t>(row.family)]
                               ->conditions[static_cast<std::size_t>(row.member)];
      if (!is_linear(c)) return false;
      for (const Expression* e : {&c.body, &c.low, &c.high}) note(*e, in);
    }
    if (clash_.rows.empty())
      for (Index d = 0; d < m.num_decisions; ++d) in.insert(d);
    const std::vector<Rational> numbers = m.number_values();
    for (const Index d : in) {
      const Family& f = m.family_of(d);
      if (f.or_zero || !f.listed.empty()) return false;
      if (f.integer) candidates_.push_back({DecisionLimit::Which::whole, d});
    }
    for (const Index d : in) {
      const Family& f = m.family_of(d);
      const Index i = d - f.first;
      if (m.lower(f, i, numbers).is_finite())
        candidates_.push_back({DecisionLimit::Which::least, d});
      if (m.upper(f, i, numbers).is_finite())
        candidates_.push_back({DecisionLimit::Which::most, d});
    }
    constexpr std::size_t kMostCandidates = 1000;
    return candidates_.size() <= kMostCandidates;
  }

  Model with_limits(const std::vector<DecisionLimit>& kept) const {
    Model m = with_rows(clash_.rows);
    for (const DecisionLimit& l : candidates_) {
      if (std::find(kept.begin(), kept.end(), l) != kept.end()) continue;
      m.drop_limits(Decision{m.data().tag, l.decision}, l.which == DecisionLimit::Which::least,
                    l.which == DecisionLimit::Which::most, l.which == DecisionLimit::Which::whole);
    }
    return m;
  }

  void find_limits() {
    if (!list_candidates()) {
      clash_.all_limits = true;
      return;
    }
    const auto clashes = [&](const std::vector<DecisionLimit>& kept) {
      return !left_.over() && solved(with_limits(kept)) == Outcome::infeasible;
    };
    if (candidates_.empty() || clashes({})) return;  // the rules clash whatever the decisions are
    // Often wholeness has nothing to do with it: then it is let go in one step.
    std::vector<DecisionLimit> bounds;
    for (const DecisionLimit& l : candidates_)
      if (l.which != DecisionLimit::Which::whole) bounds.push_back(l);
    const bool without_wholeness = bounds.size() < candidates_.size() && clashes(bounds);
    clash_.limits = irreducible(without_wholeness ? bounds : candidates_, clashes);
  }

  // Together they leave nothing, and each is needed for that.
  void verify() {
    const bool limits = !clash_.all_limits;
    const auto outcome = [&](const std::vector<RuleRow>& rows,
                             const std::vector<DecisionLimit>& kept) {
      if (left_.over()) return Outcome::undecided;
      const std::vector<RuleRow> all = clash_.rows;
      clash_.rows = rows;
      Model m = limits ? with_limits(kept) : with_rows(rows);
      clash_.rows = all;
      return solved(m);
    };
    clash_.kind = outcome(clash_.rows, clash_.limits) == Outcome::infeasible
                      ? Clash::Kind::found
                      : Clash::Kind::undecided;
    const auto without = [](auto all, std::size_t k) {
      all.erase(all.begin() + static_cast<std::ptrdiff_t>(k));
      return all;
    };
    for (std::size_t k = 0; k < clash_.rows.size(); ++k)
      clash_.row_needed.push_back(has_plan(outcome(without(clash_.rows, k), clash_.limits)));
    for (std::size_t k = 0; k < clash_.limits.size(); ++k)
      clash_.limit_needed.push_back(has_plan(outcome(clash_.rows, without(clash_.limits, k))));
  }

  Model model_;
  TimeLeft left_;
  std::vector<DecisionLimit> candidates_;
  Clash clash_;
};

}  // namespace

Clash find_clash(const Model& model, const SolveOptions& options) {
  return ClashFinder(model, options).run();
}

namespace {

Clash::Kind left_to_clash(const Model& rest, const SolveOptions& options) {
  Model any = rest;
  any.forget_goals();
  const Outcome outcome = solve(any, options).outcome;
  return has_plan(outcome)                ? Clash::Kind::none
         : outcome == Outcome::infeasible ? Clash::Kind::found
                                          : Clash::Kind::undecided;
}

// The direction of an endless goal in whole steps for whole decisions, and what one step brings.
void tell_direction(Explanation& e, const Model& model, const Result& r) {
  const ModelData& m = model.data();
  Rational scale = 1;
  for (Index d = 0; d < m.num_decisions; ++d)
    if (m.whole(d))
      scale = Rational::lcm(scale, r.direction[static_cast<std::size_t>(d)].denominator());
  for (Index d = 0; d < m.num_decisions; ++d) {
    const Rational& step = r.direction[static_cast<std::size_t>(d)];
    if (!step.is_zero()) e.direction.emplace_back(d, step * scale);
  }
  if (m.goals.empty()) return;
  Collector collector(m, [&](const auto&) { return m.num_decisions; });
  for (const auto& t : collector.collect(m.first_goal().expression).terms)
    if (t.decision < m.num_decisions)
      e.goal_step += t.coefficient * scale * r.direction[static_cast<std::size_t>(t.decision)];
}

}  // namespace

Clashes find_clashes(const Model& model, std::size_t most, const SolveOptions& options) {
  Clashes all;
  Model rest = model;
  const TimeLeft left(options);
  while (all.found.size() < most) {
    if (!all.found.empty() && left.over()) {
      all.rest = Clash::Kind::undecided;
      return all;
    }
    Clash clash = find_clash(rest, left.all());
    all.rest = clash.kind;
    if (clash.kind != Clash::Kind::found) return all;
    rest.keep_rows([&](std::int32_t family, std::int32_t member) {
      return std::find(clash.rows.begin(), clash.rows.end(), RuleRow{family, member}) ==
             clash.rows.end();
    });
    all.found.push_back(std::move(clash));
    if (all.found.back().rows.empty()) return all;  // the decisions' limits alone clash
  }
  all.rest = left_to_clash(rest, left.all());
  return all;
}

Explanation explain(const Model& model, const LooseningOptions& options) {
  check_rule_names(model, options);  // wrong ones are told before any work
  Explanation e;
  const TimeLeft left(options.solve);
  e.clashes = find_clashes(model, 5, options.solve);
  if (!e.clashes.found.empty()) {
    e.outcome = Outcome::infeasible;
    LooseningOptions way_out = options;
    way_out.solve = left.all();
    e.loosening = cheapest_loosening(model, way_out);
    return e;
  }
  if (e.clashes.rest == Clash::Kind::undecided) return e;
  SolveOptions short_look =
      left.options();  // mostly a goal without an end is seen before branching
  short_look.nodes = 1;
  Result r = solve(model, short_look);
  if (r.outcome != Outcome::unbounded && r.relaxed.unbounded) r = solve(model, left.options());
  e.outcome = r.outcome == Outcome::unbounded ? r.outcome : Outcome::optimal;
  if (e.outcome == Outcome::unbounded && !r.direction.empty()) tell_direction(e, model, r);
  return e;
}

}  // namespace kiteknot
