#pragma once
// The round trip of a model: what its one tour rule is about, as stops with lengths, so that it can
// be drawn and, where nothing else is asked, found by the ways that know tours only.

#include "kiteknot/plan.hpp"
#include "kiteknot/tour.hpp"

#pragma GCC visibility push(default)
namespace kiteknot {

struct ModelTour {
  /// With what the first goal charges for each leg as lengths (what it loses by it, where it is to
  /// be large), or the first rule that counts legs where the goal does not; infinite: there is no
  /// such leg.
  Stops stops;
  std::string rule;        ///< its name
  std::int32_t first = 0;  ///< where the telling starts
  /// The model asks for the shortest tour over all stops and for nothing else, and any two stops
  /// have a leg: find_tour answers it.
  bool nothing_else = false;
};

/// Of the one tour rule that is switched on. Throws UsageError where there is none, or several.
ModelTour tour_of(const Model& model);
/// The trips of a plan that meets the rule, with their length; proven only where `outcome` says so
/// and the goal is that length.
TourAnswer tour_of(const Model& model, const Plan& plan, Outcome outcome);
/// A tour as a plan of the model: its legs, and everything else at 0.
Plan plan_of(const Model& model, const TourAnswer& answer);

}  // namespace kiteknot
#pragma GCC visibility pop
