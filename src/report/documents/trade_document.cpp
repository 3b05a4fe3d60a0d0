#include "data/files.hpp"
#include "kiteknot/documents.hpp"
#include "kiteknot/trade.hpp"
#include "model/model_data.hpp"
#include "report/documents/json.hpp"

namespace kiteknot {

using report::Json;
using report::number;

std::string trade_document(const Model& model, const TradeOff& t) {
  const auto goal = [](const TradeGoal& g) {
    return Json{{"name", g.name}, {"sense", word(g.sense)}};
  };
  Json points = Json::array();
  for (const TradePoint& p : t.points) {
    Json decisions = Json::array();
    for (Index d = 0; d < model.num_decisions(); ++d)
      if (!p.plan[d].is_zero())
        decisions.push_back(
            {{"decision", model.data().decision_name(d)}, {"value", number(p.plan[d])}});
    points.push_back({{"first", number(p.first)},
                      {"second", number(p.second)},
                      {"proven", p.proven},
                      {"decisions", std::move(decisions)}});
  }
  const Json document = {{"format", "kiteknot-trade"},
                         {"version", 1},
                         {"model", model.title()},
                         {"first", goal(t.first)},
                         {"second", goal(t.second)},
                         {"outcome", word(t.outcome)},
                         {"all", t.all},
                         {"points", std::move(points)}};
  return report::dumped(document);
}

void write_trade(const std::string& path, const Model& model, const TradeOff& trade) {
  data::write_file(path, trade_document(model, trade));
}

}  // namespace kiteknot
