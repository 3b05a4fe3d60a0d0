#pragma once
// Assertions about our own code. A message is required; a condition has no side effects.
// KITEKNOT_CHECK is always on; KITEKNOT_ASSERT in debug builds and with KITEKNOT_ASSERTIONS.

#include <cstdio>
#include <cstdlib>

namespace kiteknot {

[[noreturn]] inline void assertion_failed(const char* condition, const char* why, const char* file,
                                          int line) {
  std::fprintf(stderr, "%s:%d: internal error: %s (%s)\n", file, line, why, condition);
  std::abort();
}

}  // namespace kiteknot

#define KITEKNOT_CHECK(condition, why) \
  ((condition) ? void(0) : ::kiteknot::assertion_failed(#condition, why, __FILE__, __LINE__))

#if defined(KITEKNOT_ASSERTIONS) || !defined(NDEBUG)
#define KITEKNOT_ASSERT(condition, why) KITEKNOT_CHECK(condition, why)
#else
#define KITEKNOT_ASSERT(condition, why) (false ? void(condition) : void(0))
#endif
