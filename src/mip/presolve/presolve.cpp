#include "mip/presolve/presolve.hpp"

namespace kiteknot::mip {
namespace {

struct Reduction {
  std::string_view name;
  ReductionStrength keeps;
  void (*look)(PresolveModel&, const PresolveBudget&);
};

constexpr Reduction kReductions[] = {
    {"rows", ReductionStrength::all_plans, tighten_by_activity},
    {"rows of whole columns divided", ReductionStrength::all_plans, divide_by_gcd},
    {"equations of two", ReductionStrength::all_plans, solve_doubletons},
    {"slacks of equations", ReductionStrength::all_plans, free_column_singletons},
    {"columns that an equation keeps in", ReductionStrength::all_plans, substitute_implied_free},
    {"real columns that are whole", ReductionStrength::all_plans, find_implied_integers},
    {"whole differences", ReductionStrength::a_best_plan, find_whole_differences},
    {"columns that the goal fixes", ReductionStrength::all_best_plans, fix_dually},
    {"columns beside better ones", ReductionStrength::all_best_plans, fix_dominated_columns},
    {"equal columns", ReductionStrength::a_best_plan, join_duplicate_columns},
    {"weaker rows", ReductionStrength::all_plans, drop_dominated_rows},
    {"coefficients", ReductionStrength::all_plans, tighten_coefficients},
};
constexpr std::string_view kProbing = "probing", kCliques = "choices that exclude each other";

class Presolve {
 public:
  Presolve(const Problem& problem, ReductionStrength keeps, WorkCounter& work,
           std::string_view only)
      : problem_(problem), model_(problem), work_(work), keeps_(keeps), only_(only) {
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
      const std::int64_t before = model_.changes();
      book(kPart, kProbing,
           [&](const PresolveBudget& budget) { probe_columns(model_, budget, implied_); });
      joining_ = false;  // what was found is of single columns
      if (model_.changes() != before) rounds();
    }
    const std::int64_t before = model_.changes();
    book(std::size(kReductions) + 1, kCliques,
         [&](const PresolveBudget& budget) { merge_cliques(model_, budget, implied_); });
    if (model_.changes() != before) rounds();
    return finish();
  }

 private:
  template <class Look>
  void book(std::size_t part, std::string_view name, const Look& look) {
    if (!model_.possible() || (!only_.empty() && only_ != name)) return;
    Tally& tally = parts_[part].tally;
    const std::int64_t work = work_.units(), changes = model_.changes();
    const PresolveBudget budget{keeps_, work_, until_};
    if (budget.spent()) return;
    look(budget);
    ++tally.calls;
    tally.work += work_.units() - work;
    tally.steps += model_.changes() - changes;
  }

  // While a round changes more than a little.
  void rounds() {
    constexpr int kMost = 12;
    constexpr double kLittle = 0.01;
    const double size = static_cast<double>(problem_.num_rows() + problem_.num_columns());
    for (int round = 0; round < kMost; ++round) {
      const std::int64_t before = model_.changes();
      std::size_t part = 0;
      for (const Reduction& r : kReductions) {
        // One that can lose plans is asked where that may be; it looks at `keeps` for the rest.
        if (r.keeps >= keeps_ && (joining_ || r.look != join_duplicate_columns))
          book(part, r.name, [&](const PresolveBudget& budget) { r.look(model_, budget); });
        ++part;
      }
      const auto changes = static_cast<double>(model_.changes() - before);
      if (!model_.possible() || changes <= kLittle * size) return;
    }
  }

  Presolved finish() {
    Presolved p;
    p.possible = model_.possible();
    p.changes = model_.changes();
    p.parts = std::move(parts_);
    if (!p.possible) return p;
    p.left = std::move(model_).finish();
    const std::vector<Index>& place = p.left.place;
    for (const Implication& i : implied_) {
      const Index when = place[at(column_of(i.when))], column = place[at(i.column)];
      if (when >= 0 && column >= 0)
        p.implied.push_back({2 * when + (is_no(i.when) ? 1 : 0), column, i.upper, i.bound});
    }
    return p;
  }

  const Problem& problem_;
  PresolveModel model_;
  WorkCounter& work_;
  ReductionStrength keeps_;
  std::string_view only_;
  std::int64_t until_ = 0;
  bool joining_ = true;
  Implications implied_;
  std::vector<Presolved::Part> parts_;
};

}  // namespace

std::optional<Presolved> presolve(const Problem& problem, ReductionStrength keeps, bool probing,
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
