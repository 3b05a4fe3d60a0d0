#include "mip/presolve/presolve.hpp"

namespace kiteknot::mip {
namespace {

struct Reduction {
  std::string_view name;
  Keeps keeps;
  void (*look)(Draft&, const Means&);
};

constexpr Reduction kReductions[] = {
    {"rows", Keeps::all_plans, look_at_rows},
    {"rows of whole columns divided", Keeps::all_plans, divide_rows},
    {"equations of two", Keeps::all_plans, solve_pairs},
    {"slacks of equations", Keeps::all_plans, free_slacks},
    {"columns that an equation keeps in", Keeps::all_plans, replace_free_columns},
    {"real columns that are whole", Keeps::all_plans, find_whole},
    {"columns that the goal fixes", Keeps::all_best_plans, fix_by_goal},
    {"columns beside better ones", Keeps::all_best_plans, fix_dominated},
    {"equal columns", Keeps::a_best_plan, join_equal_columns},
    {"weaker rows", Keeps::all_plans, drop_weaker_rows},
    {"coefficients", Keeps::all_plans, tighten_coefficients},
};
constexpr std::string_view kProbing = "probing", kCliques = "choices that exclude each other";

class Presolve {
 public:
  Presolve(const Problem& problem, Keeps keeps, WorkCounter& work, std::string_view only)
      : problem_(problem), draft_(problem), work_(work), keeps_(keeps), only_(only) {
    constexpr std::int64_t kLooks = 200;  // at everything there is
    const std::int64_t size = problem.rows().num_nonzeros() + problem.num_columns();
    until_ = work.units() + kLooks * size + 10'000;
    for (const Reduction& r : kReductions) parts_.push_back({r.name, {}});
    parts_.push_back({kProbing, {}});
    parts_.push_back({kCliques, {}});
  }

  Presolved run(bool probing) {
    rounds();
    if (probing) {
      constexpr std::size_t kPart = std::size(kReductions);
      const std::int64_t before = draft_.changes();
      book(kPart, kProbing, [&](const Means& means) { probe_draft(draft_, means, implied_); });
      joining_ = false;  // what was found is of single columns
      if (draft_.changes() != before) rounds();
    }
    const std::int64_t before = draft_.changes();
    book(std::size(kReductions) + 1, kCliques,
         [&](const Means& means) { merge_cliques(draft_, means, implied_); });
    if (draft_.changes() != before) rounds();
    return finish();
  }

 private:
  template <class Look>
  void book(std::size_t part, std::string_view name, const Look& look) {
    if (!draft_.possible() || (!only_.empty() && only_ != name)) return;
    Tally& tally = parts_[part].tally;
    const std::int64_t work = work_.units(), changes = draft_.changes();
    const Means means{keeps_, work_, until_};
    if (means.spent()) return;
    look(means);
    ++tally.calls;
    tally.work += work_.units() - work;
    tally.steps += draft_.changes() - changes;
  }

  // While a round changes more than a little.
  void rounds() {
    constexpr int kMost = 12;
    constexpr double kLittle = 0.01;
    const double size = static_cast<double>(problem_.num_rows() + problem_.num_columns());
    for (int round = 0; round < kMost; ++round) {
      const std::int64_t before = draft_.changes();
      std::size_t part = 0;
      for (const Reduction& r : kReductions) {
        // One that can lose plans is asked where that may be; it looks at `keeps` for the rest.
        if (r.keeps >= keeps_ && (joining_ || r.look != join_equal_columns))
          book(part, r.name, [&](const Means& means) { r.look(draft_, means); });
        ++part;
      }
      const auto changes = static_cast<double>(draft_.changes() - before);
      if (!draft_.possible() || changes <= kLittle * size) return;
    }
  }

  Presolved finish() {
    Presolved p;
    p.possible = draft_.possible();
    p.changes = draft_.changes();
    p.parts = std::move(parts_);
    if (!p.possible) return p;
    p.left = std::move(draft_).finish();
    const std::vector<Index>& place = p.left.place;
    for (const Implication& i : implied_) {
      const Index when = place[at(column_of(i.when))], column = place[at(i.column)];
      if (when >= 0 && column >= 0)
        p.implied.push_back({2 * when + (is_no(i.when) ? 1 : 0), column, i.upper, i.bound});
    }
    return p;
  }

  const Problem& problem_;
  Draft draft_;
  WorkCounter& work_;
  Keeps keeps_;
  std::string_view only_;
  std::int64_t until_ = 0;
  bool joining_ = true;
  Implications implied_;
  std::vector<Presolved::Part> parts_;
};

}  // namespace

std::optional<Presolved> presolve(const Problem& problem, Keeps keeps, bool probing,
                                  WorkCounter& work, std::string_view only) {
  if (!problem.cost_exact() && problem.known_costs().empty()) return std::nullopt;
  return Presolve(problem, keeps, work, only).run(probing);
}

std::vector<std::string_view> names_of_reductions() {
  std::vector<std::string_view> names;
  for (const Reduction& r : kReductions) names.push_back(r.name);
  names.push_back(kProbing);
  names.push_back(kCliques);
  return names;
}

}  // namespace kiteknot::mip
