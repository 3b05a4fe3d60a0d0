#pragma once
// Models from their text, solved or refused.

#include <catch2/catch.hpp>

#include "kiteknot/kiteknot.hpp"

namespace kiteknot::test {

inline Model model_of(const std::string& text, const std::string& scenario = {}) {
  Reading<Model> read = parse_knot(text, "test.knot", "", scenario);
  INFO(text << read.notes().text());
  REQUIRE(read.ok());
  return std::move(read).value();
}

/// All errors of a text that must be refused.
inline std::string refusal(const std::string& text) {
  const Reading<Model> read = parse_knot(text, "test.knot", "");
  CHECK_FALSE(read.ok());
  return read.notes().text();
}

/// The best value of a model that must be proven optimal without any gap.
inline Rational proven(const std::string& text) {
  const Result r = solve(model_of(text));
  INFO(text << word(r.outcome) << " " << r.reason);
  REQUIRE(r.outcome == Outcome::optimal);
  CHECK(r.report->exact);
  REQUIRE(r.goals[0].gap);
  CHECK(*r.goals[0].gap == 0.0);
  return r.goal();
}

}  // namespace kiteknot::test
