// Any text at all is read as MPS or answered with messages; what is read can be written again.
#include <cstdint>

#include "kiteknot/kiteknot.hpp"

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
  const std::string text(reinterpret_cast<const char*>(data), size);
  const auto model = kiteknot::parse_mps(text, "fuzz.mps");
  if (!model.ok()) return 0;
  try {
    (void)kiteknot::mps_text(model.value());
  } catch (const kiteknot::UsageError&) {
  }
  return 0;
}
