#pragma once
// Branch and bound over legs: two at every stop, and rows by sets of stops as points break them,
// through the engine's generated rows.

#include "mip/search/search.hpp"
#include "structures/tours/cuts/separation.hpp"

namespace kiteknot::methods {

namespace tours = structures::tours;

struct LegProblem {
  std::vector<tours::Leg> legs;
  std::vector<char> sure;            ///< by legs: every tour looked for has it
  std::vector<tours::StopRow> rows;  ///< to begin with
  std::vector<linalg::Index> tour;   ///< a known one, its legs among them; may be empty
  /// Of stops: half the number of their legs out is whole, and branched on as legs are.
  std::vector<std::vector<linalg::Index>> sets{};
  lp::Basis basis{};  ///< to start from, over legs, stops and rows; empty: none
};

struct LegSearchOptions {
  Budget budget{};
  double gap = 0.0;
};

struct LegAnswer {
  Outcome outcome = Outcome::undecided;
  std::vector<linalg::Index> tour;  ///< the best one; empty: none
  std::int64_t length = 0;          ///< in units
  double bound =
      -std::numeric_limits<double>::infinity();  ///< in units: no tour over these legs is shorter
  std::int64_t nodes = 0;
  std::array<std::int64_t, 3> rows{};  ///< generated, by kind
  std::string stopped_by, reason;
};

/// For problems whose rows are generated: everything known of the legs was used when they were
/// chosen, and what is read off stated rows would say little.
mip::SearchOptions options_over_legs(const LegSearchOptions& options);

/// The goal of the search is this times the length in units: a power of two.
double scale_of(const tours::WholeLengths& lengths);

/// `watch`: hears of better tours, in units; may be null.
LegAnswer search_legs(const tours::WholeLengths& lengths, const LegProblem& problem,
                      const LegSearchOptions& options, mip::Listener* watch = nullptr);

/// Two legs at every stop and the rows given, and nothing against loops.
struct LoopAnswer {
  Outcome outcome = Outcome::undecided;
  std::vector<std::vector<linalg::Index>> loops;  ///< stops in order
  std::int64_t length = 0, nodes = 0;
  std::string stopped_by, reason;
};
LoopAnswer search_loops(const tours::WholeLengths& lengths, const LegProblem& problem,
                        const LegSearchOptions& options);

}  // namespace kiteknot::methods
