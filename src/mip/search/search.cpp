#include "mip/search/search.hpp"

#include <new>

#include "mip/relaxation/ray.hpp"

namespace kiteknot::mip {

Search::Search(Problem problem, Judge judge, SearchOptions options, Listener* listener)
    : problem_(std::move(problem)),
      options_(std::move(options)),
      interrupt_(options_.budget.interrupt(context_.clock)) {
  context_.judge = std::move(judge);
  context_.listener = listener;
  context_.incumbents = Incumbents(options_.few);
  proven_ = options_.given.known_bound;
}

SearchResult sub_search(Problem problem, const Judge& judge, SearchOptions options) {
  return Search(std::move(problem), judge, std::move(options)).run();
}

SearchResult Search::run() {
  solve();
  keep();
  if (stage_ != nullptr) stage_->hand_over(result_);
  const bool whole = result_.outcome == Outcome::optimal || result_.outcome == Outcome::infeasible;
  const double surely = whole ? kInf : result_.bound;
  context_.tell_in_place(surely);
  context_.incumbents.hand_over(result_, surely);
  result_.counts = context_.spent;
  result_.counts.pivots += result_.counts.look_pivots;
  result_.history = std::move(context_.history);
  result_.seconds = context_.clock.seconds();
  return std::move(result_);
}

// However it ended: what was proven, and where it can go on.
void Search::keep() {
  if (options_.keeper == nullptr || (options_.ranks != nullptr && !options_.ranks->leads())) return;
  KeptState state;
  if (stage_ != nullptr) {
    state = stage_->kept_state();
  } else {
    if (context_.incumbents.any()) state.plan = context_.incumbents.plan().plan;
    state.counts = options_.given.counts_before;
    state.counts += context_.spent;
    state.seconds = options_.given.seconds_before + context_.clock.seconds();
  }
  state.bound = result_.bound;
  if (context_.incumbents.any()) state.best = context_.incumbents.plan().goal.to_double();
  state.finished = result_.outcome == Outcome::optimal || result_.outcome == Outcome::infeasible ||
                   result_.outcome == Outcome::unbounded;
  if (state.finished) state.open = 0;
  if (result_.outcome == Outcome::infeasible) state.bound = kInf;
  options_.keeper->write(state);
}

void Search::solve() {
  const bool has_integers = problem_.num_integers() > 0;
  stage_ = std::make_unique<TreeSearch>(std::move(problem_), Translation(), options_, context_,
                                        &sub_search);
  if (stage_->bounds_in_order()) stage_->take_given_plans();
  if (options_.given.known_bound == kInf && !context_.incumbents.any()) {
    result_.outcome = Outcome::infeasible;
    return;
  }
  if (stage_->open_root()) {
    if (options_.presolving.on && has_integers && !stage_->restored()) look_first();
    if (stage_ != nullptr && stage_->goes_on()) stage_->run();
  }
  if (stage_ == nullptr) return;
  stage_->conclude(result_);
  if (!result_.ray || stage_->as_it_came() || ray_is_confirmed()) return;
  result_.ray.reset();
  if (problem_.num_columns() == 0) {  // it is not there any more: its relaxation had an end
    result_.outcome = Outcome::unproven;
    result_.reason = "the goal has no end, but the direction could not be confirmed exactly";
    return;
  }
  // Rare: a direction is found again, over all columns.
  stage_->hand_over(result_);
  stage_ = std::make_unique<TreeSearch>(std::move(problem_), Translation(), options_, context_,
                                        &sub_search);
  if (stage_->open_root()) stage_->run();
  stage_->conclude(result_);
}

// The direction of a later stage, from the plan beside it: what conditions ask there is all that
// has to hold on the way.
bool Search::ray_is_confirmed() const {
  Problem there = problem_;
  const std::vector<Rational>& plan = context_.incumbents.plan().plan;
  for (Index c = 0; c < problem_.num_conditions(); ++c) {
    const Index j = problem_.column_of_condition(c);
    if (j < 0) continue;
    const double value = plan[at(j)].to_double();  // 0 or 1
    there.set_bounds(j, value, value);
  }
  return is_ray(there, *result_.ray);
}

// Most everyday problems are settled within a few nodes: less work than presolve and cuts are.
void Search::look_first() {
  constexpr std::int64_t kNodes = 100, kGrace = 600'000;  // units of work, beside the relaxation's
  opening_work_ = stage_->counts().work;
  stage_->run(TreeSearch::Look{
      options_.presolving.brief_look && options_.given.tree == nullptr ? kNodes : 0,
      opening_work_ + kGrace});
  const Problem& p = stage_->problem();
  const bool goal_is_known = p.cost_exact() || !p.known_costs().empty();
  if (!goal_is_known || !stage_->goes_on()) return;
  try {
    go_on_presolved();
  } catch (const std::bad_alloc&) {  // the best plan, and what is proven, are kept
    stage_.reset();
    conclude_without_tree(false);
    result_.stopped_by = StoppedBy::memory;
  }
}

}  // namespace kiteknot::mip
