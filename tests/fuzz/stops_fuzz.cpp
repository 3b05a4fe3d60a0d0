// Any bytes at all are read as stops or answered with messages; few stops get their shortest trip,
// which is held against what no trip is shorter than.
#include <cstdint>
#include <cstdlib>

#include "kiteknot/kiteknot.hpp"

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
  const std::string text(reinterpret_cast<const char*>(data), size);
  constexpr std::int32_t kFew = 12;
  try {
    const auto read = kiteknot::Stops::parse(text, "fuzz");
    if (!read.ok() || read.value().size() > kFew) return 0;
    const kiteknot::Stops& stops = read.value();
    const kiteknot::TourAnswer best = kiteknot::find_tour(stops, {.seconds = 2.0});
    if (best.order.empty() || stops.several()) return 0;
    const kiteknot::TourAnswer other = kiteknot::find_tour(stops, {.way = "segments"});
    const bool proven = best.outcome == kiteknot::Outcome::optimal;
    if (proven && !other.order.empty() && other.length < best.length) std::abort();
    if (other.bound && *other.bound > best.length) std::abort();
  } catch (const kiteknot::InputError&) {
  } catch (const kiteknot::UsageError&) {
  }
  return 0;
}
