#include "mip/parallel/kept_tree.hpp"

#include <algorithm>

#include "base/pack.hpp"

namespace kiteknot {

template <class Archive>
void archive(Archive& a, Interval& i) {
  a(i.low, i.high);
}

namespace lp {
template <class Archive>
void archive(Archive& a, Entry& e) {
  a(e.index, e.value);
}
template <class Archive>
void archive(Archive& a, Exact& e) {
  a(e.low_as, e.high_as, e.low, e.high, e.values);
}
}  // namespace lp

namespace mip {

template <class Archive>
void archive(Archive& a, Change& c) {
  a(c.what, c.index, c.value);
  if constexpr (Archive::kReads)
    if (c.what > Change::What::condition) throw DamagedBytes();
}
template <class Archive>
void archive(Archive& a, Branched& b) {
  a(b.column, b.up, b.distance, b.parent_goal);
}
template <class Archive>
void archive(Archive& a, KeptNode& n) {
  a(n.parent, n.number, n.depth, n.open, n.bound, n.estimate, n.changes, n.branched);
}
template <class Archive>
void archive(Archive& a, CertainCosts& c) {
  a(c.reduced, c.hold_to);
}
template <class Archive>
void archive(Archive& a, RootFacts& r) {
  a(r.bound, r.costs, r.lower, r.upper, r.changes, r.cut_by_paths);
}
template <class Archive>
void archive(Archive& a, LinearRow& r) {
  a(r.entries, r.lower, r.upper, r.exact, r.known, r.local);
}
template <class Archive>
void archive(Archive& a, PooledRow& r) {
  a(r.name, r.row, r.scope, r.implied);
}
template <class Archive>
void archive(Archive& a, Conflict& c) {
  a(c.bounds);
}
template <class Archive>
void archive(Archive& a, KeptTree& t) {
  a(t.problem, t.nodes, t.root, t.rows, t.conflicts, t.pseudo_costs, t.next_number, t.loose,
    t.unresolved, t.reason, t.root_bound);
  for (std::int64_t& count : t.closed) a(count);
}
template <class Archive>
void archive(Archive& a, KeptState& s) {
  a(s.plan, s.found_by, s.best, s.finished, s.bound, s.counts, s.seconds, s.open, s.tree);
}

namespace {

// What points at nothing is found here, and nowhere later.
void need_in_order(const KeptTree& tree) {
  if (tree.nodes.empty()) throw DamagedBytes();
  for (std::size_t k = 0; k < tree.nodes.size(); ++k) {
    const KeptNode& node = tree.nodes[k];
    const auto place = static_cast<std::int64_t>(k);
    if (node.parent >= place || node.parent < (k == 0 ? -1 : 0)) throw DamagedBytes();
    if (node.parent >= 0 &&
        node.depth != tree.nodes[static_cast<std::size_t>(node.parent)].depth + 1)
      throw DamagedBytes();
  }
}

}  // namespace

void join(KeptTree& tree, const KeptTree& other) {
  std::vector<std::int64_t> places;
  for (const KeptNode& node : other.nodes) {
    if (node.parent < 0) {
      places.push_back(0);
      continue;
    }
    places.push_back(static_cast<std::int64_t>(tree.nodes.size()));
    tree.nodes.push_back(node);
    tree.nodes.back().parent = places[static_cast<std::size_t>(node.parent)];
  }
  tree.rows.insert(tree.rows.end(), other.rows.begin(), other.rows.end());
  tree.conflicts.insert(tree.conflicts.end(), other.conflicts.begin(), other.conflicts.end());
  tree.next_number = std::max(tree.next_number, other.next_number);
  tree.loose = std::min(tree.loose, other.loose);
  tree.unresolved = std::min(tree.unresolved, other.unresolved);
  if (tree.reason.empty()) tree.reason = other.reason;
  for (std::size_t k = 0; k < tree.closed.size(); ++k) tree.closed[k] += other.closed[k];
}

std::string packed(const KeptTree& tree) {
  Packer packer;
  packer(tree);
  return packer.take();
}

KeptTree unpacked_tree(std::string_view bytes) {
  Unpacker unpacker(bytes);
  KeptTree tree;
  unpacker(tree);
  if (!unpacker.at_end()) throw DamagedBytes();
  need_in_order(tree);
  return tree;
}

std::string packed(const KeptState& state) {
  Packer packer;
  packer(state);
  return packer.take();
}

KeptState unpacked(std::string_view bytes) {
  Unpacker unpacker(bytes);
  KeptState state;
  unpacker(state);
  if (!unpacker.at_end()) throw DamagedBytes();
  if (state.tree) need_in_order(*state.tree);
  return state;
}

}  // namespace mip
}  // namespace kiteknot
