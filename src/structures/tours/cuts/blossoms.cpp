#include "structures/tours/cuts/blossoms.hpp"

#include <algorithm>
#include <cmath>

#include "structures/tours/cuts/cut_tree.hpp"

namespace kiteknot::structures::tours {
namespace {

class BlossomSearch {
 public:
  BlossomSearch(const Support& support, double margin)
      : support_(support), margin_(margin), inside_(at(support.num_stops()), 0) {}

  // Parts of more than `most` stops fall into smaller ones without the legs that are nearest to
  // whole. `take`: (handle, teeth).
  template <class Take>
  void run(std::size_t most, const Take& take) {
    constexpr double kStep = 0.05;
    std::vector<char> done(at(support_.num_stops()), 0);
    bool left = true;
    for (double least = 0.0; left && least < 0.5; least += kStep) {
      left = false;
      Index count = 0;
      const std::vector<Index> part = support_.parts(
          count, [&](double x) { return !whole(x) && std::min(x, 1.0 - x) >= least; });
      for (const std::vector<Index>& stops : members(part, count)) {
        if (stops.size() < 3 || done[at(stops.front())] != 0) continue;
        try_handle(stops, take);
        if (stops.size() > most) {
          left = true;
          continue;
        }
        look_within(stops, part, take);
        for (const Index s : stops) done[at(s)] = 1;
      }
    }
  }

 private:
  struct Tooth {
    Index in = 0, out = 0;
    double x = 0.0;
  };
  static bool whole(double x) { return x >= 1.0 - Support::kWhole; }

  template <class Take>
  void look_within(const std::vector<Index>& stops, const std::vector<Index>& part,
                   const Take& take) {
    std::vector<Index>& place = place_;
    place.resize(at(support_.num_stops()));
    for (std::size_t k = 0; k < stops.size(); ++k) place[at(stops[k])] = static_cast<Index>(k);
    FlowGraph graph(static_cast<Index>(stops.size()));
    for (const Index a : stops)
      for (const Arc& arc : support_.of(a))
        if (a < arc.to && part[at(arc.to)] == part[at(a)] && !whole(arc.x))
          graph.add(place[at(a)], place[at(arc.to)], std::min(arc.x, 1.0 - arc.x));
    const CutTree tree = graph.cut_tree(1.0 - margin_);
    std::vector<std::vector<Index>> below(stops.size());
    for (std::size_t v = 1; v < stops.size(); ++v)
      below[at(tree.parent[v])].push_back(static_cast<Index>(v));
    std::vector<Index> handle, stack;
    for (std::size_t v = 1; v < stops.size(); ++v) {
      if (tree.least[v] >= 1.0 - margin_) continue;
      handle.clear();
      stack.assign(1, static_cast<Index>(v));
      while (!stack.empty()) {
        const Index u = stack.back();
        stack.pop_back();
        handle.push_back(stops[at(u)]);
        stack.insert(stack.end(), below[at(u)].begin(), below[at(u)].end());
      }
      try_handle(handle, take);
    }
  }

  // The odd set of legs out of the handle that is nearest to the point.
  template <class Take>
  void try_handle(const std::vector<Index>& handle, const Take& take) {
    for (const Index s : handle) inside_[at(s)] = 1;
    std::vector<Tooth> teeth;
    double broken = 0.0,
           turn = 2.0;  // how far it is from odd sets; what one leg more or less costs
    Tooth turned;
    for (const Index s : handle)
      for (const Arc& arc : support_.of(s)) {
        if (inside_[at(arc.to)] != 0) continue;
        broken += std::min(arc.x, std::abs(1.0 - arc.x));
        if (arc.x > 0.5) teeth.push_back({s, arc.to, arc.x});
        if (const double cost = std::abs(1.0 - 2.0 * arc.x); cost < turn) {
          turn = cost;
          turned = {s, arc.to, arc.x};
        }
      }
    if (teeth.size() % 2 == 0) {
      broken += turn;
      if (turned.x > 0.5)
        std::erase_if(teeth,
                      [&](const Tooth& t) { return t.in == turned.in && t.out == turned.out; });
      else if (turn <= 1.0)
        teeth.push_back(turned);
    }
    if (teeth.size() % 2 == 1 && broken < 1.0 - margin_) set_apart(handle, teeth, take);
    for (const Index s : handle) inside_[at(s)] = 0;
    for (const Index s : also_) inside_[at(s)] = 0;
    also_.clear();
  }

  // Two teeth at one stop: it changes sides, and both go; no less is broken then.
  template <class Take>
  void set_apart(const std::vector<Index>& handle, std::vector<Tooth>& teeth, const Take& take) {
    std::vector<Index> stops = handle;
    for (bool again = true; again && teeth.size() >= 3;) {
      again = false;
      for (std::size_t p = 0; p < teeth.size() && !again; ++p)
        for (std::size_t q = p + 1; q < teeth.size() && !again; ++q) {
          const bool in = teeth[p].in == teeth[q].in, out = teeth[p].out == teeth[q].out;
          if (!in && !out) continue;
          const Index s = in ? teeth[p].in : teeth[p].out;
          inside_[at(s)] = in ? 0 : 1;
          if (out) {
            stops.push_back(s);
            also_.push_back(s);
          }
          teeth.erase(teeth.begin() + static_cast<std::ptrdiff_t>(q));
          teeth.erase(teeth.begin() + static_cast<std::ptrdiff_t>(p));
          again = true;
        }
    }
    std::erase_if(stops, [&](Index s) { return inside_[at(s)] == 0; });
    if (teeth.size() < 3 || stops.empty()) return;
    std::vector<std::pair<Index, Index>> pairs;
    for (const Tooth& t : teeth) {
      if (inside_[at(t.in)] == inside_[at(t.out)])
        return;  // a stop that changed took another along
      pairs.emplace_back(t.in, t.out);
    }
    take(stops, pairs);
  }

  const Support& support_;
  double margin_;
  std::vector<char> inside_;
  std::vector<Index> place_, also_;
};

}  // namespace

void cut_blossoms(const Support& support, double margin, std::vector<StopRow>& found) {
  BlossomSearch(support, margin)
      .run(at(support.num_stops()), [&](const std::vector<Index>& handle,
                                        const std::vector<std::pair<Index, Index>>& teeth) {
        StopRow row{{handle}, static_cast<Index>(3 * teeth.size() + 1)};
        for (const auto& [in, out] : teeth) row.sets.push_back({in, out});
        normalise(row, support.num_stops());
        found.push_back(std::move(row));
      });
}

void cut_combs_over(const Support& joined, const std::vector<std::vector<Index>>& groups,
                    double margin, std::vector<StopRow>& found) {
  constexpr std::size_t kLargest = 250;  // part; cut trees of larger ones take their time
  Index stops = 0;
  for (const std::vector<Index>& group : groups) stops += static_cast<Index>(group.size());
  BlossomSearch(joined, margin)
      .run(kLargest, [&](const std::vector<Index>& handle,
                         const std::vector<std::pair<Index, Index>>& teeth) {
        StopRow row{{{}}, static_cast<Index>(3 * teeth.size() + 1)};
        for (const Index g : handle)
          row.sets[0].insert(row.sets[0].end(), groups[at(g)].begin(), groups[at(g)].end());
        for (const auto& [in, out] : teeth) {
          row.sets.push_back(groups[at(in)]);
          row.sets.back().insert(row.sets.back().end(), groups[at(out)].begin(),
                                 groups[at(out)].end());
        }
        normalise(row, stops);
        found.push_back(std::move(row));
      });
}

}  // namespace kiteknot::structures::tours
