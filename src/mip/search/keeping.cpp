// The search as it stands, to be kept; and from there on again.

#include <algorithm>
#include <unordered_map>
#include <unordered_set>

#include "mip/search/tree_search.hpp"

namespace kiteknot::mip {

// What workers found goes by here only once: it is gathered on the way.
void TreeSearch::gather_for_keeping(const NodeOutcome& outcome) {
  constexpr std::size_t kMostConflicts = 1'000;
  if (options_.keeper == nullptr && !shares()) return;
  kept_.rows.insert(kept_.rows.end(), outcome.rows.begin(), outcome.rows.end());
  kept_.conflicts.insert(kept_.conflicts.end(), outcome.conflicts.begin(), outcome.conflicts.end());
  if (kept_.conflicts.size() > 2 * kMostConflicts)
    kept_.conflicts.erase(kept_.conflicts.begin(),
                          kept_.conflicts.end() - static_cast<std::ptrdiff_t>(kMostConflicts));
  if (kept_.pseudo_costs.num_columns() == 0)
    kept_.pseudo_costs = PseudoCosts(worker_.problem().num_columns());
  kept_.pseudo_costs.learn_from(outcome.observations);
}

void TreeSearch::keep_if_due() {
  constexpr double kMostShare = 0.01;  // of the time
  if (options_.keeper == nullptr || (shares() && !options_.ranks->leads())) return;
  const double now = context_.clock.seconds();
  const Keeper& keeper = *options_.keeper;
  if (now < context_.kept_at + std::max(keeper.every, context_.keeping_took / kMostShare)) return;
  keeper.write(kept_state());
  if (ranks_.joined) {  // the next time more is known of the others
    options_.ranks->ask_states(ranks_.known);
    tell_state(ranks_.known);
  }
  context_.kept_at = context_.clock.seconds();
  context_.keeping_took = context_.kept_at - now;
}

KeptState TreeSearch::kept_state() {
  KeptState state;
  const Incumbents& known = context_.incumbents;
  if (known.any()) {
    state.plan = known.plan().plan;
    state.found_by = known.plan().by;
  }
  const Standing now = standing();
  state.best = now.best;
  state.bound = now.bound;
  state.open = now.open;
  state.counts = options_.given.counts_before;
  state.counts += context_.spent;
  state.counts += counts_;
  state.seconds = options_.given.seconds_before + context_.clock.seconds();
  if (root_ != nullptr && mark_ && !known.several()) state.tree = kept_tree();
  return state;
}

// Every node that is open or at work, with all that is above it. Nothing where some of them are on
// a disk that cannot be read.
std::optional<KeptTree> TreeSearch::kept_tree() {
  std::optional<std::vector<Node>> away = overflow_.all();
  if (!away || root_node_ == kNoNode) return std::nullopt;
  std::vector<NodeId> open;
  open_.for_each([&](NodeId id) { open.push_back(id); });
  for (const Seat& seat : seats_) {
    for (const NodeId id : {seat.next, seat.in_hand})
      if (id != kNoNode) open.push_back(id);
    for (const auto& ids : seat.given) open.insert(open.end(), ids.begin(), ids.end());
  }
  KeptTree tree = tree_over(std::move(open), std::move(*away));
  if (ranks_.joined && options_.ranks->leads()) add_others(tree);
  return tree;
}

// These nodes, with all above them; some come from the disk.
KeptTree TreeSearch::tree_over(std::vector<NodeId> open, std::vector<Node> away) const {
  std::sort(open.begin(), open.end());
  KeptTree tree;
  std::unordered_map<NodeId, std::int64_t> places;
  const auto place_of = [&](NodeId id) {
    std::vector<NodeId> way;
    for (; id != kNoNode && !places.contains(id); id = tree_[id].parent) way.push_back(id);
    for (; !way.empty(); way.pop_back()) {
      const Node& node = tree_[way.back()];
      places.emplace(way.back(), static_cast<std::int64_t>(tree.nodes.size()));
      tree.nodes.push_back({node.parent == kNoNode ? -1 : places.at(node.parent), node.number,
                            node.depth, false, node.bound, node.estimate, node.changes,
                            node.branched});
    }
  };
  place_of(root_node_);
  for (const NodeId id : open) {
    place_of(id);
    tree.nodes[static_cast<std::size_t>(places.at(id))].open = true;
  }
  for (Node& node : away)
    tree.nodes.push_back(
        {0, node.number, 1, true, node.bound, node.bound, std::move(node.changes), node.branched});
  std::unordered_set<std::int64_t> numbers;
  for (const KeptNode& node : tree.nodes) numbers.insert(node.number);
  tree.problem = *mark_;
  tree.root = *root_;
  for (const PooledRow& row : kept_.rows)
    if (row.scope < 0 || numbers.contains(row.scope)) tree.rows.push_back(row);
  tree.conflicts = kept_.conflicts;
  tree.pseudo_costs = kept_.pseudo_costs;
  tree.next_number = next_number_;
  tree.loose = bounds_.loose;
  tree.unresolved = bounds_.unresolved;
  tree.reason = reason_;
  tree.root_bound = root_report_.bound;
  tree.closed = closed_;
  return tree;
}

// Rows get names that no worker gives: bases that speak of the old ones are not there any more.
void TreeSearch::go_on_from(const KeptTree& tree) {
  constexpr RowName kKept = RowName{1} << 62U;
  std::vector<NodeId> ids;
  for (const KeptNode& kept : tree.nodes) {
    Node node;
    node.parent = kept.parent < 0 ? kNoNode : ids[static_cast<std::size_t>(kept.parent)];
    node.depth = kept.depth;
    node.number = kept.number;
    node.bound = kept.bound;
    node.estimate = kept.estimate;
    node.changes = kept.changes;
    node.branched = kept.branched;
    ids.push_back(tree_.add(std::move(node)));
    record_new(ids.back(), tree_[ids.back()].parent);
  }
  for (std::size_t k = 0; k < ids.size(); ++k)
    if (tree.nodes[k].open) open_.push(ids[k], tree_[ids[k]]);
  root_node_ = ids.front();
  root_ = std::make_shared<const RootFacts>(tree.root);
  SharedKnowledge& news = seats_[0].news;
  for (const PooledRow& row : tree.rows) {
    news.rows.push_back(row);
    news.rows.back().name = kKept + static_cast<RowName>(news.rows.size());
  }
  news.conflicts = tree.conflicts;
  next_number_ = tree.next_number;
  bounds_.loose = tree.loose;
  bounds_.unresolved = tree.unresolved;
  reason_ = tree.reason;
  closed_ = tree.closed;
  root_report_.bound = tree.root_bound;
  if (options_.keeper != nullptr || shares()) {
    kept_.rows = news.rows;
    kept_.conflicts = tree.conflicts;
    kept_.pseudo_costs = tree.pseudo_costs;
  }
}

}  // namespace kiteknot::mip
