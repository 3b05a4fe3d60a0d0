#include <cmath>

#include "data/files.hpp"
#include "kiteknot/documents.hpp"
#include "kiteknot/vary.hpp"
#include "model/model_data.hpp"
#include "report/documents/json.hpp"
#include "report/questions/variants.hpp"

namespace kiteknot {

using report::Json;

std::string variation_document(const Model& model, const Variation& v) {
  const auto number = [](const std::optional<Rational>& r) -> Json {
    return r ? report::number(*r) : Json(nullptr);
  };
  const auto real = [&](const std::optional<double>& bound) -> Json {
    if (!bound || !std::isfinite(*bound)) return nullptr;
    return number(Rational::exactly(*bound));
  };
  const auto entry = [&](const Variant& one) {
    Json changed = Json::array();
    for (const auto& [d, value] : one.changed)
      changed.push_back({{"decision", model.data().decision_name(d)}, {"value", number(value)}});
    for (const auto& [name, value] : one.only_here)
      changed.push_back({{"decision", name}, {"value", number(value)}});
    for (const std::string& name : one.not_here)
      changed.push_back({{"decision", name}, {"value", nullptr}});
    Json later = Json::object();
    for (std::size_t k = 0; k < std::min(one.later.size(), v.later_goals.size()); ++k)
      later[v.later_goals[k]] = number(one.later[k]);
    Json told{{"name", report::name_of(v, one)}};
    if (v.kind == Variation::Kind::sweep && &one != &v.base &&
        Rational(one.at.to_double()) != one.at)
      told["exact"] = one.at.text();  // "1/7"
    told.update({{"outcome", word(one.outcome)},
                 {"goal", number(one.goal)},
                 {"bound", real(one.bound)},
                 {"change", number(report::change(v, one))},
                 {"decisions_changed", std::move(changed)},
                 {"seconds", one.seconds}});
    if (!later.empty()) told["later_goals"] = std::move(later);
    return told;
  };
  static constexpr const char* kKinds[] = {"scenarios", "rules", "sweep"};
  Json document = {{"format", "kiteknot-variation"},
                   {"version", 1},
                   {"model", model.title()},
                   {"kind", kKinds[static_cast<int>(v.kind)]}};
  if (!v.varied.empty()) document["number"] = v.varied;
  if (v.all_steps || !v.steps.empty()) {
    document["steps"] = Json::array();
    for (const Step& s : v.steps) {
      document["steps"].push_back({{"before", number(s.before)},
                                   {"after", number(s.after)},
                                   {"goal_before", number(s.goal_before)},
                                   {"goal_after", number(s.goal_after)},
                                   {"plan_before", s.plan_before},
                                   {"plan_after", s.plan_after},
                                   {"last_old", s.last_old},
                                   {"first_new", s.first_new},
                                   {"tie", s.tie}});
      const auto exact = [&](const char* key, const Rational& value) {
        if (Rational(value.to_double()) != value) document["steps"].back()[key] = value.text();
      };
      exact("before_exact", s.before);
      exact("after_exact", s.after);
    }
  }
  if (!v.lines.empty()) {
    document["lines"] = Json::array();
    for (const Line& l : v.lines)
      document["lines"].push_back({{"from", number(l.from)},
                                   {"to", number(l.to)},
                                   {"goal_from", number(l.goal_from)},
                                   {"goal_to", number(l.goal_to)},
                                   {"least_for_each_1", number(l.least)},
                                   {"most_for_each_1", number(l.most)}});
  }
  document["base"] = entry(v.base);
  document["variants"] = Json::array();
  for (const Variant& one : v.variants) document["variants"].push_back(entry(one));
  return report::dumped(document);
}

void write_variation(const std::string& path, const Model& model, const Variation& variation) {
  data::write_file(path, variation_document(model, variation));
}

}  // namespace kiteknot
