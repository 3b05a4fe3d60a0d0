#include "mip/tree.hpp"

#include <algorithm>

namespace kiteknot::mip {
namespace {

bool later(const std::shared_ptr<Node>& a, const std::shared_ptr<Node>& b) {
  if (a->bound != b->bound) return a->bound > b->bound;
  if (a->depth != b->depth) return a->depth < b->depth;
  return a->number < b->number;
}

}  // namespace

std::vector<Change> Node::path() const {
  std::vector<const Node*> nodes;
  for (const Node* n = this; n != nullptr; n = n->parent.get()) nodes.push_back(n);
  std::vector<Change> all;
  for (std::size_t k = nodes.size(); k-- > 0;)
    all.insert(all.end(), nodes[k]->changes.begin(), nodes[k]->changes.end());
  return all;
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

}  // namespace kiteknot::mip
