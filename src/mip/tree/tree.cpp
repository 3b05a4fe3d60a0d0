#include "mip/tree/tree.hpp"

#include <algorithm>

#include "base/check.hpp"

namespace kiteknot::mip {
namespace {

bool later(const std::shared_ptr<Node>& a, const std::shared_ptr<Node>& b) {
  if (a->bound != b->bound) return a->bound > b->bound;
  if (a->depth != b->depth) return a->depth < b->depth;
  return a->number < b->number;
}

}  // namespace

Node::~Node() {
  --*alive_;
  std::shared_ptr<Node> next = std::move(parent);
  while (next && next.use_count() == 1) next = std::shared_ptr<Node>(std::move(next->parent));
}

void OpenNodes::push(std::shared_ptr<Node> node) {
  heap_.push_back(std::move(node));
  std::push_heap(heap_.begin(), heap_.end(), later);
}

std::shared_ptr<Node> OpenNodes::pop() {
  std::pop_heap(heap_.begin(), heap_.end(), later);
  std::shared_ptr<Node> node = std::move(heap_.back());
  heap_.pop_back();
  return node;
}

void OpenNodes::drop_bases() {
  for (const auto& node : heap_) node->basis.reset();
}

void OpenNodes::check_invariants() const {
  KITEKNOT_CHECK(std::is_heap(heap_.begin(), heap_.end(), later), "the best node comes first");
}

void Way::check_invariants() const {
  for (std::size_t k = 0; k < stops_.size(); ++k) {
    KITEKNOT_CHECK(stops_[k].node->depth == static_cast<int>(k), "stops stand at their depth");
    if (k == 0) continue;
    KITEKNOT_CHECK(stops_[k].node->parent == stops_[k - 1].node, "a stop follows its parent");
    KITEKNOT_CHECK(stops_[k - 1].mark <= stops_[k].mark, "the trail grows on the way");
  }
}

void Way::leave(std::shared_ptr<Node> node, std::size_t mark) {
  stops_.resize(static_cast<std::size_t>(node->depth));
  stops_.push_back({std::move(node), mark});
}

bool Way::passes(std::int64_t number) const {
  return std::any_of(stops_.begin(), stops_.end(),
                     [&](const Stop& s) { return s.node->number == number; });
}

bool Way::go_to(const std::shared_ptr<Node>& node, std::size_t root_mark, Domain& domain) {
  const auto on_the_way = [&](const Node& n) {
    const auto depth = static_cast<std::size_t>(n.depth);
    return depth < stops_.size() && stops_[depth].node.get() == &n;
  };
  std::vector<std::shared_ptr<Node>> ahead = {node};
  std::shared_ptr<Node> from = node->parent;
  for (; from && !on_the_way(*from); from = from->parent) ahead.push_back(from);
  stops_.resize(from ? static_cast<std::size_t>(from->depth) + 1 : 0);
  domain.undo_to(from ? stops_.back().mark : root_mark);
  while (!ahead.empty()) {
    const std::shared_ptr<Node> next = std::move(ahead.back());
    ahead.pop_back();
    for (const Change& c : next->changes)
      if (!domain.apply(c)) return false;
    if (!ahead.empty()) leave(next, domain.mark());
  }
  return true;
}

}  // namespace kiteknot::mip
