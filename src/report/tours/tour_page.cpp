// A round trip told: the stops in order, what one trip costs over loose loops, and the proof.

#include <algorithm>

#include <fmt/format.h>

#include "base/text.hpp"
#include "data/stops_data.hpp"
#include "kiteknot/pages.hpp"
#include "report/forms/page.hpp"
#include "report/tours/stop_map.hpp"

namespace kiteknot {
namespace {

using report::Page;
using report::Tone;

class TourPage {
 public:
  TourPage(const Stops& stops, const TourAnswer& a, const PageOptions& options)
      : stops_(stops), a_(a), page_(options) {}

  std::string run(std::int32_t most_stops) {
    page_.title(fmt::format("{}: {}", report::heading_of(stops_), verdict()),
                a_.order.empty()                                                    ? Tone::bad
                : a_.outcome == Outcome::optimal || a_.outcome == Outcome::accepted ? Tone::good
                                                                                    : Tone::plain);
    if (a_.order.empty())
      nothing();
    else
      page_.say(sentence());
    if (!a_.rounds.empty()) rounds();
    if (!a_.trips.empty())
      trips(most_stops);
    else if (!a_.order.empty())
      in_order(most_stops);
    if (a_.rounds.empty() && a_.loose && a_.loose->loops.size() > 0) cost_of_one();
    how_it_went();
    return page_.take();
  }

 private:
  [[nodiscard]] std::string long_(const Rational& v) const {
    const std::string unit = stops_.unit();
    const std::string told = report::measured(v);
    return unit.empty() ? told : told + report::kTie + unit;
  }
  [[nodiscard]] static std::string counted_in(std::int64_t count, const char* noun) {
    return counted(static_cast<std::size_t>(count), noun);
  }

  [[nodiscard]] std::string verdict() const {
    switch (a_.outcome) {
      case Outcome::optimal:
        return "proven shortest";
      case Outcome::accepted:
        return fmt::format("within {} of the shortest", percent(a_.gap.value_or(0.0)));
      case Outcome::infeasible:
        return stops_.several() ? "there are no such trips" : "there is no tour";
      default:
        if (a_.order.empty()) return stops_.several() ? "no trips were found" : "no tour was found";
        if (stops_.several())
          return a_.way == "exact" ? "trips, not proven shortest"
                                   : fmt::format("trips by '{}'", a_.way);
        return a_.way == "exact" ? "a tour, not proven shortest"
                                 : fmt::format("a tour by '{}'", a_.way);
    }
  }

  [[nodiscard]] std::string sentence() const {
    std::string text = fmt::format("It is {} long, over {}", long_(a_.length),
                                   counted_in(static_cast<std::int64_t>(a_.order.size()), "stop"));
    if (stops_.several())
      text = fmt::format("{} from {}, over {}, {} long in all", counted(a_.trips.size(), "trip"),
                         stops_.name(a_.order.front()),
                         counted_in(static_cast<std::int64_t>(a_.order.size()), "stop"),
                         long_(a_.length));
    if (a_.outcome == Outcome::optimal)
      return text + (stops_.several() ? ": none are shorter." : ", and no tour is shorter.");
    if (a_.bound && a_.gap)
      return text + fmt::format(". {} shorter than {}: at most {} could be saved.",
                                stops_.several() ? "None are" : "No tour is", long_(*a_.bound),
                                percent(*a_.gap));
    return text + ". Nothing is proven of it.";
  }

  void nothing() {
    if (stops_.size() == 0)
      page_.say("There are no stops.");
    else if (a_.outcome == Outcome::infeasible)
      page_.say(stops_.several()
                    ? "So few trips cannot carry everything that there is."
                    : "The legs that have to be there cannot all be on one round trip.");
    else
      page_.say(stops_.several() ? "The limits were reached first; 'ruin' finds trips soon."
                                 : "The limits were reached first; 'chains' finds a tour at once.");
  }

  void trips(std::int32_t most) {
    page_.heading("The trips");
    std::vector<std::vector<std::string>> rows = {{"", "carries", "length", "stops"}};
    std::int32_t told = 0;
    for (std::size_t t = 0; t < a_.trips.size(); ++t) {
      const std::vector<std::int32_t>& trip = a_.trips[t];
      std::vector<std::string> names;
      for (const std::int32_t s : trip)
        if (s != a_.order.front() && told++ < most) names.push_back(stops_.name(s));
      if (names.empty()) continue;
      std::string list = fmt::format("{}", fmt::join(names, ", "));
      if (names.size() + 1 < trip.size())
        list += fmt::format(" and {} more", trip.size() - 1 - names.size());
      rows.push_back({std::to_string(t + 1), report::told_load(stops_, trip),
                      measured(report::length_of(stops_, trip)), std::move(list)});
    }
    page_.headed_table(rows, {0, 2});
    if (told > most)
      page_.say(fmt::format("--stops {} tells all; --result writes them.", a_.order.size()), 2);
  }

  void in_order(std::int32_t most) {
    page_.heading("In order");
    std::vector<std::vector<std::string>> rows;
    double run = 0.0;
    const auto n = static_cast<std::int32_t>(a_.order.size());
    const std::int32_t told = n > most ? most : n;
    for (std::int32_t k = 0; k < told; ++k) {
      const auto place = static_cast<std::size_t>(k);
      rows.push_back(
          {std::to_string(k + 1), stops_.name(a_.order[place]), k == 0 ? "0" : measured(run)});
      run += stops_.length(a_.order[place], a_.order[place + 1 == a_.order.size() ? 0 : place + 1]);
    }
    if (told == n && n > 1) rows.push_back({"", "and back", measured(a_.length.to_double())});
    page_.table(rows, {0, 2});
    if (told < n)
      page_.say(fmt::format("and {} more; --tour writes all of them, --stops {} tells them.",
                            n - told, n),
                2);
  }
  // Beside the whole length.
  [[nodiscard]] std::string measured(double v) const { return report::measured(v, a_.length); }

  void cost_of_one() {
    page_.heading("What one trip costs");
    const TourRound& loose = *a_.loose;
    const Rational more = a_.length - loose.length;
    if (loose.loops.size() == 1) {
      page_.say("Two legs at every stop make one trip here by themselves.", 2);
      return;
    }
    page_.say(
        fmt::format("Two legs at every stop, and nothing else, would be {} long, with {}: one trip "
                    "costs {} more.",
                    long_(loose.length),
                    counted_in(static_cast<std::int64_t>(loose.loops.size()), "loop"), long_(more)),
        2);
  }

  void rounds() {
    page_.heading("Round by round");
    std::vector<std::vector<std::string>> rows;
    std::size_t number = 1;
    for (const TourRound& round : a_.rounds) {
      std::vector<std::string> loops;
      if (round.loops.size() > 1)
        for (const std::vector<std::int32_t>& loop : round.loops) {
          const std::string first = stops_.name(loop.front());
          loops.push_back(loop.size() > 2 ? fmt::format("{} and {} more", first, loop.size() - 1)
                                          : first + " and " + stops_.name(loop.back()));
        }
      rows.push_back({std::to_string(number++), measured(round.length.to_double()),
                      round.loops.size() == 1 ? "one loop: the round trip"
                                              : fmt::format("{} loops: {}", round.loops.size(),
                                                            fmt::join(shortened(loops), "; "))});
    }
    page_.table(rows, {0, 1});
  }
  static std::vector<std::string> shortened(std::vector<std::string> loops) {
    constexpr std::size_t kMost = 4;
    if (loops.size() <= kMost + 1) return loops;
    const std::size_t more = loops.size() - kMost;
    loops.resize(kMost);
    loops.push_back(fmt::format("and {} more", more));
    return loops;
  }

  void how_it_went() {
    page_.heading("How it went");
    const auto say = [&](const std::string& text) { page_.say(text, 2); };
    if (a_.way == "exact" && a_.rounds.empty() && a_.start_length && !a_.order.empty())
      say(*a_.start_length == a_.length
              ? (stops_.several()
                     ? "Taking parts out and putting them back found these trips; the "
                       "rest was proof."
                     : "Chains of exchanged legs found this tour at once; the rest was "
                       "proof.")
              : fmt::format("{} gave {} to begin with.",
                            stops_.several() ? "Taking parts out and putting them back"
                                             : "Chains of exchanged legs",
                            long_(*a_.start_length)));
    if (a_.way == "exact") {
      std::vector<std::string> rules;
      if (a_.rules[0] > 0) rules.push_back(fmt::format("{} against loops", a_.rules[0]));
      if (a_.rules[1] > 0)
        rules.push_back(fmt::format("{} of a set with an odd number of legs", a_.rules[1]));
      if (a_.rules[2] > 0)
        rules.push_back(fmt::format("{} of a set with an odd number of other sets", a_.rules[2]));
      if (a_.load_rules > 0)
        rules.push_back(fmt::format("{} by what sets of stops have to carry", a_.load_rules));
      if (!rules.empty()) say(fmt::format("Rules that were generated: {}.", listed(rules)));
      if (a_.root_bound && a_.rounds.empty() && !a_.order.empty() && *a_.root_bound < a_.length)
        say(fmt::format("They alone prove that {} shorter than {}.",
                        stops_.several() ? "none are" : "no tour is", long_(*a_.root_bound)));
      if (a_.legs_kept > 0)
        say(fmt::format("Of {} legs {} can be on a tour that is shorter or as short.",
                        figure(Rational(a_.legs)), figure(Rational(a_.legs_kept))));
    }
    std::string last =
        a_.way != "exact"
            ? fmt::format("It took {}", duration(a_.seconds))
            : fmt::format("{}, {}", a_.nodes > 0 ? counted_in(a_.nodes, "branch") : "No branching",
                          duration(a_.seconds));
    if (a_.stopped_by == "time") last += "; it was stopped by the time limit";
    if (a_.stopped_by == "hand") last += "; it was stopped by hand";
    say(last + ".");
    if (!a_.reason.empty()) say(fmt::format("It ended because {}.", a_.reason));
    if (a_.millionths) say("Lengths are rounded to a millionth, so that sums of them are exact.");
  }

  const Stops& stops_;
  const TourAnswer& a_;
  Page page_;
};

}  // namespace

std::string tour_page(const Stops& stops, const TourAnswer& answer, const PageOptions& options,
                      std::int32_t most_stops) {
  need_answer_of(stops, answer);
  return TourPage(stops, answer, options).run(most_stops);
}

std::string tour_line(const Stops& stops, const TourProgress& p) {
  std::string line = fmt::format(" {}", duration(p.seconds));
  const std::string unit = std::string(stops.unit()).empty() ? "" : std::string(" ") + stops.unit();
  if (p.length > 0.0) line += fmt::format("   a tour of {:.7g}{}", p.length, unit);
  if (p.bound > 0.0) line += fmt::format("   none is shorter than {:.7g}", p.bound);
  if (p.length > 0.0 && p.bound > 0.0)
    line += fmt::format("   {} open", percent((p.length - p.bound) / p.length));
  return line;
}

}  // namespace kiteknot
