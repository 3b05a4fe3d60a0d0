#pragma once
// What the questions around a model came to, for other programs: comma-separated tables and JSON.
// Answers themselves: result_document (read.hpp) and saved_answer (saved.hpp).

#include "kiteknot/firm.hpp"
#include "kiteknot/ranking.hpp"
#include "kiteknot/tour.hpp"
#include "kiteknot/trade.hpp"
#include "kiteknot/trials.hpp"
#include "kiteknot/vary.hpp"

#pragma GCC visibility push(default)
namespace kiteknot {

/// name, outcome, goal, change, seconds, bound, the later goals; and the same with the changed
/// decisions as JSON.
std::string variation_csv(const Variation& variation);
/// The same and the changed decisions, as JSON.
std::string variation_document(const Model& model, const Variation& variation);
/// Both to a file, under a temporary name first; IoError where that cannot be.
void write_variation_csv(const std::string& path, const Variation& variation);
/// As variation_document.
void write_variation(const std::string& path, const Model& model, const Variation& variation);

/// The two goals, proven, seconds, and every decision that is not 0 somewhere.
std::string trade_csv(const Model& model, const TradeOff& trade);
/// To a file, under a temporary name first; IoError where that cannot be.
void write_trade_csv(const std::string& path, const Model& model, const TradeOff& trade);
/// The same as JSON.
std::string trade_document(const Model& model, const TradeOff& trade);
/// As trade_document.
void write_trade(const std::string& path, const Model& model, const TradeOff& trade);

/// figure, kind, now, low, high, settled; an empty end is none, or not settled.
std::string firmness_csv(const Firmness& firmness);

/// The plans in order, each with its goals and the decisions that are not 0.
std::string ranking_document(const Ranking& ranking);
/// To a file, under a temporary name first; IoError where that cannot be.
void write_ranking(const std::string& path, const Ranking& ranking);

/// A round trip as a result document (docs/result.md) with its stops in order under "tour".
std::string tour_document(const Stops& stops, const TourAnswer& answer);

/// One row for each attempt: case, way, run, value, the case's best and bound, distances and times.
std::string trials_csv(const Trials& trials);
/// Cases, ways and attempts with every better plan's time, as JSON.
std::string trials_document(const Trials& trials);
/// An attempt in one line, to be added to a file as soon as it is done; and those of such a file. A
/// last line that was cut off is left out; UsageError for any other that is none.
std::string attempt_line(const Attempt& attempt);
/// See attempt_line.
std::vector<Attempt> read_attempts(const std::string& text);

}  // namespace kiteknot
#pragma GCC visibility pop
