// What is read as a model is solved with a small limit on branches; the answer stands its own
// check.
#include <cstdint>
#include <cstdlib>

#include "kiteknot/kiteknot.hpp"

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
  const std::string text(reinterpret_cast<const char*>(data), size);
  const auto model = kiteknot::parse_knot(text, "fuzz.knot", "/nowhere");
  if (!model.ok() || model.value().num_decisions() > 300 || text.size() > 4000) return 0;
  try {
    kiteknot::SolveOptions options;
    options.nodes = 20;
    options.seconds = 3.0;
    const kiteknot::Result r = kiteknot::solve(model.value(), options);
    if (r.plan && !kiteknot::check_exactly(model.value(), *r.plan).feasible) std::abort();
    (void)kiteknot::answer_page(r);
  } catch (const kiteknot::UsageError&) {  // no exact linear form, said by name
  }
  return 0;
}
