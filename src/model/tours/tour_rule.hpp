#pragma once
// A rule that the chosen legs form a round trip, or several from one gate, and what a plan makes of
// it, exactly.

#include <memory>
#include <span>
#include <string>
#include <utility>
#include <vector>

#include "kiteknot/model.hpp"
#include "model/model_data.hpp"
#include "structures/tours/whole_lengths.hpp"

namespace kiteknot {

struct TourRule {
  Table stops;
  std::shared_ptr<const Family> legs;
  bool directed = false;                     ///< the legs are links from one stop to another
  std::vector<structures::tours::Leg> ends;  ///< by members of `legs`
  std::shared_ptr<const Family> visiting{};  ///< null: all stops are visited
  std::vector<Index> visit{};                ///< by stops: the decision, -1: none is asked
  Index gate = -1;
  std::vector<std::pair<Index, Index>> ahead{};
  bool several = false;
  Expression at_most{};          ///< trips; of several
  std::vector<Rational> load{};  ///< by stops; empty: no limit
  std::string load_column{};
  Expression capacity{};

  /// Throws UsageError where the tables do not fit, or the words do not go together.
  TourRule(const Decisions& legs, const Table& stops, const TourTerms& terms);

  [[nodiscard]] Index num_stops() const noexcept { return static_cast<Index>(stops.size()); }
  [[nodiscard]] std::string stop(Index s) const;
  /// Whether it is on the trip whatever is decided.
  [[nodiscard]] bool always(Index s) const { return visiting == nullptr || s == gate; }
  /// Nothing says that it may be visited.
  [[nodiscard]] bool never(Index s) const { return !always(s) && visit[at(s)] < 0; }
  /// Stops that no tour can visit, whatever is decided: those that too few legs of the table lead
  /// to, with how many these are ("Cliff Steps, which has no leg").
  [[nodiscard]] std::vector<std::pair<Index, std::string>> dead_ends() const;
  /// The greatest number of trips and the capacity under given numbers; UsageError where they are
  /// no such thing.
  [[nodiscard]] std::int64_t trips(const std::vector<Rational>& numbers) const;
  [[nodiscard]] Rational room(const std::vector<Rational>& numbers) const;
  /// In words, as it could have been stated.
  [[nodiscard]] std::string text(const std::vector<Rational>& numbers) const;
};

/// The trips of a plan, or why its legs are none.
struct TourReading {
  std::vector<std::vector<Index>> trips;  ///< stops in order, from the gate or the first one
  std::vector<std::string> faults;        ///< empty: as the rule asks
};
/// `values` by decisions.
TourReading read_trips(const TourRule& rule, const std::vector<Rational>& numbers,
                       std::span<const Rational> values);

}  // namespace kiteknot
