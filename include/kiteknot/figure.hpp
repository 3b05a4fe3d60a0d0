#pragma once
// Figures: of sweeps and trade-offs as programs for gnuplot, of round trips as SVG. Nothing is
// written here.

#include "kiteknot/tour.hpp"
#include "kiteknot/trade.hpp"
#include "kiteknot/vary.hpp"

#pragma GCC visibility push(default)
namespace kiteknot {

/// A program that draws into `file`, 1280 x 800 pixels; SVG where its ending (or that of `as`) is
/// .svg, PNG where it is .png; UsageError otherwise.
std::string sweep_figure(const Model& model, const Variation& variation, const std::string& file,
                         const std::string& as = "");
/// Both goals against each other, a script that draws it into `file`.
std::string trade_figure(const Model& model, const TradeOff& trade, const std::string& file,
                         const std::string& as = "");

/// The tour on a map, as SVG of 1280 x 800; names where there is room. UsageError where nobody
/// knows where the stops are.
std::string tour_map(const Stops& stops, const TourAnswer& answer);
/// The relaxed point of two legs at every stop: parts of legs by their width, sets that it goes in
/// and out of too little shaded. UsageError as above, and where there is no such point.
std::string relaxed_figure(const Stops& stops, const TourAnswer& answer);
/// The tours of several ways in small maps of one scale, the shortest first, at most twelve; the
/// longest legs that the best tour has not in red. UsageError as above.
std::string tour_comparison_maps(const Stops& stops, const std::vector<TourAnswer>& answers);
/// A program for gnuplot: length against time, of those that get better as they go on.
std::string tour_progress_figure(const Stops& stops, const std::vector<TourAnswer>& answers,
                                 const std::string& file, const std::string& as = "");
/// The rounds in small maps, each loop in its own colour; of many the first six and the last six.
/// UsageError also where the tour was not found in rounds.
std::string rounds_figure(const Stops& stops, const TourAnswer& answer);

}  // namespace kiteknot
#pragma GCC visibility pop
