// Items of sizes into boxes of one size, as few as can be.

#include "structures/boxes.hpp"

#include <algorithm>

#include <fmt/format.h>

#include "base/text.hpp"
#include "methods/kinds/choices_and_others.hpp"
#include "methods/kinds/special_kind.hpp"

namespace kiteknot::methods {
namespace {

struct BoxPacking final : SpecialKind {
  std::vector<std::int64_t> sizes;
  std::int64_t room = 0;
  double each = 0.0;                    // what a box costs
  std::vector<std::vector<Index>> put;  // by item and box
  std::vector<Index> used;              // by box

  [[nodiscard]] std::string told() const override {
    return fmt::format("packing of {} into boxes of {}", counted(sizes.size(), "item"),
                       figure(Rational(static_cast<long long>(room))));
  }
};

std::unique_ptr<SpecialKind> find_box(const PlainProblem& p) {
  const auto s = choices_and_others(p);
  if (!s || s->choices.empty() || s->others.empty()) return {};
  auto found = std::make_unique<BoxPacking>();
  BoxPacking& k = *found;
  k.sizes.assign(s->choices.size(), 0);
  k.put.assign(s->choices.size(), std::vector<Index>(s->others.size(), -1));
  k.used.assign(s->others.size(), -1);
  for (std::size_t b = 0; b < s->others.size(); ++b) {
    const Index row = s->others[b];
    if (p.high[at(row)] != 0.0 || std::isfinite(p.low[at(row)])) return {};
    for (const WeightedNode& t : p.row(row)) {
      const double cost = p.cost[at(t.node)];
      const Index item = s->choice[at(t.node)];
      if (item < 0) {  // the box itself
        if (k.used[b] >= 0 || t.weight >= 0.0 || !(cost > 0.0)) return {};
        const auto room = static_cast<std::int64_t>(-t.weight);
        if (static_cast<double>(room) != -t.weight || (k.room != 0 && k.room != room)) return {};
        if (k.each != 0.0 && k.each != cost) return {};
        k.room = room;
        k.each = cost;
        k.used[b] = t.node;
        continue;
      }
      const auto size = static_cast<std::int64_t>(t.weight);
      if (static_cast<double>(size) != t.weight || size <= 0 || cost != 0.0) return {};
      if (k.sizes[at(item)] != 0 && k.sizes[at(item)] != size) return {};
      k.sizes[at(item)] = size;
      k.put[at(item)][b] = t.node;
    }
    if (k.used[b] < 0) return {};
  }
  for (std::size_t i = 0; i < k.put.size(); ++i)
    if (k.sizes[i] == 0 || k.sizes[i] > k.room ||
        std::ranges::any_of(k.put[i], [](Index d) { return d < 0; }))
      return {};
  // Every decision is one of these.
  if (p.cost.size() != k.put.size() * k.used.size() + k.used.size()) return {};
  return found;
}

void take_box(KindRun& r, const BoxPacking& k, const structures::Boxes& boxes) {
  if (at(boxes.used) > k.used.size()) {
    r.note =
        fmt::format("it needs {}, and there are {}", counted(at(boxes.used), "box"), k.used.size());
    return;
  }
  std::vector<double> values = r.nothing();
  for (std::size_t i = 0; i < k.sizes.size(); ++i) values[at(k.put[i][at(boxes.box_of[i])])] = 1.0;
  for (Index b = 0; b < boxes.used; ++b) values[at(k.used[at(b)])] = 1.0;
  r.take(k.each * boxes.used, std::move(values));
  const Index least = structures::boxes_needed(k.sizes, k.room);
  if (whole_figure(k.each)) r.bound(k.each * least);
  if (boxes.used == least)
    r.note = fmt::format("{} are needed at least: nothing is better", counted(at(least), "box"));
}

void first_fitting(KindRun& r, const SpecialKind& kind) {
  const auto& k = static_cast<const BoxPacking&>(kind);
  take_box(r, k, structures::first_fit(k.sizes, k.room));
}
void best_fitting(KindRun& r, const SpecialKind& kind) {
  const auto& k = static_cast<const BoxPacking&>(kind);
  take_box(r, k, structures::best_fit(k.sizes, k.room));
}

}  // namespace

KindEntry box_kind() {
  return {"packing of items into equal boxes",
          find_box,
          {{"first fit", "of boxes: largest first, each into the first box with room",
            "Martello and Toth 1990", first_fitting},
           {"best fit", "of boxes: largest first, each into the fullest box with room",
            "Martello and Toth 1990", best_fitting}},
          best_fitting,
          "the best fit of each item"};
}

}  // namespace kiteknot::methods
