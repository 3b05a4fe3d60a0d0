#include <algorithm>
#include <cmath>

#include "mip/presolve/reduction.hpp"
#include "mip/structures/conflict_graph.hpp"

namespace kiteknot::mip {
namespace {

// The literals of a row that says "at most one of them", in columns of the model; empty for others.
std::vector<Literal> at_most_one(const PresolveModel& model, const PresolveModel::Row& row) {
  std::vector<Literal> literals;
  if (row.firm || row.gone || row.entries.size() < 2) return literals;
  if (std::isfinite(row.lower) == std::isfinite(row.upper)) return literals;
  const double sign = std::isfinite(row.upper) ? 1.0 : -1.0;
  double limit = 1.0;
  for (const Entry& e : row.entries) {
    if (std::abs(e.value) != 1.0 || !model.column(e.index).binary()) return {};
    const bool no = sign * e.value < 0.0;
    limit -= no ? 1.0 : 0.0;
    literals.push_back(2 * e.index + (no ? 1 : 0));
  }
  if ((sign > 0.0 ? row.upper : -row.lower) != limit) return {};
  return literals;
}

PresolveModel::Row row_of(std::vector<Literal> clique) {
  std::sort(clique.begin(), clique.end());
  PresolveModel::Row row{{}, -kInf, 1.0};
  for (const Literal l : clique) {
    row.entries.push_back({column_of(l), is_no(l) ? -1.0 : 1.0});
    row.upper -= is_no(l) ? 1.0 : 0.0;
  }
  return row;
}

class Merger {
 public:
  Merger(PresolveModel& model, const PresolveBudget& budget, const ConflictGraph& conflict_graph,
         const PresolveModel::Left& now)
      : model_(model),
        budget_(budget),
        conflict_graph_(conflict_graph),
        now_(now),
        rows_of_(2 * at(model.num_columns())),
        count_(2 * at(model.num_columns()), 0),
        seen_(2 * at(model.num_columns()), 0) {}

  void run() {
    std::vector<Index> order;
    for (Index i = 0; i < model_.num_rows(); ++i) {
      literals_.push_back(at_most_one(model_, model_.row(i)));
      budget_.work.add(static_cast<std::int64_t>(model_.row(i).entries.size()) + 1);
      if (literals_.back().empty()) continue;
      order.push_back(i);
      for (const Literal l : literals_.back()) rows_of_[at(l)].push_back(i);
    }
    std::stable_sort(order.begin(), order.end(), [&](Index a, Index b) {
      return literals_[at(a)].size() > literals_[at(b)].size();
    });
    for (const Index i : order) {
      if (budget_.spent()) return;
      if (!model_.row(i).gone) grow(i);
    }
  }

 private:
  // Calls visit once for every literal that this one excludes, itself and its opposite left out.
  template <class Visit>
  void each_excluded(Literal l, const Visit& visit) {
    ++stamp_;
    const Index j = now_.place[at(column_of(l))];
    conflict_graph_.each_excluded(2 * j + (is_no(l) ? 1 : 0), [&](Literal there) {
      budget_.work.add(1);
      const Literal other = 2 * now_.kept[at(column_of(there))] + (is_no(there) ? 1 : 0);
      if (column_of(other) == column_of(l) || seen_[at(other)] == stamp_) return;
      seen_[at(other)] = stamp_;
      visit(other);
    });
  }

  void grow(Index i) {
    std::vector<Literal> clique = literals_[at(i)];
    const std::size_t own = clique.size();
    // Those that all members exclude; with every new member fewer.
    std::vector<Literal> touched;
    for (const Literal l : clique)
      each_excluded(l, [&](Literal other) {
        if (count_[at(other)]++ == 0) touched.push_back(other);
      });
    std::vector<Literal> candidates;
    for (const Literal l : touched)
      if (count_[at(l)] == own) candidates.push_back(l);
    for (const Literal l : touched) count_[at(l)] = 0;
    std::sort(candidates.begin(), candidates.end());
    while (!candidates.empty() && !budget_.spent()) {
      const Literal next = candidates.front();
      clique.push_back(next);
      std::vector<Literal> also;
      each_excluded(next, [&](Literal other) {
        count_[at(other)] = 1;
        touched.push_back(other);
      });
      for (const Literal l : candidates)
        if (count_[at(l)] == 1) also.push_back(l);
      for (const Literal l : touched) count_[at(l)] = 0;
      candidates = std::move(also);
    }
    take_in(i, std::move(clique));
  }

  // Rows whose literals are all in the clique go; the row itself becomes the clique.
  void take_in(Index i, std::vector<Literal> clique) {
    std::vector<Index> met;
    for (const Literal l : clique)
      for (const Index r : rows_of_[at(l)]) {
        budget_.work.add(1);
        if (model_.row(r).gone) continue;
        if (members_.size() < literals_.size()) members_.resize(literals_.size(), 0);
        if (members_[at(r)]++ == 0) met.push_back(r);
      }
    for (const Index r : met) {
      const bool all = members_[at(r)] == literals_[at(r)].size();
      members_[at(r)] = 0;
      if (all && r != i) model_.drop_row(r);
    }
    if (clique.size() == literals_[at(i)].size()) return;
    model_.drop_row(i);
    model_.add_row(row_of(std::move(clique)));
  }

  PresolveModel& model_;
  const PresolveBudget& budget_;
  const ConflictGraph& conflict_graph_;
  const PresolveModel::Left& now_;
  std::vector<std::vector<Literal>> literals_;  // by rows
  std::vector<std::vector<Index>> rows_of_;     // by literals
  std::vector<std::size_t> count_, seen_, members_;
  std::size_t stamp_ = 0;
};

}  // namespace

void merge_cliques(PresolveModel& model, const PresolveBudget& budget,
                   const Implications& implied) {
  const PresolveModel::Left now = model.left();
  const Domain domain(now.problem);
  Implications here;
  for (Implication i : implied) {
    const Index when = now.place[at(column_of(i.when))], column = now.place[at(i.column)];
    if (when < 0 || column < 0) continue;
    here.push_back({2 * when + (is_no(i.when) ? 1 : 0), column, i.upper, i.bound});
  }
  const ConflictGraph conflict_graph(domain, here, budget.work);
  Merger(model, budget, conflict_graph, now).run();
}

}  // namespace kiteknot::mip
