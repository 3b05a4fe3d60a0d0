#include "formats/knot/tour_binder.hpp"

#include <fmt/format.h>

#include "base/text.hpp"
#include "formats/knot/evaluator.hpp"
#include "formats/knot/messages.hpp"
#include "model/tours/tour_rule.hpp"

namespace kiteknot::formats::knot {
namespace {

class TourBinder {
 public:
  TourBinder(const Statement& st, NameSource& names, Diagnostics& notes, Model& model)
      : st_(st), tour_(*st.as<RuleText>().tour), names_(names), notes_(notes), model_(model) {}

  void run() {
    if (!st_.heading.rows.empty())
      fail(st_.heading.at, "a tour is one rule for all of its stops: its name has no rows");
    const Table stops = names_.need_table(tour_.stops.text, tour_.stops.at);
    TourTerms terms;
    if (tour_.visiting) terms.visiting = family(*tour_.visiting);
    if (tour_.from) terms.from = row(stops, *tour_.from);
    for (const auto& [a, b] : tour_.ahead) terms.ahead.emplace_back(row(stops, a), row(stops, b));
    if (tour_.at_most) terms.at_most = figure(*tour_.at_most, "a number of tours");
    if (tour_.carrying) {
      names_.need_column(stops.data(), tour_.carrying->text);
      names_.note_use(stops.data(), tour_.carrying->text);
      try {
        terms.carrying = stops.numbers(tour_.carrying->text);
      } catch (const UsageError& e) {
        fail(tour_.carrying->at, e.what());
      }
      terms.capacity = figure(*tour_.capacity, "a capacity");
    }
    try {
      model_.tour(st_.heading.name, family(tour_.legs), stops, terms, st_.stated);
    } catch (const UsageError& e) {
      fail(tour_.at, e.what());
    }
    warn_of_ends();
  }

 private:
  Decisions family(const Told& name) {
    const Named found = names_.find(name.text, name.at);
    if (!found.family) fail(name.at, messages::no_family(name.text, names_.known_values()));
    return {model_.data().tag, found.family};
  }

  static Row row(const Table& stops, const Told& key) {
    try {
      return stops[key.text];
    } catch (const UsageError& e) {
      fail(key.at, e.what());
    }
  }

  Expression figure(const SyntaxNode& node, const char* what) {
    Resolver resolver(names_, notes_);
    const MeaningPtr m = resolver.data_expression(node, what);
    Evaluator evaluator(model_.data().tag);
    evaluator.set_rows({});
    return evaluator.expression(*m);
  }

  // Stops that no tour can come to, before anything is solved.
  void warn_of_ends() {
    const TourRule& rule = *model_.data().rules.back()->conditions[0].trips;
    std::vector<std::string> without;
    for (const auto& [s, why] : rule.dead_ends()) without.push_back(why);
    if (!without.empty())
      names_.warn(st_.heading.at, fmt::format("no tour can visit {}", listed(without, 6)));
  }

  const Statement& st_;
  const TourText& tour_;
  NameSource& names_;
  Diagnostics& notes_;
  Model& model_;
};

}  // namespace

void bind_tour(const Statement& st, NameSource& names, Diagnostics& notes, Model& model) {
  TourBinder(st, names, notes, model).run();
}

}  // namespace kiteknot::formats::knot
