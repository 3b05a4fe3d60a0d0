// Many ranks that search one tree, by simulation: trees of real searches, recorded with the best
// plan known from the beginning, so that every node in them has to be looked at by somebody; the
// supervisor is the one that runs (mip/parallel/supervisor.cpp), and its time is measured while it
// decides. Ranks look into their mail as TreeSearch does. A page of Markdown.
//
// Stated, not measured: letters take 50 microseconds (a network of a cluster; with slow nodes 5
// milliseconds) and 1 ns a byte; whoever carries them takes 5 microseconds for each and looks for
// what is to be sent every 2 ms; a node's time is drawn (exponential) around the recorded mean, or
// around 100 ms as larger problems have it. Usage: bench_ranks

#include <algorithm>
#include <cmath>
#include <iostream>
#include <queue>

#include <fmt/format.h>

#include "base/random.hpp"
#include "base/work.hpp"
#include "mip/parallel/supervisor.hpp"
#include "mip_families.hpp"
#include "support/brute_force.hpp"

using namespace kiteknot;
using namespace kiteknot::bench;

namespace {

struct RecordedTree {
  std::string name;
  std::vector<std::vector<std::int32_t>> parts;  // by node; 0 is the root
  std::vector<double> bounds;
  double seconds = 0.0;  // of a node, on average
  double best = 0.0;
};

RecordedTree recorded(const std::string& name, const mip::Problem& p, double seconds) {
  mip::SearchOptions options;
  options.budget.seconds = seconds;
  const mip::SearchResult first = mip::Search(p, test::judge_of(p), options).run();
  options.record_nodes = 10'000'000;
  if (first.plan) options.given.plans.push_back(*first.plan);
  const mip::SearchResult r = mip::Search(p, test::judge_of(p), options).run();
  RecordedTree tree;
  tree.name = name;
  tree.best = first.plan ? first.goal.to_double() : kInf;
  std::vector<std::int32_t> place(r.tree.size(), -1);
  for (std::size_t k = 0; k < r.tree.size(); ++k) {
    const mip::NodeRecord& n = r.tree[k];
    if (n.look == 0) continue;  // closed without a look
    const bool under = n.parent >= 0 && place[static_cast<std::size_t>(n.parent)] >= 0;
    if (!under && !tree.bounds.empty()) continue;  // of an earlier stage
    place[k] = static_cast<std::int32_t>(tree.bounds.size());
    if (under)
      tree.parts[static_cast<std::size_t>(place[static_cast<std::size_t>(n.parent)])].push_back(
          place[k]);
    tree.parts.emplace_back();
    tree.bounds.push_back(n.bound);
  }
  tree.seconds = r.seconds / std::max<double>(1.0, static_cast<double>(r.counts.nodes));
  return tree;
}

struct Told {
  double efficiency = 0.0, seconds = 0.0;
  double letters = 0.0;  // a second that reach the supervisor
  double busy = 0.0;     // share of its time that the supervisor works
  std::int64_t parcels = 0, moved = 0;
};

class Simulation {
 public:
  Simulation(const RecordedTree& tree, int ranks, double node_seconds, double latency)
      : tree_(tree),
        node_seconds_(node_seconds),
        latency_(latency),
        supervisor_(ranks),
        ranks_(static_cast<std::size_t>(ranks)) {}

  Told run() {
    mip::RankStanding at_work;
    at_work.idle = false;
    at_work.open = 1;
    at_work.bound = -kInf;
    supervisor_.heard(0, at_work);
    ranks_[0].open.push({tree_.bounds[0], 0});
    for (std::size_t r = 0; r < ranks_.size(); ++r) at(0.0, Kind::look, r);
    while (!events_.empty() && looked_at_ < tree_.bounds.size()) {
      const Event e = events_.top();
      events_.pop();
      now_ = e.time;
      handle(e);
    }
    Told told;
    told.seconds = now_;
    told.efficiency = work_ / (now_ * static_cast<double>(ranks_.size()));
    told.letters = static_cast<double>(letters_) / now_;
    told.busy = busy_ / now_;
    told.parcels = parcels_;
    told.moved = moved_;
    return told;
  }

 private:
  using Open = std::pair<double, std::int32_t>;  // bound, node
  enum class Kind { done, look, parcel, standing, refused, give };
  struct Event {
    double time = 0.0;
    std::int64_t order = 0;
    Kind kind = Kind::look;
    std::size_t rank = 0;
    std::size_t letter = 0;  // where what it brings lies
    bool operator>(const Event& other) const {
      return std::pair(time, order) > std::pair(other.time, other.order);
    }
  };
  struct Parcel {
    std::int64_t number = 0;
    std::vector<Open> nodes;
  };
  struct Rank {
    std::priority_queue<Open, std::vector<Open>, std::greater<>> open;
    std::int32_t node = -1;  // being looked at
    std::int64_t taken = 0;
    double told_at = 0.0, signed_at = 0.0;
    mip::RankStanding last;
    bool told = false;
    std::vector<Parcel> parcels;
    std::vector<mip::Supervisor::Give> gives;
  };

  void at(double time, Kind kind, std::size_t rank, std::size_t letter = 0) {
    events_.push({time, ++order_, kind, rank, letter});
  }
  double on_its_way(double bytes) {
    return now_ + 0.002 * random_.fraction() + latency_ + 1e-9 * bytes;
  }

  void handle(const Event& e) {
    Rank& r = ranks_[e.rank];
    switch (e.kind) {
      case Kind::done:
        for (const std::int32_t part : tree_.parts[static_cast<std::size_t>(r.node)])
          r.open.push({tree_.bounds[static_cast<std::size_t>(part)], part});
        r.node = -1;
        ++looked_at_;
        if (now_ >= r.told_at + 0.01) exchange(e.rank);
        go_on(e.rank);
        break;
      case Kind::look:  // idle, something came, or it is time to look
        if (r.node >= 0) break;
        exchange(e.rank);
        go_on(e.rank);
        break;
      case Kind::parcel:
        r.parcels.push_back(std::move(parcels_sent_[e.letter]));
        at(now_, Kind::look, e.rank);
        break;
      case Kind::give:
        r.gives.push_back(gives_sent_[e.letter]);
        at(now_, Kind::look, e.rank);
        break;
      case Kind::standing:
        supervise([&] { supervisor_.heard(static_cast<int>(e.rank), standings_[e.letter]); });
        break;
      case Kind::refused:
        supervise([&] { supervisor_.refused(static_cast<std::int64_t>(e.letter)); });
        break;
    }
  }

  void go_on(std::size_t rank) {
    Rank& r = ranks_[rank];
    if (r.open.empty()) {
      if (r.last.idle) return;  // something has to come
      exchange(rank);
      if (r.open.empty()) return;
    }
    r.node = r.open.top().second;
    r.open.pop();
    const double time = -std::log(1.0 - random_.fraction()) * node_seconds_;
    work_ += time;
    at(now_ + time, Kind::done, rank);
  }

  mip::RankStanding standing(const Rank& r) const {
    mip::RankStanding s;
    s.taken = r.taken;
    s.open = static_cast<std::int64_t>(r.open.size());
    s.idle = r.open.empty() && r.node < 0;
    s.best = tree_.best;
    s.bound = r.open.empty() ? kInf : r.open.top().first;
    return s;
  }

  // As Ranks::exchange and TreeSearch::exchange.
  void exchange(std::size_t rank) {
    Rank& r = ranks_[rank];
    r.told_at = now_;
    for (Parcel& p : r.parcels) {
      for (const Open& n : p.nodes) r.open.push(n);
      r.taken = p.number;
    }
    r.parcels.clear();
    for (const mip::Supervisor::Give& g : r.gives) give(rank, g);
    r.gives.clear();
    const mip::RankStanding s = standing(r);
    r.told = r.told && s.idle == r.last.idle && s.taken == r.last.taken &&
             (s.open >= 2) == (r.last.open >= 2);
    r.last = s;
    if (rank == 0) {
      supervise([&] { supervisor_.heard(0, s); });
    } else if (!r.told || now_ > r.signed_at + 0.5) {
      r.told = true;
      r.signed_at = now_;
      standings_.push_back(s);
      at(on_its_way(100.0), Kind::standing, rank, standings_.size() - 1);
    }
  }

  void give(std::size_t rank, const mip::Supervisor::Give& g) {
    Rank& r = ranks_[rank];
    std::vector<Open> kept;
    Parcel parcel{g.parcel, {}};
    while (!r.open.empty() && static_cast<std::int64_t>(parcel.nodes.size()) < g.nodes) {
      (kept.size() > parcel.nodes.size() || r.node >= 0 ? parcel.nodes : kept)
          .push_back(r.open.top());
      r.open.pop();
    }
    for (const Open& n : kept) r.open.push(n);
    r.told = false;
    if (parcel.nodes.empty()) {
      at(on_its_way(20.0), Kind::refused, rank, static_cast<std::size_t>(g.parcel));
      return;
    }
    ++parcels_;
    moved_ += static_cast<std::int64_t>(parcel.nodes.size());
    parcels_sent_.push_back(std::move(parcel));
    const double bytes = 500.0 * static_cast<double>(parcels_sent_.back().nodes.size());
    at(on_its_way(bytes), Kind::parcel, static_cast<std::size_t>(g.to), parcels_sent_.size() - 1);
  }

  // One letter after the other; what it decides leaves when it is done.
  template <class Hear>
  void supervise(const Hear& hear) {
    constexpr double kEach = 5e-6;
    ++letters_;
    const Stopwatch watch;
    hear();
    const std::vector<mip::Supervisor::Give> gives = supervisor_.gives();
    const double cost = watch.seconds() + kEach * static_cast<double>(1 + gives.size());
    busy_ += cost;
    free_at_ = std::max(now_, free_at_) + cost;
    for (const mip::Supervisor::Give& g : gives) {
      gives_sent_.push_back(g);
      const double way = g.from == 0 ? 0.0 : latency_;
      at(free_at_ + way, Kind::give, static_cast<std::size_t>(g.from), gives_sent_.size() - 1);
    }
  }

  const RecordedTree& tree_;
  double node_seconds_, latency_;
  mip::Supervisor supervisor_;
  std::vector<Rank> ranks_;
  std::priority_queue<Event, std::vector<Event>, std::greater<>> events_;
  std::vector<Parcel> parcels_sent_;
  std::vector<mip::Supervisor::Give> gives_sent_;
  std::vector<mip::RankStanding> standings_;
  Random random_{1};
  double now_ = 0.0, free_at_ = 0.0, busy_ = 0.0, work_ = 0.0;
  std::size_t looked_at_ = 0;
  std::int64_t order_ = 0, letters_ = 0, parcels_ = 0, moved_ = 0;
};

}  // namespace

int main() {
  fmt::print(
      "## Many ranks, simulated (scripts/bench ranks)\n\n"
      "Trees of real searches, the best plan known; the supervisor is the real one. Efficiency: "
      "the nodes' time against that of all ranks. Letters: that reach the supervisor in a second; "
      "busy: its thread, where it decides and carries.\n\n"
      "| tree | nodes | a node, ms | latency, ms | ranks | s | efficiency | parcels | nodes moved "
      "| "
      "letters a second | busy |\n"
      "| --- | --- | --- | --- | --- | --- | --- | --- | --- | --- | --- |\n");
  std::vector<RecordedTree> trees;
  trees.push_back(recorded("stable set 120", stable_set(120, 0.15, 1), 60.0));
  trees.push_back(recorded("boxes 10 x 100, 0.5", boxes(10, 100, 0.5, 1), 60.0));
  trees.push_back(recorded("boxes 10 x 100, 0.25", boxes(10, 100, 0.25, 1), 120.0));
  trees.push_back(recorded("market split 4", market_split(4, 1), 120.0));
  for (const RecordedTree& tree : trees) {
    const std::size_t nodes = tree.bounds.size();
    for (const auto& [seconds, latency] : {std::pair(tree.seconds, 50e-6), std::pair(0.1, 5e-3)})
      for (const int ranks : {2, 16, 128, 1024}) {
        const Told t = Simulation(tree, ranks, seconds, latency).run();
        fmt::print(
            "| {} | {} | {:.2f} | {:.2f} | {} | {:.2f} | {:.0f} % | {} | {} | {:.0f} | {:.1f} % "
            "|\n",
            tree.name, nodes, 1e3 * seconds, 1e3 * latency, ranks, t.seconds, 100.0 * t.efficiency,
            t.parcels, t.moved, t.letters, 100.0 * t.busy);
      }
    std::cout.flush();
  }
  return 0;
}
