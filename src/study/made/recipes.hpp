#pragma once
// The recipes behind made cases, one function a kind.

#include <utility>
#include <vector>

#include <fmt/format.h>

#include "base/random.hpp"
#include "kiteknot/made.hpp"

namespace kiteknot::made {

/// What a recipe is given, and where its files go.
struct Recipe {
  const MadeAsked& asked;
  std::vector<std::int32_t> size;
  std::string variant, name;
  Random random;
  MadeCase out{};

  /// Starts a table of its own; its file's name.
  std::string table(const std::string& what, const std::string& header) {
    out.files.emplace_back(name + "-" + what + ".csv", header + "\n");
    return out.files.back().first;
  }
  template <class... Args>
  void row(fmt::format_string<Args...> form, Args&&... args) {
    out.files.back().second += fmt::format(form, std::forward<Args>(args)...);
    out.files.back().second += '\n';
  }
  void model(const std::string& text) {
    out.files.insert(out.files.begin(), {name + ".knot", text});
  }
  std::int64_t drawn(std::int64_t low, std::int64_t high) { return random.between(low, high); }
  /// In an order that tells nothing.
  template <class T>
  void shuffle(std::vector<T>& all) {
    for (std::size_t k = all.size(); k > 1; --k)
      std::swap(all[k - 1],
                all[static_cast<std::size_t>(drawn(0, static_cast<std::int64_t>(k) - 1))]);
  }
  [[nodiscard]] bool planted() const { return asked.planted; }
};

void knapsack(Recipe& r);
void limits(Recipe& r);
void cover(Recipe& r);
void assignment(Recipe& r);
void facilities(Recipe& r);
void staffing(Recipe& r);
void lots(Recipe& r);
void bins(Recipe& r);
void roster(Recipe& r);
void shop(Recipe& r);
void tour(Recipe& r);
void routes(Recipe& r);

}  // namespace kiteknot::made
