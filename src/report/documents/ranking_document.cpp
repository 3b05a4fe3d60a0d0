#include "data/files.hpp"
#include "kiteknot/documents.hpp"
#include "kiteknot/ranking.hpp"
#include "model/model_data.hpp"
#include "report/documents/json.hpp"

namespace kiteknot {

using report::Json;
using report::number;

std::string ranking_document(const Ranking& ranking) {
  const ModelData& m = ranking.model.data();
  Json plans = Json::array();
  for (const RankedPlan& p : ranking.plans) {
    Json goals = Json::object(), decisions = Json::array();
    for (std::size_t g = 0; g < p.goals.size(); ++g) goals[m.goals[g].name] = number(p.goals[g]);
    for (const auto& f : m.families)
      for (Index i = 0; i < f->index.count; ++i)
        if (const Rational& value = p.plan[f->first + i]; !value.is_zero())
          decisions.push_back(
              {{"name", f->name}, {"index", f->index.keys(i)}, {"value", number(value)}});
    plans.push_back({{"rank", plans.size() + 1},
                     {"proven", plans.size() < ranking.proven},
                     {"goals", goals},
                     {"decisions", decisions}});
  }
  const Json document{
      {"format", "kiteknot-plans"},
      {"model", m.title},
      {"differ", ranking.question.differ},
      {"plans", plans},
      {"no_more", ranking.no_more},
      {"stopped_by", ranking.stopped_by.empty() ? Json(nullptr) : Json(ranking.stopped_by)}};
  return report::dumped(document);
}

void write_ranking(const std::string& path, const Ranking& ranking) {
  data::write_file(path, ranking_document(ranking));
}

}  // namespace kiteknot
