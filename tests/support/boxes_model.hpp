#pragma once
// A model for the executable whose search takes some thousand branches.

#include <random>

#include "support/tool.hpp"

namespace tool {

/// Packing under several limits, as files in the scratch folder; the name of the model's.
inline std::string boxes_model(int items, unsigned seed) {
  constexpr int kLimits = 4;
  std::mt19937 lots(seed);
  std::string csv = "item,worth,a,b,c,d\n";
  long sums[kLimits] = {};
  for (int i = 0; i < items; ++i) {
    long all = 0;
    std::string weights;
    for (long& sum : sums) {
      const long w = 1 + static_cast<long>(lots() % 1000);
      sum += w;
      all += w;
      weights += "," + std::to_string(w);
    }
    csv += "i" + std::to_string(i) + "," +
           std::to_string(all / kLimits + static_cast<long>(lots() % 100)) + weights + "\n";
  }
  file("boxes.csv", csv);
  std::string text =
      "model \"Boxes\"\ntable items from \"boxes.csv\" key item\n"
      "decide take[i in items] binary\n"
      "maximize worth: total(i.worth * take[i] over i in items)\n";
  const std::string names = "abcd";
  for (int k = 0; k < kLimits; ++k)
    text += std::string("rule limit_") + names[static_cast<std::size_t>(k)] + ": total(i." +
            names[static_cast<std::size_t>(k)] +
            " * take[i] over i in items) <= " + std::to_string(sums[k] / 2) + "\n";
  return file("boxes.knot", text);
}

}  // namespace tool
