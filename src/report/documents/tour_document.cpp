#include "base/text.hpp"
#include "data/stops_data.hpp"
#include "kiteknot/documents.hpp"
#include "report/documents/json.hpp"

namespace kiteknot {
namespace {

using report::Json;
using report::number;

Json order_of(const Stops& stops, const std::vector<std::int32_t>& order) {
  Json names = Json::array();
  for (const std::int32_t s : order) names.push_back(stops.name(s));
  return names;
}

Json round_of(const Stops& stops, const TourRound& round) {
  Json loops = Json::array();
  for (const std::vector<std::int32_t>& loop : round.loops) loops.push_back(order_of(stops, loop));
  return {{"length", number(round.length)}, {"loops", loops}};
}

}  // namespace

std::string tour_document(const Stops& stops, const TourAnswer& a) {
  need_answer_of(stops, a);
  Json goal = {{"name", "length"}, {"sense", "minimize"}};
  goal["value"] = a.order.empty() ? Json() : number(a.length);
  goal["bound"] = a.bound ? number(*a.bound) : Json();
  goal["gap"] = a.gap ? Json(*a.gap) : Json();
  Json search = {{"way", a.way},
                 {"nodes", a.nodes},
                 {"generated_constraints", a.rules[0] + a.rules[1] + a.rules[2] + a.load_rules},
                 {"seconds", a.seconds}};
  search["stopped_by"] = a.stopped_by.empty() ? Json() : Json(a.stopped_by);
  Json progress = Json::array();
  for (const TourProgress& p : a.progress)
    progress.push_back({{"seconds", p.seconds},
                        {"best", p.length > 0.0 ? Json(p.length) : Json()},
                        {"bound", p.bound > 0.0 ? Json(p.bound) : Json()}});
  search["progress"] = std::move(progress);
  Json document = {{"format", "kiteknot-result"},     {"version", 1},
                   {"model", stops.title()},          {"outcome", word(a.outcome)},
                   {"goals", Json::array({goal})},    {"decisions", Json::array()},
                   {"rules", Json::array()},          {"search", search},
                   {"tour", order_of(stops, a.order)}};
  if (stops.several()) {
    Json trips = Json::array();
    for (const std::vector<std::int32_t>& trip : a.trips)
      trips.push_back({{"load", stops.load(trip)}, {"stops", order_of(stops, trip)}});
    document["trips"] = std::move(trips);
  }
  if (!a.rounds.empty()) {
    Json rounds = Json::array();
    for (const TourRound& round : a.rounds) rounds.push_back(round_of(stops, round));
    document["rounds"] = std::move(rounds);
  }
  return document.dump(2, ' ', false, Json::error_handler_t::replace) + "\n";
}

}  // namespace kiteknot
