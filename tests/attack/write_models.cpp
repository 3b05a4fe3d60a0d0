// Random models in the language, as files.
// Usage: write_models FOLDER FIRST COUNT     NUMBER.knot for each seed from FIRST on

#include <string>

#include "support/random_knot.hpp"

int main(int count, char** words) {
  if (count != 4) return 2;
  const std::string folder = words[1];
  const auto first = std::stoull(words[2]), models = std::stoull(words[3]);
  for (std::uint64_t seed = first; seed < first + models; ++seed)
    kiteknot::write_text(folder + "/" + std::to_string(seed) + ".knot",
                         kiteknot::test::Draw(seed).model().text);
}
