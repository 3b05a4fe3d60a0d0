#pragma once
// QuickXplain (Junker 2004): an irreducible part of a set that clashes.

#include <vector>

namespace kiteknot {

/// `clashes(kept)` tells whether the kept items (and whatever always counts) are proven to leave
/// nothing. `all` must clash, and nothing at all must not. About k log(n / k) questions.
template <class Item, class Clashes>
class Irreducible {
 public:
  explicit Irreducible(const Clashes& clashes) : clashes_(clashes) {}

  std::vector<Item> of(const std::vector<Item>& all) {
    return all.empty() ? all : smallest({}, false, all);
  }

 private:
  // The items of `of` that clash together with the background; `grown`: it has just become larger.
  std::vector<Item> smallest(const std::vector<Item>& background, bool grown,
                             const std::vector<Item>& of) {
    if (grown && clashes_(background)) return {};
    if (of.size() == 1) return of;
    const auto half = of.begin() + static_cast<std::ptrdiff_t>(of.size() / 2);
    const std::vector<Item> first(of.begin(), half), second(half, of.end());
    const std::vector<Item> from_second = smallest(joined(background, first), true, second);
    const std::vector<Item> from_first =
        smallest(joined(background, from_second), !from_second.empty(), first);
    return joined(from_first, from_second);
  }
  static std::vector<Item> joined(std::vector<Item> a, const std::vector<Item>& b) {
    a.insert(a.end(), b.begin(), b.end());
    return a;
  }
  const Clashes& clashes_;
};

template <class Item, class Clashes>
std::vector<Item> irreducible(const std::vector<Item>& all, const Clashes& clashes) {
  return Irreducible<Item, Clashes>(clashes).of(all);
}

}  // namespace kiteknot
