#pragma once
// Wrong uses of the public headers, each to be run in a process of its own: what crashes then takes
// no other one along.
//
//   REFUSED(rows_of_another_table, "is indexed by rows of") { ... }   throws UsageError with that
//   HARMLESS(plan_of_a_copy) { need(...); }                           does what is needed

#include <stdexcept>
#include <string>
#include <vector>

#include "kiteknot/kiteknot.hpp"

namespace misuse {

using namespace kiteknot;

struct Case {
  std::string name;
  std::string says;  ///< part of the message; empty: nothing may be thrown
  void (*run)();
};
inline std::vector<Case>& cases() {
  static std::vector<Case> all;
  return all;
}
struct Listed {
  Listed(const char* name, const char* says, void (*run)()) {
    cases().push_back({name, says, run});
  }
};

class NotNeeded : public std::runtime_error {
 public:
  using std::runtime_error::runtime_error;
};
inline void need(bool holds) {
  if (!holds) throw NotNeeded("what is needed does not hold");
}

// Small models that most cases begin with.
inline const Table& shows() {
  static const Table table = Table::parse(
      "shows", "show,crew,crowd\ndrums,3,40\nlamps,5,70\nsleds,2,20\n", {.key = {"show"}});
  return table;
}
struct Programme {
  Model model{"Programme"};
  Decisions run = model.binary("run", shows());
  Number hours = model.number("hours", 7);
  Programme() {
    model.maximize("crowd", total(shows(), [&](Row s) { return s.number("crowd") * run[s]; }));
    model.rule("crew", total(shows(), [&](Row s) { return s.number("crew") * run[s]; }) <= hours);
  }
};
// Another one with as many decisions, and one with fewer.
inline Model other_model() {
  Model m{"Other"};
  const Decisions take = m.binary("take", shows());
  m.minimize("cost", total(take));
  m.rule("some", total(take) >= 1);
  return m;
}
inline Model small_model() {
  Model m{"Small"};
  const Decision x = m.integer("x", {}, between(0, 3));
  m.maximize("gain", x);
  return m;
}

}  // namespace misuse

#define KITEKNOT_CASE(name, says)                                \
  static void name();                                            \
  static const misuse::Listed listed_##name(#name, says, &name); \
  static void name()
#define REFUSED(name, says) KITEKNOT_CASE(name, says)
#define HARMLESS(name) KITEKNOT_CASE(name, "")
