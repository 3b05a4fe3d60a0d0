#include "mip/tree/node_path.hpp"

#include <algorithm>

#include "base/check.hpp"

namespace kiteknot::mip {

bool NodePath::go(std::size_t stops, std::span<const TreeStep> legs, std::size_t root_mark,
                  Domain& domain) {
  KITEKNOT_ASSERT(stops <= marks_.size(), "one can only go back to where one was");
  numbers_.resize(stops);
  marks_.resize(stops);
  domain.undo_to(stops > 0 ? marks_.back() : root_mark);
  for (std::size_t k = 0; k < legs.size(); ++k) {
    for (const Change& c : legs[k].changes)
      if (!domain.apply(c)) return false;
    if (k + 1 < legs.size()) leave(legs[k].number, domain.mark());
  }
  return true;
}

bool NodePath::passes(std::int64_t number) const {
  return std::find(numbers_.begin(), numbers_.end(), number) != numbers_.end();
}

void NodePath::check_invariants() const {
  KITEKNOT_CHECK(std::is_sorted(marks_.begin(), marks_.end()), "the trail grows on the way");
}

}  // namespace kiteknot::mip
