// Rows generated while searching: cyclic assignments cut apart into one closed tour.
#include <algorithm>

#include <catch2/catch.hpp>

#include "mip/kinds/generated_rows.hpp"
#include "support/brute_force.hpp"

using namespace kiteknot;
using namespace kiteknot::test;
using linalg::Index;

namespace {

// x[i][j]: j follows i. Forbids every closed loop that leaves stops out.
class LoopCutter final : public mip::RowGenerator {
 public:
  LoopCutter(int stops, bool fractions) : stops_(stops), fractions_(fractions) {}
  [[nodiscard]] bool wants_fractions() const override { return fractions_; }
  std::vector<mip::LinearRow> look(std::span<const double> point, bool) override {
    ++looks;
    std::vector<mip::LinearRow> rows;
    std::vector<char> seen(static_cast<std::size_t>(stops_), 0);
    for (int start = 0; start < stops_; ++start) {
      if (seen[static_cast<std::size_t>(start)]) continue;
      std::vector<int> loop;
      for (int at = start; !seen[static_cast<std::size_t>(at)];) {
        seen[static_cast<std::size_t>(at)] = 1;
        loop.push_back(at);
        int next = -1;
        for (int j = 0; j < stops_; ++j)
          if (point[static_cast<std::size_t>(at * stops_ + j)] > 0.5) next = j;
        if (next < 0) break;
        at = next;
      }
      if (loop.size() == static_cast<std::size_t>(stops_)) return {};
      mip::LinearRow row{{}, 1.0, kInf, true};  // some link leaves the loop
      for (const int i : loop)
        for (int j = 0; j < stops_; ++j)
          if (std::find(loop.begin(), loop.end(), j) == loop.end())
            row.entries.push_back({i * stops_ + j, 1.0});
      rows.push_back(std::move(row));
    }
    return rows;
  }
  int looks = 0;

 private:
  int stops_;
  bool fractions_;
};

mip::Problem assignment(Random& random, int stops, std::vector<int>& length) {
  mip::Problem p;
  length.assign(static_cast<std::size_t>(stops * stops), 0);
  for (int k = 0; k < stops * stops; ++k) {
    length[static_cast<std::size_t>(k)] = static_cast<int>(random.between(1, 40));
    p.add_column(0.0, k / stops == k % stops ? 0.0 : 1.0, true,
                 length[static_cast<std::size_t>(k)]);
  }
  p.set_goal_facts(true, 1.0);
  for (int side = 0; side < 2; ++side)
    for (int i = 0; i < stops; ++i) {
      mip::LinearRow row{{}, 1.0, 1.0, true};
      for (int j = 0; j < stops; ++j)
        row.entries.push_back({side == 0 ? i * stops + j : j * stops + i, 1.0});
      p.add_row(row);
    }
  return p;
}

}  // namespace

TEST_CASE("generated rows lead to the shortest closed tour, by trying all orders",
          "[mip][generated]") {
  Random random(41);
  for (const bool fractions : {false, true})
    for (int round = 0; round < 25; ++round) {
      CAPTURE(fractions, round);
      const int stops = static_cast<int>(random.between(4, 7));
      std::vector<int> length;
      mip::Problem p = assignment(random, stops, length);
      const auto cutter = std::make_shared<LoopCutter>(stops, fractions);
      mip::set_generator(p, cutter);
      std::vector<int> order;
      for (int i = 1; i < stops; ++i) order.push_back(i);
      int best = 1 << 20;
      do {
        int sum = 0, at = 0;
        for (const int next : order) {
          sum += length[static_cast<std::size_t>(at * stops + next)];
          at = next;
        }
        best = std::min(best, sum + length[static_cast<std::size_t>(at * stops)]);
      } while (std::next_permutation(order.begin(), order.end()));
      const mip::SearchResult found = mip::Search(p, judge_of(p), {}).run();
      REQUIRE(found.outcome == Outcome::optimal);
      CHECK(found.goal == Rational(best));
      CHECK(cutter->looks > 0);
    }
}

namespace {

// Gives back a row that the point meets, every time: it must not be believed to cut anything off.
class Idler final : public mip::RowGenerator {
 public:
  [[nodiscard]] bool wants_fractions() const override { return true; }
  std::vector<mip::LinearRow> look(std::span<const double>, bool) override {
    return {mip::LinearRow{{{0, 1.0}}, -kInf, 100.0, true}};
  }
};

}  // namespace

TEST_CASE("a generator that repeats itself does not keep the search from ending",
          "[mip][generated]") {
  mip::Problem p;
  p.add_column(0.0, 9.0, true, -1.0);
  p.set_goal_facts(true, 1.0);
  mip::set_generator(p, std::make_shared<Idler>());
  const mip::SearchResult found = mip::Search(p, judge_of(p), {}).run();
  REQUIRE(found.outcome == Outcome::optimal);
  CHECK(found.goal == Rational(-9));
  CHECK(found.counts.generated_rows == 0);
}
