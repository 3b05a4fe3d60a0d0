// The tree with other processes: each searches its own part of one tree, gives nodes away where it
// is told to, and takes what others give (parallel/ranks.hpp). Every rank has solved the relaxation
// as it was stated by itself; the root is divided by rank 0 alone, and what it found out goes with
// the first nodes.

#include <algorithm>

#include "mip/search/tree_search.hpp"

namespace kiteknot::mip {
namespace {

// Of nodes and of rows, so that no two ranks give the same.
constexpr std::int64_t kNumbersEach = std::int64_t{1} << 40;
constexpr RowName kFromOthers = RowName{1} << 61U;

}  // namespace

void TreeSearch::join_ranks() {
  Ranks& ranks = *options_.ranks;
  if (!mark_ || context_.incumbents.several()) return;
  ranks_.joined = true;
  next_number_ += ranks.rank() * kNumbersEach;  // all began with the same
  ranks.join(*mark_, options_.keeper != nullptr);
  if (const auto plan = context_.incumbents.shared())  // the same everywhere, or nearly
    ranks.tell(ToldPlan{*plan, context_.incumbents.plan().by});
  if (ranks.leads()) return;
  seats_[0].next = kNoNode;  // rank 0 has it all
  while (!open_.empty()) tree_.close(open_.pop());
}

RankStanding TreeSearch::rank_standing(bool idle) {
  RankStanding s;
  const double others = std::exchange(ranks_.bound, kInf);
  s.bound = global_bound();
  ranks_.bound = others;
  s.taken = ranks_.taken;
  s.open = static_cast<std::int64_t>(open_.size());
  s.idle = idle && open_.empty() && !any_next() && !any_in_hand() && overflow_.empty();
  s.best = context_.incumbents.best();
  s.loose = bounds_.loose;
  s.unresolved = bounds_.unresolved;
  s.counts = counts_;
  return s;
}

// False where the whole search ends.
bool TreeSearch::exchange(bool idle) {
  // All tell all: with many ranks more seldom, so that each gets some sixty of these letters a
  // second at most.
  constexpr double kNews = 0.5;  // seconds
  constexpr int kFew = 32;
  Ranks& ranks = *options_.ranks;
  const double each = kNews * std::max(1.0, static_cast<double>(ranks.size()) / kFew);
  const double now = context_.clock.seconds();
  ranks_.told_at = now;
  if (now > ranks_.news_at + each) {
    ranks_.news_at = now;
    if (!ranks_.news.rows.empty() || !ranks_.news.conflicts.empty())
      ranks.tell(std::exchange(ranks_.news, {}));
  }
  Ranks::Mail mail = ranks.exchange(rank_standing(idle));
  take_told(mail);
  for (Ranks::Mail::Parcel& parcel : mail.parcels) take_parcel(std::move(parcel));
  for (const Supervisor::Give& give : mail.gives) give_away(give);
  if (mail.state_asked) tell_state(mail.known);
  if (ranks.leads()) {
    const Supervisor::Sums others = ranks.sums_of_others();
    ranks_.bound = ranks.bound_of_others();
    ranks_.nodes = others.counts.nodes;
    ranks_.open = others.open;
  }
  if (!mail.ended) return true;
  stopped_by_ = StoppedBy::hand;
  ranks_.trouble = mail.trouble;
  return false;
}

void TreeSearch::exchange_if_due() {
  constexpr double kEach = 0.01;  // seconds
  if (ranks_.joined && context_.clock.seconds() > ranks_.told_at + kEach) (void)exchange(false);
}

// False: the search ends here.
bool TreeSearch::wait_for_nodes() {
  constexpr double kEach = 0.05;  // seconds
  for (;;) {
    if (!exchange(true)) return false;
    if (!open_.empty() || finished() || out_of_limits()) return true;
    tell_progress();
    options_.ranks->wait(kEach);
  }
}

// Every other one of the best: whoever gives keeps as good ones.
void TreeSearch::give_away(const Supervisor::Give& give) {
  std::vector<NodeId> chosen, kept;
  const bool may = root_ != nullptr && !(give.to == options_.ranks->rank());
  while (may && !open_.empty() && static_cast<std::int64_t>(chosen.size()) < give.nodes) {
    const NodeId id = open_.pop();
    if (closes(tree_[id].bound)) {
      ++closed_[static_cast<std::size_t>(ClosedBy::bound)];
      tree_.close(id);
    } else {
      (kept.size() > chosen.size() || seats_[0].next != kNoNode ? chosen : kept).push_back(id);
    }
  }
  for (const NodeId id : kept) open_.push(id, tree_[id]);
  if (chosen.empty()) return options_.ranks->refuse(give.parcel);
  KeptTree tree = tree_over(chosen, {});
  tree.loose = tree.unresolved = kInf;  // told by this rank
  tree.reason.clear();
  tree.closed = {};
  if (give.noted) {
    ranks_.given.push_back({give.parcel, give.to, tree});
    KeptTree& noted = ranks_.given.back().tree;
    noted.rows.clear();
    noted.conflicts.clear();
  }
  if (!give.first) {
    std::erase_if(tree.rows, [](const PooledRow& row) { return row.scope < 0; });
    tree.conflicts.clear();
    tree.root = {};
    tree.pseudo_costs = PseudoCosts(0);
  }
  options_.ranks->give(give, tree);
  for (const NodeId id : chosen) tree_.close(id);
}

void TreeSearch::take_parcel(Ranks::Mail::Parcel parcel) {
  std::vector<NodeId> ids;
  for (KeptNode& given : parcel.tree.nodes) {
    if (given.parent < 0) {
      ids.push_back(root_node_);
      continue;
    }
    Node node;
    node.parent = ids[static_cast<std::size_t>(given.parent)];
    node.depth = given.depth;
    node.number = given.number;
    node.bound = given.bound;
    node.estimate = given.estimate;
    node.changes = std::move(given.changes);
    node.branched = given.branched;
    ids.push_back(tree_.add(std::move(node)));
    if (given.open) open_.push(ids.back(), tree_[ids.back()]);
  }
  if (parcel.first && root_ == nullptr)
    root_ = std::make_shared<const RootFacts>(std::move(parcel.tree.root));
  hear({std::move(parcel.tree.rows), std::move(parcel.tree.conflicts)});
  ranks_.taken = parcel.number;
}

// Rows and conflicts of other ranks, for all workers here.
void TreeSearch::hear(RankNews news) {
  for (PooledRow& row : news.rows) row.name = kFromOthers + static_cast<RowName>(++ranks_.rows);
  for (Seat& seat : seats_) {
    seat.news.rows.insert(seat.news.rows.end(), news.rows.begin(), news.rows.end());
    seat.news.conflicts.insert(seat.news.conflicts.end(), news.conflicts.begin(),
                               news.conflicts.end());
  }
  // For first parcels, and where it is kept.
  kept_.rows.insert(kept_.rows.end(), news.rows.begin(), news.rows.end());
}

void TreeSearch::gather_for_ranks(const NodeOutcome& outcome) {
  constexpr std::size_t kMostRows = 50, kMostConflicts = 100;  // each time
  if (!ranks_.joined) return;
  for (const PooledRow& row : outcome.rows)
    if (row.scope < 0 && ranks_.news.rows.size() < kMostRows) ranks_.news.rows.push_back(row);
  for (const Conflict& conflict : outcome.conflicts)
    if (ranks_.news.conflicts.size() < kMostConflicts) ranks_.news.conflicts.push_back(conflict);
}

void TreeSearch::take_told(Ranks::Mail& mail) {
  for (ToldPlan& told : mail.plans) {
    if (static_cast<Index>(told.values.size()) != worker_.problem().num_columns()) continue;
    Verdict verdict = judge_(told.values);  // whoever found it
    if (!verdict.accepted) continue;
    NodeOutcome found;
    found.plans.push_back({std::move(told.values), std::move(verdict.goal),
                           std::move(verdict.remarks), std::move(told.by),
                           context_.clock.seconds()});
    ranks_.telling = false;
    take_plans(found);
    ranks_.telling = true;
  }
  for (RankNews& news : mail.news) hear(std::move(news));
}

// `known`: what was given up to these is part of what was kept.
void TreeSearch::tell_state(const std::vector<std::int64_t>& known) {
  std::erase_if(ranks_.given, [&](const RankState::Given& g) {
    const auto to = static_cast<std::size_t>(g.to);
    return to < known.size() && g.parcel <= known[to];
  });
  if (options_.ranks->leads()) return;
  RankState state;
  state.taken = ranks_.taken;
  if (const auto plan = context_.incumbents.shared())
    state.plan = {*plan, context_.incumbents.plan().by};
  if (root_ != nullptr) state.tree = kept_tree();
  state.given = ranks_.given;
  options_.ranks->tell(state);
}

// What the others have: as they last told it, with what was given and is not part of that yet. A
// node may so be there twice, but none is missing.
void TreeSearch::add_others(KeptTree& tree) {
  const std::vector<std::optional<RankState>> states = options_.ranks->states();
  const auto taken = [&](std::int32_t rank) {
    if (rank == 0) return ranks_.taken;
    const auto& state = states[static_cast<std::size_t>(rank)];
    return state ? state->taken : 0;
  };
  std::vector<std::int64_t> known;
  for (std::int32_t r = 0; r < options_.ranks->size(); ++r) known.push_back(taken(r));
  const auto add_given = [&](const std::vector<RankState::Given>& given) {
    for (const RankState::Given& g : given)
      if (g.parcel > taken(g.to)) join(tree, g.tree);
  };
  add_given(ranks_.given);
  for (const auto& state : states) {
    if (!state) continue;
    if (state->tree) join(tree, *state->tree);
    add_given(state->given);
  }
  ranks_.known = std::move(known);
}

void TreeSearch::leave_ranks() {
  if (!ranks_.joined) return;
  Ranks& ranks = *options_.ranks;
  if (!ranks.leads()) {
    (void)exchange(true);  // as it leaves
    return ranks.leave();
  }
  const bool all = finished();
  if (!all && options_.keeper != nullptr) ranks.ask_states(ranks_.known);
  ranks.end();
  Ranks::Mail mail = ranks.exchange(rank_standing(all));
  take_told(mail);  // what was found by then
  const Supervisor::Sums others = ranks.sums_of_others();
  ranks_.bound = ranks.bound_of_others();
  bounds_.loose = std::min(bounds_.loose, others.loose);
  bounds_.unresolved = std::min(bounds_.unresolved, others.unresolved);
  counts_ += others.counts;
  ranks_.nodes = 0;
  ranks_.told = others.counts.nodes;
}

}  // namespace kiteknot::mip
