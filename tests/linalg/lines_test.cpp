#include "linalg/lines.hpp"

#include <map>

#include <catch2/catch.hpp>

#include "base/random.hpp"

using namespace kiteknot;
using linalg::Index;

TEST_CASE("lines that grow in any order keep their entries", "[linalg][lines]") {
  Random random(5);
  linalg::Lines lines;
  std::vector<std::map<Index, double>> mirror;
  for (int k = 0; k < 20000; ++k) {
    if (mirror.empty() || random.chance(0.02)) {
      lines.add_lines(1);
      mirror.emplace_back();
    }
    const auto line =
        static_cast<Index>(random.between(0, static_cast<std::int64_t>(mirror.size()) - 1));
    const auto index = static_cast<Index>(mirror[static_cast<std::size_t>(line)].size());
    lines.push(line, index, k);
    mirror[static_cast<std::size_t>(line)][index] = k;
  }
  const auto same = [&] {
    for (std::size_t i = 0; i < mirror.size(); ++i) {
      const auto index = lines.index(static_cast<Index>(i));
      const auto value = lines.value(static_cast<Index>(i));
      REQUIRE(index.size() == mirror[i].size());
      for (std::size_t k = 0; k < index.size(); ++k) REQUIRE(mirror[i].at(index[k]) == value[k]);
    }
  };
  same();
  // Every third line goes, and so do entries with an odd index.
  std::vector<Index> new_line, new_entry;
  std::vector<std::map<Index, double>> kept;
  for (std::size_t i = 0; i < mirror.size(); ++i) {
    new_line.push_back(i % 3 == 0 ? -1 : static_cast<Index>(kept.size()));
    if (i % 3 == 0) continue;
    kept.emplace_back();
    for (const auto& [j, v] : mirror[i])
      if (j % 2 == 0) kept.back()[j / 2] = v;
  }
  for (Index j = 0; j < 20000; ++j) new_entry.push_back(j % 2 == 0 ? j / 2 : -1);
  lines.renumber(new_line, new_entry);
  mirror = kept;
  REQUIRE(lines.num_lines() == static_cast<Index>(mirror.size()));
  same();
}
