#include "methods/search_tree.hpp"

#include <cmath>

#include <fmt/format.h>

#include "base/text.hpp"

namespace kiteknot {
namespace {

using mip::Change;

// "run[sled race] is 0", "pack[cord drum] at least 2", "a condition of fits holds"
std::string told(Change c, const Lowering& lowering, const std::vector<Index>& conditions,
                 const ModelData& m) {
  Index column = c.index;
  if (c.what == Change::What::condition) {
    column = conditions[static_cast<std::size_t>(c.index)];
    if (column < 0) return c.value > 0.5 ? "a condition holds" : "a condition fails";
    c.what = c.value > 0.5 ? Change::What::lower : Change::What::upper;
  }
  const bool lower = c.what == Change::What::lower;
  if (column >= m.num_decisions) {
    const std::string of = lowering.helps(column);
    const std::string what = of.empty() ? "a condition" : "a condition of " + of;
    if (c.value == (lower ? 1.0 : 0.0)) return what + (lower ? " holds" : " fails");
    return fmt::format("a helper of {} {} {}", of, lower ? "at least" : "at most", figure(c.value));
  }
  const std::string name = m.decision_name(column);
  if (m.family_of(column).binary) return fmt::format("{} is {}", name, lower ? 1 : 0);
  return fmt::format("{} {} {}", name, lower ? "at least" : "at most", figure(c.value));
}

std::optional<double> user(double value, const Lowering& lowering) {
  if (!std::isfinite(value)) return std::nullopt;
  return lowering.to_user(value);
}

}  // namespace

std::vector<SearchNode> tree_of(const mip::SearchResult& found, const Lowering& lowering,
                                const std::vector<Index>& conditions, const ModelData& m) {
  std::vector<SearchNode> out;
  for (const mip::NodeRecord& r : found.tree) {
    SearchNode node;
    node.parent = r.parent;
    std::vector<std::string> parts;
    for (const Change& c : r.changes) parts.push_back(told(c, lowering, conditions, m));
    node.decided = listed(parts, 3);
    node.bound = user(r.bound, lowering);
    node.look = r.look;
    node.divided = r.divided;
    if (!r.divided && r.closed != mip::ClosedBy::none) node.closed = mip::name_of(r.closed);
    // What was not looked at before the proof was there cannot beat the best plan.
    if (!r.divided && node.closed.empty() && found.outcome == Outcome::optimal)
      node.closed = "bound";
    node.best = user(r.best, lowering);
    if (r.plan) node.plan = user(*r.plan, lowering);
    node.left_out = r.left_out;
    if (r.left_out_looks > 0) node.left_out_bound = user(r.left_out_bound, lowering);
    out.push_back(std::move(node));
  }
  return out;
}

}  // namespace kiteknot
