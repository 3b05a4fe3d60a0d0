// Jobs to agents with room: each job to one of them.

#include <fmt/format.h>

#include "base/text.hpp"
#include "methods/kinds/choices_and_others.hpp"
#include "methods/kinds/special_kind.hpp"
#include "structures/room_assignment.hpp"

namespace kiteknot::methods {
namespace {

struct Rooms final : SpecialKind {
  structures::RoomProblem problem;
  std::vector<Index> does;  // as RoomProblem::place; -1: not allowed

  [[nodiscard]] std::string told() const override {
    return fmt::format("an assignment of {} to {} with room", counted(at(problem.jobs), "job"),
                       counted(at(problem.agents), "agent"));
  }
};

std::unique_ptr<SpecialKind> find_room(const PlainProblem& p) {
  const auto s = choices_and_others(p);
  if (!s || s->choices.empty() || s->others.empty()) return {};
  auto found = std::make_unique<Rooms>();
  Rooms& k = *found;
  k.problem.agents = static_cast<Index>(s->others.size());
  k.problem.jobs = static_cast<Index>(s->choices.size());
  const std::size_t n = s->others.size() * s->choices.size();
  k.problem.cost.assign(n, HUGE_VAL);
  k.problem.use.assign(n, 0.0);
  k.does.assign(n, -1);
  for (std::size_t a = 0; a < s->others.size(); ++a) {
    const Index row = s->others[a];
    if (std::isfinite(p.low[at(row)]) || !std::isfinite(p.high[at(row)])) return {};
    k.problem.room.push_back(p.high[at(row)]);
    for (const WeightedNode& t : p.row(row)) {
      const Index job = s->choice[at(t.node)];
      if (job < 0 || t.weight <= 0.0) return {};
      const std::size_t place = k.problem.place(static_cast<Index>(a), job);
      if (k.does[place] >= 0) return {};
      k.does[place] = t.node;
      k.problem.cost[place] = p.cost[at(t.node)];
      k.problem.use[place] = t.weight;
    }
  }
  for (Index d = 0; d < p.num_decisions(); ++d)
    if (s->choice[at(d)] < 0 || s->other[at(d)] < 0) return {};
  return found;
}

void take_room(KindRun& r, const Rooms& k, const structures::RoomPlan& plan) {
  std::vector<double> values = r.nothing();
  for (Index j = 0; j < k.problem.jobs; ++j)
    values[at(k.does[k.problem.place(plan.agent_of[at(j)], j)])] = 1.0;
  r.take(plan.cost, std::move(values));
}

void jobs_by_regret(KindRun& r, const SpecialKind& kind) {
  const auto& k = static_cast<const Rooms&>(kind);
  const structures::RoomPlan plan = structures::by_regret(k.problem);
  if (!plan.agent_of.empty() && plan.over <= 0.0)
    take_room(r, k, plan);
  else if (!plan.agent_of.empty())
    r.note = "some job found no agent with room";
}

void jobs_exchanged(KindRun& r, const SpecialKind& kind) {
  const auto& k = static_cast<const Rooms&>(kind);
  constexpr std::int64_t kPasses = 20'000;
  structures::exchange(k.problem, structures::by_regret(k.problem), r.random,
                       {[&](const structures::RoomPlan& plan) { take_room(r, k, plan); },
                        [&](double entries) { return r.over(kPasses, entries); }});
}

}  // namespace

KindEntry room_kind() {
  return {"assignment of jobs to agents with room",
          find_room,
          {{"job regret", "of jobs to agents with room: first whose second best costs most",
            "Martello and Toth 1981", jobs_by_regret},
           {"job exchange",
            "of jobs to agents with room: shifts and swaps, too much paid for at rates that follow",
            "Lourenco, Martin and Stutzle 2003; Yagiura, Yamaguchi and Ibaraki 1998",
            jobs_exchanged, true}},
          jobs_exchanged,
          "exchanges of jobs"};
}

}  // namespace kiteknot::methods
