#include "kiteknot/result.hpp"

#include <algorithm>
#include <cmath>

#include <fmt/format.h>

namespace kiteknot {

void need_sensible(const SolveOptions& options) {
  const auto need = [](bool fine, const char* what, double value) {
    if (!fine) throw UsageError(fmt::format("{} of {} makes no sense", what, value));
  };
  need(options.seconds >= 0.0, "a limit in seconds", options.seconds);
  need(options.seconds_each >= 0.0, "a limit in seconds", options.seconds_each);
  need(options.gap >= 0.0 && std::isfinite(options.gap), "a gap", options.gap);
  need(options.memory_bytes >= 0.0, "a memory in bytes", options.memory_bytes);
  need(options.nodes >= 0, "a number of branches", static_cast<double>(options.nodes));
  need(options.threads >= 0, "a number of threads", options.threads);
  need(options.record_branches >= 0, "a number of branches",
       static_cast<double>(options.record_branches));
  for (const auto& [decision, value] : options.start)
    if (!value.is_finite()) throw UsageError("a search is to start from an infinite value");
}

void SearchCounts::add(const SearchCounts& other) {
  nodes += other.nodes;
  lp_iterations += other.lp_iterations;
  work += other.work;
  cuts += other.cuts;
  for (const auto& [by, count] : other.closed) {
    const auto same = std::ranges::find(closed, by, [](const auto& c) { return c.first; });
    if (same != closed.end())
      same->second += count;
    else
      closed.emplace_back(by, count);
  }
  for (const SearchPart& p : other.parts) {
    const auto same = std::ranges::find_if(
        parts, [&](const SearchPart& own) { return own.kind == p.kind && own.name == p.name; });
    if (same == parts.end()) {
      parts.push_back(p);
      continue;
    }
    same->calls += p.calls;
    same->work += p.work;
    same->found += p.found;
    same->conflicts += p.conflicts;
  }
}

Result::Result() : model_("") {}
Result::Result(const Model& model) : model_(model) {}
Result::Result(const Result&) = default;
Result::Result(Result&&) noexcept = default;
Result& Result::operator=(const Result&) = default;
Result& Result::operator=(Result&&) noexcept = default;
Result::~Result() = default;

const Rational& Result::goal() const& {
  if (goals.empty() || !goals[0].value)
    throw UsageError("there is no plan, so the goal has no value");
  return *goals[0].value;
}

const Rational& Result::operator[](const Decision& d) const& {
  if (!plan) throw UsageError(fmt::format("there is no plan: the model is {}", word(outcome)));
  return (*plan)[d];
}

std::vector<std::string> Result::chosen(const Decisions& family) const {
  std::vector<std::string> names;
  for (std::int32_t i = 0; i < family.size(); ++i)
    if (!(*this)[family.member(i)].is_zero()) names.push_back(model_.name(family.member(i)));
  return names;
}

}  // namespace kiteknot
