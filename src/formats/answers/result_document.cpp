// The result document; docs/result.md describes every key.

#include <cmath>
#include <limits>
#include <string>

#include <nlohmann/json.hpp>

#include "data/files.hpp"
#include "formats/answers/document_text.hpp"
#include "kiteknot/read.hpp"
#include "kiteknot/saved.hpp"
#include "model/evaluation.hpp"
#include "model/model_data.hpp"

namespace kiteknot {
namespace {

using Json = nlohmann::ordered_json;

Json number(double value) {
  if (!std::isfinite(value)) return nullptr;
  if (value == std::trunc(value) && std::abs(value) < 0x1p53)
    return static_cast<std::int64_t>(value);
  return value;
}
Json number(const Rational& value) {
  const Rational most(std::numeric_limits<std::int64_t>::max());
  if (!value.is_integer()) return number(value.to_double());
  const double near = value.to_double();
  if (std::abs(near) < 0x1p53) return static_cast<std::int64_t>(near);  // the very one
  return value.abs() <= most ? Json(std::stoll(value.text())) : number(near);
}
// "1/3" beside the nearest double, where no double says it.
void add_exact(Json& entry, const Rational& value) {
  if (value.is_finite() && !value.is_integer() && Rational(value.to_double()) != value)
    entry["exact"] = value.text();
}
template <class T>
Json number(const std::optional<T>& value) {
  return value ? number(*value) : Json(nullptr);
}

Json text_or_null(const std::string& text) {
  return text.empty() ? Json(nullptr) : Json(text);
}

Json goals_of(const Result& r) {
  Json goals = Json::array();
  for (const GoalResult& g : r.goals) {
    goals.push_back({{"name", g.name},
                     {"sense", word(g.sense)},
                     {"value", number(g.value)},
                     {"bound", number(g.bound)},
                     {"gap", number(g.gap)}});
    if (g.value) add_exact(goals.back(), *g.value);
    if (g.reached) goals.back()["reached"] = number(g.reached);
    if (g.alone) goals.back()["alone"] = number(g.alone);
    for (const auto& [to, amount] : g.yielded) goals.back()["yielded"][to] = number(amount);
  }
  return goals;
}

// Dual values belong to the answer where the model solved has no integers.
bool has_duals(const Result& r) {
  if (!(r.relaxed_only || !r.has_integers) || r.relaxed.shadow_prices.empty()) return false;
  // Whoever made a result by hand may have left them half filled in.
  const auto fits = [](std::size_t size, std::size_t wanted) {
    return size == 0 || size == wanted;
  };
  const auto decisions = static_cast<std::size_t>(r.model().data().num_decisions);
  return r.relaxed.reduced_costs.size() == decisions && r.report &&
         r.relaxed.shadow_prices.size() == r.report->rules.size() &&
         fits(r.relaxed.limit_stretches.size(), r.report->rules.size()) &&
         fits(r.relaxed.coefficient_stretches.size(), decisions);
}

// "1/3" beside the nearest double, where no double says it.
void tell_exact(DocumentText& text, const Rational& value) {
  if (value.is_finite() && !value.is_integer() && Rational(value.to_double()) != value)
    text.field("exact", value.text());
}

void tell_decisions(DocumentText& text, const Result& r) {
  text.begin_list("decisions");
  const ModelData& m = r.model().data();
  const bool duals = has_duals(r), stretches = duals && !r.relaxed.coefficient_stretches.empty();
  for (std::size_t k = 0; r.plan && k < m.families.size(); ++k) {
    const auto& f = m.families[k];
    for (Index i = 0; i < f->index.count; ++i) {
      const Index d = f->first + i;
      const Rational& value = (*r.plan)[d];
      text.begin_entry();
      text.field("name", f->name);
      text.field("index", f->index.keys(i));
      text.field("value", value);
      tell_exact(text, value);
      if (duals) text.field("reduced_cost", r.relaxed.reduced_costs[static_cast<std::size_t>(d)]);
      if (stretches) {
        const Stretch s = r.relaxed.coefficient_stretches[static_cast<std::size_t>(d)];
        text.span("plan_stays", s.from, s.to);
      }
      text.end_entry();
    }
  }
  text.end_list();
}

void tell_rules(DocumentText& text, const Result& r) {
  text.begin_list("rules");
  const ModelData& m = r.model().data();
  const bool duals = has_duals(r);
  for (std::size_t k = 0; r.report && k < r.report->rules.size(); ++k) {
    const RuleValue& v = r.report->rules[k];
    const RuleFamily& f = *m.rules[static_cast<std::size_t>(v.family)];
    text.begin_entry();
    text.field("name", f.name);
    text.field("index", f.index.keys(v.member));
    if (!v.logical) {
      text.field("low", v.low);
      text.field("value", v.value);
      tell_exact(text, v.value);
      if (v.two_sided) {  // the value is left less right
        text.field("left", v.left);
        text.field("right", v.right);
      }
      text.field("high", v.high);
      text.field("slack", v.slack);
      text.field("binding", v.binding);
    }
    text.field("met", v.met);
    if (v.soft) {
      text.field("missed_by", v.missed_by);
      text.field("charge", v.charge);
    }
    if (duals) text.field("shadow_price", r.relaxed.shadow_prices[k]);
    if (duals && v.binding && !r.relaxed.limit_stretches.empty()) {
      const Stretch s = r.relaxed.limit_stretches[k];
      text.span("price_holds", s.from, s.to);
    }
    text.end_entry();
  }
  text.end_list();
}

// Named expressions at the plan.
void tell_expressions(DocumentText& text, const Result& r) {
  text.begin_list("expressions");
  const ModelData& m = r.model().data();
  if (r.plan && !r.relaxed_only) {
    const Evaluation at(m, r.plan->values(), true);
    for (const auto& l : m.lets)
      for (Index i = 0; i < l->index.count; ++i) {
        const Rational value = at.value(l->values[static_cast<std::size_t>(i)]);
        text.begin_entry();
        text.field("name", l->name);
        text.field("index", l->index.keys(i));
        text.field("value", value);
        tell_exact(text, value);
        text.end_entry();
      }
  }
  text.end_list();
}

Json parts_of(const SearchCounts& search) {
  Json parts = Json::array();
  for (const SearchPart& p : search.parts)
    parts.push_back({{"kind", p.kind},
                     {"name", p.name},
                     {"calls", p.calls},
                     {"found", p.found},
                     {"conflicts", p.conflicts},
                     {"work", p.work}});
  return parts;
}

Json search_of(const Result& r) {
  Json closed = Json::object();
  for (const auto& [by, count] : r.search.closed) closed[by] = count;
  Json progress = Json::array();
  for (const Progress& p : r.search.progress)
    progress.push_back({{"seconds", p.seconds},
                        {"best", number(p.best)},
                        {"bound", number(p.bound)},
                        {"open", p.open},
                        {"nodes", p.nodes},
                        {"found_by", text_or_null(p.found_by)}});
  Json reduced;
  if (r.search.reduced)
    reduced = {{"columns", r.search.reduced->columns},
               {"columns_before", r.search.reduced->columns_before},
               {"rows", r.search.reduced->rows},
               {"rows_before", r.search.reduced->rows_before},
               {"relaxed", number(r.search.reduced->relaxed)}};
  return {{"nodes", r.search.nodes},
          {"lp_iterations", r.search.lp_iterations},
          {"reduced", std::move(reduced)},
          {"cuts", r.search.cuts},
          {"root_bound", number(r.search.root_bound)},
          {"generated_constraints", r.search.generated_constraints},
          {"seconds", r.search.seconds},
          {"stopped_by", text_or_null(r.search.stopped_by)},
          {"workers", r.search.workers},
          {"seconds_shared", r.search.seconds_shared},
          {"without_branch", r.search.without_branch},
          {"waited", r.search.waited},
          {"processes", r.search.processes},
          {"branches_of_processes", r.search.branches_of_processes},
          {"seconds_before", r.search.seconds_before},
          {"start", text_or_null(r.search.start)},
          {"start_value", number(r.search.start_value)},
          {"structure", text_or_null(r.search.structure)},
          {"closed", std::move(closed)},
          {"parts", parts_of(r.search)},
          {"progress", std::move(progress)}};
}

DocumentText document_of(const Result& r) {
  DocumentText document;
  document.add("format", Json("kiteknot-result"));
  document.add("version", Json(1));
  document.add("model", Json(r.model().title()));
  document.add("outcome", Json(word(r.outcome)));
  document.add("relaxed", Json(r.relaxed_only));
  if (!r.reason.empty()) document.add("reason", Json(r.reason));
  document.add("goals", goals_of(r));
  document.add("relaxation",
               Json{{"value", number(r.relaxed.value)}, {"integral", r.relaxed.integral}});
  tell_decisions(document, r);
  if (!r.model().data().lets.empty()) tell_expressions(document, r);
  tell_rules(document, r);
  document.add("search", search_of(r));
  document.add("check", r.report ? Json{{"exact", r.report->exact},
                                        {"largest_violation", number(r.report->largest_violation)}}
                                 : Json(nullptr));
  return document;
}

}  // namespace

std::string result_document(const Result& r) {
  return document_of(r).take();
}

std::string saved_answer(const Result& result, const Origin& origin) {
  DocumentText document = document_of(result);
  document.add("origin", Json{{"file", origin.file},
                              {"scenario", text_or_null(origin.scenario)},
                              {"set", origin.settings},
                              {"when", origin.when}});
  return document.take();
}

void write_answer(const std::string& path, const Result& result, const Origin& origin) {
  data::write_file(path, saved_answer(result, origin));
}

void write_result(const std::string& path, const Result& result) {
  data::write_file(path, result_document(result));
}

}  // namespace kiteknot
