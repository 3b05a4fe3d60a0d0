// Any bytes at all are read as a table or answered with messages.
#include <cstdint>

#include "kiteknot/kiteknot.hpp"

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
  const std::string text(reinterpret_cast<const char*>(data), size);
  try {
    const auto table = kiteknot::Table::parse("fuzz", text, {.key = {"a"}});
    for (const auto& column : table.columns()) (void)table.numbers(column);
  } catch (const kiteknot::InputError&) {
  } catch (const kiteknot::UsageError&) {
  }
  return 0;
}
