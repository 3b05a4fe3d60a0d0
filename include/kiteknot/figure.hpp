#pragma once
// Figures of sweeps and trade-offs, as programs for gnuplot. Nothing is drawn here: whoever has
// gnuplot gives it the text.

#include "kiteknot/trade.hpp"
#include "kiteknot/vary.hpp"

namespace kiteknot {

/// A program that draws into `file`, 1280 x 800 pixels; SVG where its ending (or that of `as`) is
/// .svg, PNG where it is .png; UsageError otherwise.
std::string sweep_figure(const Model& model, const Variation& variation, const std::string& file,
                         const std::string& as = "");
std::string trade_figure(const Model& model, const TradeOff& trade, const std::string& file,
                         const std::string& as = "");

}  // namespace kiteknot
