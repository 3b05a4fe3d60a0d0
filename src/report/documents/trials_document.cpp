// Attempts for other programs, and as lines that an interrupted comparison goes on from.

#include <cmath>

#include <fmt/format.h>

#include "base/text.hpp"
#include "data/files.hpp"
#include "data/tables/csv.hpp"
#include "kiteknot/documents.hpp"
#include "report/documents/json.hpp"

namespace kiteknot {
namespace {

using report::Json;

Json value_of(const std::optional<Rational>& r) {
  return r ? report::number(*r) : Json(nullptr);
}
Json real(const std::optional<double>& x) {
  return x && std::isfinite(*x) ? report::number(Rational::exactly(*x)) : Json(nullptr);
}

Json attempt(const Attempt& a) {
  Json better = Json::array();
  for (const auto& [seconds, value] : a.better) better.push_back({seconds, value});
  return {{"case", a.of},
          {"state", a.state},
          {"way", a.way},
          {"run", a.run},
          {"seed", a.seed},
          {"limit", a.limit},
          {"outcome", word(a.outcome)},
          {"found", a.found},
          {"value", a.value ? Json(a.value->text()) : Json(nullptr)},
          {"bound", a.bound && std::isfinite(*a.bound) ? Json(*a.bound) : Json(nullptr)},
          {"seconds", a.seconds},
          {"better", std::move(better)},
          {"note", a.note},
          {"refused", a.refused},
          {"plan", a.plan}};
}

}  // namespace

std::string trials_csv(const Trials& t) {
  std::string text =
      "case,way,run,seed,value,best,bound,proven,distance,seconds_to_best,seconds_to_1_percent,"
      "seconds,outcome,note\n";
  constexpr double kNear = 0.01;
  const auto cell = [](const std::optional<double>& x) {
    return x && std::isfinite(*x) ? fmt::format("{}", *x) : std::string();
  };
  for (const Attempt& a : t.attempts) {
    const auto c = std::ranges::find(t.cases, a.of, &TrialCaseAnswer::name);
    if (c == t.cases.end()) continue;
    text += fmt::format(
        "{},{},{},{},{},{},{},{},{},{},{},{},{},{}\n", data::csv_cell(a.of), data::csv_cell(a.way),
        a.run, a.seed, a.found && a.value ? decimal(*a.value) : "",
        c->best ? decimal(*c->best) : "", cell(c->bound), c->proven ? 1 : 0, cell(distance(t, a)),
        cell(a.found && !a.better.empty() ? std::optional(a.better.back().first) : std::nullopt),
        cell(seconds_within(t, a, kNear)), a.seconds, a.refused ? "refused" : word(a.outcome),
        data::csv_cell(a.note));
  }
  return text;
}

std::string trials_document(const Trials& t) {
  Json document = {{"format", "kiteknot-trials"}, {"version", 1},
                   {"seconds", t.seconds},        {"runs", t.runs},
                   {"stopped", t.stopped},        {"cases_at_once", t.at_once},
                   {"processes", t.processes},    {"cases", Json::array()},
                   {"ways", Json::array()},       {"attempts", Json::array()}};
  for (const TrialCaseAnswer& c : t.cases)
    document["cases"].push_back({{"name", c.name},
                                 {"model", c.title},
                                 {"goal", c.goal},
                                 {"sense", word(c.sense)},
                                 {"decisions", c.decisions},
                                 {"rules", c.rules},
                                 {"best", value_of(c.best)},
                                 {"bound", real(c.bound)},
                                 {"proven", c.proven},
                                 {"infeasible", c.infeasible},
                                 {"reading_seconds", c.reading_seconds},
                                 {"failed", c.failed}});
  const auto finite = [](double d) { return std::isfinite(d) ? Json(d) : Json(nullptr); };
  for (const WayStanding& s : standings(t))
    document["ways"].push_back(
        {{"way", s.way},
         {"cases", s.cases},
         {"without_plan", s.without},
         {"at_best", s.at_best},
         {"wins", s.wins},
         {"refused", s.refused},
         {"median", finite(s.median)},
         {"mean", finite(s.mean)},
         {"worst", finite(s.worst)},
         {"seconds_to_best", s.to_best ? Json(*s.to_best) : Json(nullptr)},
         {"seconds_to_1_percent", s.to_near ? Json(*s.to_near) : Json(nullptr)}});
  for (const Attempt& a : t.attempts) document["attempts"].push_back(attempt(a));
  return report::dumped(document);
}

std::string attempt_line(const Attempt& a) {
  return attempt(a).dump(-1, ' ', false, Json::error_handler_t::replace) + "\n";
}

std::vector<Attempt> read_attempts(const std::string& text) {
  std::vector<Attempt> all;
  std::size_t from = 0;
  while (from < text.size()) {
    const std::size_t end = text.find('\n', from);
    if (end == std::string::npos) break;  // the last one was cut off while it was written
    const std::string line = text.substr(from, end - from);
    from = end + 1;
    try {
      const Json j = Json::parse(line);
      Attempt a;
      a.of = j.at("case");
      a.state = j.at("state");
      a.way = j.at("way");
      a.run = j.at("run");
      a.seed = j.at("seed");
      a.limit = j.at("limit");
      a.found = j.at("found");
      const std::string outcome = j.at("outcome");
      for (const Outcome o : {Outcome::optimal, Outcome::accepted, Outcome::unproven,
                              Outcome::undecided, Outcome::infeasible, Outcome::unbounded})
        if (word(o) == outcome) a.outcome = o;
      if (!j.at("value").is_null()) {
        a.value = Rational::parse(j.at("value").get<std::string>());
        if (!a.value) throw UsageError("a value that is no figure");
      }
      if (!j.at("bound").is_null()) a.bound = j.at("bound").get<double>();
      a.seconds = j.at("seconds");
      for (const Json& b : j.at("better")) a.better.emplace_back(b.at(0), b.at(1));
      a.note = j.at("note");
      a.refused = j.at("refused");
      a.plan = j.at("plan").get<std::vector<std::string>>();
      all.push_back(std::move(a));
    } catch (const std::exception&) {
      throw UsageError(fmt::format("line {} is none that a comparison has kept", all.size() + 1));
    }
  }
  return all;
}

}  // namespace kiteknot
