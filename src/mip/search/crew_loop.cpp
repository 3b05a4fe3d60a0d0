// The tree with several workers: each is given a node and goes on below by itself for a while; what
// it comes to is taken in in the order of the work done (crew.hpp), and told to the others with
// their next task.

#include <algorithm>
#include <system_error>

#include "mip/kinds/generated_rows.hpp"
#include "mip/search/tree_search.hpp"

namespace kiteknot::mip {
namespace {

// That a worker holds: while the first is taken in it is at another.
constexpr std::size_t kOrders = 3;

}  // namespace

// Small trees are done before another worker has begun.
bool TreeSearch::crew_pays() const {
  return options_.crew.threads > 1 && !alone_ && root_ != nullptr && !open_.empty() &&
         counts_.work - opening_work_ >= options_.crew.joins_after;
}

// Another worker is the first one's like: of the same problem, with all that was found so far.
void TreeSearch::gather() {
  const auto generator = generator_of(worker_.problem());
  std::vector<Crew::Maker> makers;
  for (int w = 1; w < options_.crew.threads; ++w) {
    Problem own = worker_.problem();
    if (generator != nullptr) {
      auto twin = generator->twin();
      if (twin == nullptr) {
        alone_ = true;
        return;
      }
      set_generator(own, std::move(twin));
    }
    auto options = std::make_shared<SearchOptions>(worker_.options_for_another());
    options->budget.seed += static_cast<std::uint64_t>(w);
    makers.push_back([this, w, options, problem = std::move(own)](WorkClock& clock) {
      options->budget.pulse = &clock;
      return std::make_unique<Worker>(problem, judge_, *options, context_.clock, sub_search_, w);
    });
  }
  try {
    crew_ =
        std::make_unique<Crew>(worker_, first_clock_, std::move(makers), options_.crew.at_handover);
  } catch (const std::system_error&) {  // the machine has no thread left
    alone_ = true;
    return;
  }
  SharedKnowledge found = worker_.all_found();
  const SharedKnowledge& waiting = seats_[0].news;  // that the first one was not yet told
  found.rows.insert(found.rows.end(), waiting.rows.begin(), waiting.rows.end());
  found.conflicts.insert(found.conflicts.end(), waiting.conflicts.begin(), waiting.conflicts.end());
  seats_.resize(static_cast<std::size_t>(options_.crew.threads));
  for (std::size_t k = 1; k < seats_.size(); ++k) seats_[k].news = found;
}

// As many nodes as a while of work is likely to take, but never more than leave the others their
// share of what is open.
std::optional<Order> TreeSearch::order_for(std::size_t k) {
  // Long enough that taking in costs little, short enough that what one finds the others soon know.
  constexpr std::int64_t kWork = 4'000'000, kMostNodes = 400, kMostTasks = 100;
  constexpr std::int64_t kNumbers = 1'000'000;
  Seat& seat = seats_[k];
  const std::int64_t each = plunges_.work / std::max<std::int64_t>(1, plunges_.ends);
  const auto fair = static_cast<std::int64_t>(open_.size() / (kOrders * seats_.size()));
  const std::int64_t most =
      std::clamp<std::int64_t>(std::min(each > 0 ? kWork / each : 1, fair), 1, kMostTasks);
  Order order;
  std::deque<NodeId> ids;
  while (static_cast<std::int64_t>(ids.size()) < most) {
    const bool stands_there = seat.given.empty();
    bool stay = false;
    const NodeId id = take_node(seat, stay);
    if (id == kNoNode) break;
    ids.push_back(id);
    order.tasks.push_back(task_of(id, stay && stands_there));
    (void)tree_.legs_to(id, {}, order.tasks.back().legs);
    order.tasks.back().from_root = true;
  }
  if (ids.empty()) return std::nullopt;
  seat.given.push_back(std::move(ids));
  order.known = snapshot_for(seat);
  const std::int64_t left = options_.budget.nodes - counts_.nodes;
  order.limits = {std::clamp<std::int64_t>(left, 1, kMostNodes), kWork, next_number_ + 1};
  next_number_ += kNumbers;
  return order;
}

// First everybody has something to do, `first` before the others, then something to go on with.
void TreeSearch::give_orders(std::size_t first) {
  for (std::size_t held = 1; held <= kOrders; ++held)
    for (std::size_t turn = 0; turn < seats_.size(); ++turn) {
      const std::size_t k = (first + turn) % seats_.size();
      if (crew_->given(k) >= held) continue;
      if (held > 1 && open_.size() < seats_.size()) return;  // who ends first finds none otherwise
      if (std::optional<Order> order = order_for(k)) crew_->give(k, std::move(*order));
    }
}

void TreeSearch::loop_with_crew() {
  for (std::size_t seat = 0; goes_on();) {
    give_orders(seat);
    if (crew_->all_idle()) {  // nothing is open here
      if (!ranks_.joined || !wait_for_nodes()) break;
      continue;
    }
    Delivery delivery = crew_->next();
    seat = delivery.seat;
    if (!take_in(std::move(delivery))) break;
    exchange_if_due();
    tell_progress();
  }
  dismiss();
}

// False where the search ends here.
bool TreeSearch::take_in(Delivery delivery) {
  Seat& seat = seats_[delivery.seat];
  const auto tell_others = [&](const NodeOutcome& outcome) {
    for (Seat& other : seats_) {
      if (&other == &seat) continue;
      SharedKnowledge& news = other.news;
      news.rows.insert(news.rows.end(), outcome.rows.begin(), outcome.rows.end());
      news.observations.insert(news.observations.end(), outcome.observations.begin(),
                               outcome.observations.end());
      news.conflicts.insert(news.conflicts.end(), outcome.conflicts.begin(),
                            outcome.conflicts.end());
    }
  };
  // The child that a way ended at is for whoever comes first.
  const auto leave_child = [&] {
    if (const NodeId id = std::exchange(seat.next, kNoNode); id != kNoNode)
      open_.push(id, tree_[id]);
  };
  // What is not yet taken in stays listed: the bound counts it, whatever fails here.
  std::deque<NodeId>& ids = seat.given.front();
  bool goes_on = true;
  for (std::vector<NodeOutcome>& way : delivery.outcomes) {
    if (way.empty() || !goes_on) break;
    leave_child();
    seat.in_hand = ids.front();
    ids.pop_front();
    ++plunges_.ends;
    for (std::size_t k = 0; k < way.size() && goes_on; ++k) {
      if (k > 0) seat.in_hand = std::exchange(seat.next, kNoNode);
      ++counts_.nodes;
      plunges_.work += way[k].counts.work;
      tell_others(way[k]);
      goes_on = merge(seat, std::move(way[k]));
    }
  }
  put_back(seat);
  if (!seat.given.empty()) leave_child();  // it has gone elsewhere
  return goes_on;
}

// What is left of the seat's first order is open again.
void TreeSearch::put_back(Seat& seat) {
  for (const NodeId id : seat.given.front()) open_.push(id, tree_[id]);
  seat.given.pop_front();
}

// Where time is up, or somebody stopped it, what the others have by then counts; at any other limit
// it would depend on how fast they were, and their nodes stay open.
void TreeSearch::dismiss() {
  const bool counts = stopped_by_ == StoppedBy::time || stopped_by_ == StoppedBy::hand;
  crew_->halt();
  while (!crew_->all_idle()) {
    Delivery delivery = crew_->next();
    if (counts)
      (void)take_in(std::move(delivery));
    else
      put_back(seats_[delivery.seat]);
  }
  crew_->stop();
}

void TreeSearch::hand_over_parts(SearchResult& result) {
  for (PartTally& part : worker_.parts()) add_part(result.parts, std::move(part));
  if (ranks_.joined) {
    result.ranks = options_.ranks->size();
    result.nodes_of_ranks = ranks_.told;
  }
  if (crew_ == nullptr) return;
  for (std::size_t k = 1; k < crew_->size(); ++k)
    if (const Worker* worker = crew_->worker(k))
      for (PartTally& part : worker->parts()) add_part(result.parts, std::move(part));
  result.crew = {static_cast<int>(crew_->size()), crew_->waits().idle, crew_->waits().ahead,
                 crew_->seconds()};
}

}  // namespace kiteknot::mip
