#include "methods/kinds/special_kind.hpp"

namespace kiteknot::methods {

bool KindRun::over(std::int64_t looks, double entries) {
  work_ -= entries;
  return enough_ || interrupt_.now() || work_ < 0.0 ||
         (!timed_ && std::isinf(work_) && ++looks_ > looks);
}

void KindRun::take(double cost, std::vector<double> values) {
  if (cost >= cost_) return;
  cost_ = cost;
  best_ = std::move(values);
  enough_ = better_ && better_(cost_, best_);
}

const std::vector<KindEntry>& special_kinds() {
  static const std::vector<KindEntry> kAll = [] {
    std::vector<KindEntry> all;
    for (KindEntry (*make)() : {cover_kind, box_kind, place_kind, room_kind, sack_kind, choice_kind,
                                pairing_kind, tree_kind, cut_kind})
      all.push_back(make());
    return all;
  }();
  return kAll;
}

FoundKind find_kind(const PlainProblem& problem) {
  for (const KindEntry& entry : special_kinds())
    if (auto kind = entry.find(problem)) return {&entry, std::move(kind)};
  return {};
}

}  // namespace kiteknot::methods
