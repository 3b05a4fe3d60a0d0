// Any text at all is read as a model or answered with messages; what is read can be shown.
#include <cstdint>

#include "formats/knot/parser.hpp"
#include "kiteknot/kiteknot.hpp"

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
  const std::string text(reinterpret_cast<const char*>(data), size);
  kiteknot::Diagnostics notes;
  (void)kiteknot::formats::knot::parse_question(text, "the condition", notes);
  const auto model = kiteknot::parse_knot(text, "fuzz.knot", "/nowhere");
  if (!model.ok() || model.value().num_decisions() > 2000) return 0;
  try {
    (void)kiteknot::show_page(model.value());
  } catch (const kiteknot::UsageError&) {  // no exact linear form, said by name
  }
  return 0;
}
