#include "report/drawing/search_rows.hpp"

#include <algorithm>

#include <fmt/format.h>

#include "base/at.hpp"
#include "base/text.hpp"

namespace kiteknot::report {
namespace {

class Outline {
 public:
  Outline(const Result& result, std::size_t most)
      : tree_(result.search.tree),
        most_(most),
        parts_(tree_.size()),
        shown_(tree_.size(), 0),
        way_(tree_.size(), 0),
        maximize_(!result.goals.empty() && result.goals[0].sense == Sense::maximize) {
    for (std::size_t k = 1; k < tree_.size(); ++k)
      if (tree_[k].parent >= 0) parts_[at(tree_[k].parent)].push_back(k);
    const auto when = [&](std::size_t k) { return tree_[k].look == 0 ? INT64_MAX : tree_[k].look; };
    for (auto& parts : parts_)
      std::stable_sort(parts.begin(), parts.end(),
                       [&](std::size_t a, std::size_t b) { return when(a) < when(b); });
  }

  std::vector<SearchRow> run() {
    if (tree_.empty()) return {};
    choose();
    add(0);
    return std::move(rows_);
  }

 private:
  [[nodiscard]] bool better(double a, double b) const { return maximize_ ? a > b : a < b; }

  void choose() {
    std::optional<std::size_t> best;
    for (std::size_t k = 0; k < tree_.size(); ++k)
      if (tree_[k].plan && (!best || better(*tree_[k].plan, *tree_[*best].plan))) best = k;
    show(0);
    if (best)
      for (auto k = static_cast<std::int64_t>(*best); k >= 0; k = tree_[at(k)].parent) {
        way_[at(k)] = 1;
        show(at(k));
      }
    // Level by level, all parts of a branch together.
    std::vector<std::size_t> level = {0};
    while (!level.empty()) {
      std::vector<std::size_t> next;
      for (const std::size_t k : level) {
        std::size_t fresh = 0;
        for (const std::size_t part : parts_[k]) fresh += shown_[part] == 0;
        const bool fits = count_ + fresh <= most_;
        for (const std::size_t part : parts_[k]) {
          if (fits) show(part);
          if (shown_[part] != 0) next.push_back(part);
        }
      }
      level = std::move(next);
    }
  }

  void show(std::size_t k) {
    if (shown_[k] == 0) ++count_;
    shown_[k] = 1;
  }

  // Rows in the order of an outline; in a loop, as trees may be deep.
  void add(std::size_t root) {
    std::vector<std::pair<std::size_t, int>> stack = {{root, 0}};
    while (!stack.empty()) {
      const auto [k, depth] = stack.back();
      stack.pop_back();
      SearchRow row;
      row.node = k;
      row.depth = depth;
      row.on_way = way_[k] != 0;
      count_below(row);
      rows_.push_back(row);
      for (std::size_t p = parts_[k].size(); p-- > 0;)
        if (shown_[parts_[k][p]] != 0) stack.emplace_back(parts_[k][p], depth + 1);
    }
  }

  void take(SearchRow& row, const std::optional<double>& bound) const {
    if (bound && (!row.none || better(*bound, *row.none))) row.none = bound;
  }

  void count_below(SearchRow& row) const {
    row.more = tree_[row.node].left_out;
    take(row, tree_[row.node].left_out_bound);
    std::vector<std::size_t> stack;
    for (const std::size_t part : parts_[row.node])
      if (shown_[part] == 0) stack.push_back(part);
    while (!stack.empty()) {
      const std::size_t k = stack.back();
      stack.pop_back();
      row.more += 1 + tree_[k].left_out;
      take(row, tree_[k].bound);
      stack.insert(stack.end(), parts_[k].begin(), parts_[k].end());
    }
  }

  const std::vector<SearchNode>& tree_;
  std::size_t most_, count_ = 0;
  std::vector<std::vector<std::size_t>> parts_;
  std::vector<char> shown_, way_;
  bool maximize_;
  std::vector<SearchRow> rows_;
};

}  // namespace

std::vector<SearchRow> search_rows(const Result& result, std::size_t most) {
  return Outline(result, most).run();
}

std::string how_it_ended(const SearchNode& n) {
  const std::string plan = n.plan ? figure(*n.plan) : "";
  if (n.divided) return n.plan ? "a plan with " + plan + " was found here" : "";
  if (n.closed == "bound" && n.plan) return "whole: " + plan;
  if (n.closed == "bound") return n.best ? "cannot beat " + figure(*n.best) : "no better plan";
  if (n.closed == "conflict" || n.closed == "relaxation" || n.closed == "children") {
    if (n.plan) return "whole: " + plan;
    return n.best ? "no plan better than " + figure(*n.best) : "no plan";
  }
  if (n.closed == "remainder")
    return n.plan ? "looked through: " + plan : "settled by looking through";
  if (n.closed == "point") return n.plan ? "whole: " + plan : "its one plan was looked at";
  if (n.closed == "nearly") return "within the gap of the proof";
  if (n.closed == "unresolved") return "not settled";
  if (n.plan) return "a plan with " + plan + "; left open";
  return "left open";
}

}  // namespace kiteknot::report
