#pragma once
// Assertions about our own code. A message is required; a condition has no side effects. Where one
// fails InternalError is thrown: the host goes on (but for functions that must not throw).
// KITEKNOT_CHECK is always on; KITEKNOT_ASSERT in debug builds and with KITEKNOT_ASSERTIONS, as are
// the invariants of an object, which take time in its size.

#include <string>
#include <string_view>

#include "kiteknot/errors.hpp"

namespace kiteknot {

[[noreturn]] inline void assertion_failed(const char* condition, const char* why, const char* file,
                                          int line) {
  std::string_view place = file;  // within the sources
  if (const auto src = place.rfind("src/"); src != std::string_view::npos) place.remove_prefix(src);
  throw InternalError(std::string(place) + ":" + std::to_string(line) + ": " + why + " (" +
                      condition + ")");
}

}  // namespace kiteknot

#define KITEKNOT_CHECK(condition, why) \
  ((condition) ? void(0) : ::kiteknot::assertion_failed(#condition, why, __FILE__, __LINE__))

#if defined(KITEKNOT_ASSERTIONS) || !defined(NDEBUG)
#define KITEKNOT_ASSERT(condition, why) KITEKNOT_CHECK(condition, why)
#define KITEKNOT_ASSERT_INVARIANTS(object) (object).check_invariants()
#else
#define KITEKNOT_ASSERT(condition, why) (false ? void(condition) : void(0))
#define KITEKNOT_ASSERT_INVARIANTS(object) (false ? (object).check_invariants() : void(0))
#endif
