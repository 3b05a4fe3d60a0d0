// The result document; docs/result.md describes every key.

#include <cmath>
#include <limits>
#include <string>

#include <nlohmann/json.hpp>

#include "data/files.hpp"
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
  if (value.is_finite() && value.is_integer() && value.abs() <= most)
    return std::stoll(value.text());
  return number(value.to_double());
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

Json decisions_of(const Result& r) {
  Json decisions = Json::array();
  if (!r.plan) return decisions;
  const ModelData& m = r.model().data();
  for (const auto& f : m.families)
    for (Index i = 0; i < f->index.count; ++i) {
      const Index d = f->first + i;
      Json entry = {
          {"name", f->name}, {"index", f->index.keys(i)}, {"value", number((*r.plan)[d])}};
      add_exact(entry, (*r.plan)[d]);
      if (has_duals(r))
        entry["reduced_cost"] = number(r.relaxed.reduced_costs[static_cast<std::size_t>(d)]);
      if (has_duals(r) && !r.relaxed.coefficient_stretches.empty()) {
        const Stretch s = r.relaxed.coefficient_stretches[static_cast<std::size_t>(d)];
        entry["plan_stays"] = {{"from", number(s.from)}, {"to", number(s.to)}};
      }
      decisions.push_back(std::move(entry));
    }
  return decisions;
}

Json rules_of(const Result& r) {
  Json rules = Json::array();
  if (!r.report) return rules;
  const ModelData& m = r.model().data();
  std::size_t k = 0;
  for (const RuleValue& v : r.report->rules) {
    const RuleFamily& f = *m.rules[static_cast<std::size_t>(v.family)];
    Json entry = {{"name", f.name}, {"index", f.index.keys(v.member)}};
    if (!v.logical) {
      entry["low"] = number(v.low);
      entry["value"] = number(v.value);
      add_exact(entry, v.value);
      if (v.two_sided) {  // the value is left less right
        entry["left"] = number(v.left);
        entry["right"] = number(v.right);
      }
      entry["high"] = number(v.high);
      entry["slack"] = number(v.slack);
      entry["binding"] = v.binding;
    }
    entry["met"] = v.met;
    if (v.soft) {
      entry["missed_by"] = number(v.missed_by);
      entry["charge"] = number(v.charge);
    }
    if (has_duals(r)) entry["shadow_price"] = number(r.relaxed.shadow_prices[k]);
    if (has_duals(r) && v.binding && !r.relaxed.limit_stretches.empty()) {
      const Stretch s = r.relaxed.limit_stretches[k];
      entry["price_holds"] = {{"from", number(s.from)}, {"to", number(s.to)}};
    }
    ++k;
    rules.push_back(std::move(entry));
  }
  return rules;
}

// Named expressions at the plan.
Json expressions_of(const Result& r) {
  Json expressions = Json::array();
  const ModelData& m = r.model().data();
  if (!r.plan || r.relaxed_only) return expressions;
  const Evaluation at(m, r.plan->values(), true);
  for (const auto& l : m.lets)
    for (Index i = 0; i < l->index.count; ++i) {
      const Rational value = at.value(l->values[static_cast<std::size_t>(i)]);
      Json entry = {{"name", l->name}, {"index", l->index.keys(i)}, {"value", number(value)}};
      add_exact(entry, value);
      expressions.push_back(std::move(entry));
    }
  return expressions;
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

}  // namespace

namespace {

Json document_of(const Result& r) {
  Json document = {{"format", "kiteknot-result"},
                   {"version", 1},
                   {"model", r.model().title()},
                   {"outcome", word(r.outcome)},
                   {"relaxed", r.relaxed_only}};
  if (!r.reason.empty()) document["reason"] = r.reason;
  document["goals"] = goals_of(r);
  document["relaxation"] = {{"value", number(r.relaxed.value)}, {"integral", r.relaxed.integral}};
  document["decisions"] = decisions_of(r);
  if (!r.model().data().lets.empty()) document["expressions"] = expressions_of(r);
  document["rules"] = rules_of(r);
  document["search"] = search_of(r);
  document["check"] = r.report ? Json{{"exact", r.report->exact},
                                      {"largest_violation", number(r.report->largest_violation)}}
                               : Json(nullptr);
  return document;
}

std::string told(const Json& document) {
  return document.dump(1, ' ', false, Json::error_handler_t::replace) + "\n";
}

}  // namespace

std::string result_document(const Result& r) {
  return told(document_of(r));
}

std::string saved_answer(const Result& result, const Origin& origin) {
  Json document = document_of(result);
  document["origin"] = {{"file", origin.file},
                        {"scenario", text_or_null(origin.scenario)},
                        {"set", origin.settings},
                        {"when", origin.when}};
  return told(document);
}

void write_answer(const std::string& path, const Result& result, const Origin& origin) {
  data::write_file(path, saved_answer(result, origin));
}

void write_result(const std::string& path, const Result& result) {
  data::write_file(path, result_document(result));
}

}  // namespace kiteknot
