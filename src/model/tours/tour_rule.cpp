#include "model/tours/tour_rule.hpp"

#include <algorithm>

#include <fmt/format.h>

#include "base/text.hpp"
#include "kiteknot/errors.hpp"

namespace kiteknot {
namespace {

using structures::tours::Leg;

Index one_of(const Table& stops, const Row& row, const char* what) {
  if (row.table() != &stops.data())
    throw UsageError(
        fmt::format("'{}' names a row of {}, not of {}", what, row.table()->name, stops.name()));
  return row.index();
}

// The two stops of every leg: a table whose key names two of them, or two of the stops' own rows.
std::vector<Leg> ends_of(const Family& legs, const Table& stops, bool& directed) {
  const IndexSet& index = legs.index;
  std::vector<Leg> ends;
  ends.reserve(at(index.count));
  if (index.tables.size() == 2 && &index.tables[0].data() == &stops.data() &&
      &index.tables[1].data() == &stops.data()) {
    directed = true;
    for (Index i = 0; i < index.count; ++i) {
      const std::vector<Row> rows = index.rows(i);
      ends.push_back({rows[0].index(), rows[1].index()});
    }
    return ends;
  }
  const auto refuse = [&] {
    throw UsageError(
        fmt::format("{} is not indexed by pairs of {}, nor by a table with two keys in {}",
                    legs.name, stops.name(), stops.name()));
  };
  if (index.tables.size() != 1) refuse();
  const TableData& table = index.tables[0].data();
  const auto in_stops = [&](Index column) {
    const auto it = table.tables.find(column);
    return it != table.tables.end() && it->second.get() == &stops.data();
  };
  if (table.key.size() != 2 || !in_stops(table.key[0]) || !in_stops(table.key[1])) refuse();
  directed = !table.unordered_pairs;
  const std::vector<Index>& from = table.references.at(table.key[0]);
  const std::vector<Index>& to = table.references.at(table.key[1]);
  for (Index i = 0; i < index.count; ++i) {
    const Index row = index.rows(i)[0].index();
    ends.push_back({from[at(row)], to[at(row)]});
  }
  return ends;
}

bool yes_or_no(const Family& f) {
  return f.integer && f.listed.empty() && f.binary;
}

// Binary, or whole from 0 to 2 where there and back is two legs.
void need_legs(const Family& f, bool directed) {
  if (yes_or_no(f)) return;
  const bool plain = f.integer && f.listed.empty() && !f.or_zero && f.lower_by_number.empty() &&
                     f.upper_by_number.empty();
  const Rational most = directed ? 1 : 2;
  if (plain &&
      std::ranges::all_of(f.lower,
                          [](const Rational& v) { return v.is_finite() && v.sign() >= 0; }) &&
      std::ranges::all_of(f.upper, [&](const Rational& v) { return v <= most; }))
    return;
  throw UsageError(
      fmt::format("{} is not binary{}", f.name,
                  directed ? "" : ", nor integer 0 .. 2 (2 where the trip goes there and back)"));
}

std::string several_of(const std::vector<std::string>& names) {
  return listed(names, 12);
}

}  // namespace

TourRule::TourRule(const Decisions& given, const Table& table, const TourTerms& terms)
    : stops(table), legs(given.shared_family()) {
  if (stops.data().key.size() != 1)
    throw UsageError(
        fmt::format("table {} has a key of several columns; a tour goes over stops "
                    "with one",
                    stops.name()));
  ends = ends_of(*legs, stops, directed);
  need_legs(*legs, directed);
  if (terms.from) gate = one_of(stops, *terms.from, "from");
  if (terms.visiting) {
    visiting = terms.visiting->shared_family();
    const IndexSet& index = visiting->index;
    if (index.tables.size() != 1 || &index.tables[0].data() != &stops.data())
      throw UsageError(fmt::format("{} is not indexed by {}", visiting->name, stops.name()));
    if (!yes_or_no(*visiting)) throw UsageError(fmt::format("{} is not binary", visiting->name));
    visit.assign(at(num_stops()), -1);
    for (Index i = 0; i < index.count; ++i)
      visit[at(index.rows(i)[0].index())] = visiting->first + i;
  }
  several = terms.at_most.has_value();
  if (several) at_most = *terms.at_most;
  if (several && gate < 0)
    throw UsageError("several tours need a stop that all of them start at: from \"...\"");
  if (several && !terms.ahead.empty())
    throw UsageError("'ahead of' is for one tour, not for several");
  for (const auto& [a, b] : terms.ahead) {
    const Index first = one_of(stops, a, "ahead of"), second = one_of(stops, b, "ahead of");
    // Where the telling of a tour of all stops starts unless it is said.
    if (gate < 0 && visiting != nullptr)
      throw UsageError("'ahead of' needs the stop that the tour starts at: from \"...\"");
    if (gate < 0 && !directed)
      throw UsageError(
          "'ahead of' needs the stop that the tour starts at: from \"...\"; legs without a "
          "direction can be gone either way");
    if (first == second) throw UsageError(fmt::format("{} cannot be ahead of itself", stop(first)));
    if (second == std::max<Index>(gate, 0))
      throw UsageError(fmt::format("the tour starts at {}: nothing is ahead of it", stop(second)));
    if (first != std::max<Index>(gate, 0)) ahead.emplace_back(first, second);
  }
  if (!ahead.empty() && gate < 0) gate = 0;
  if (terms.carrying.has_value() != terms.capacity.has_value())
    throw UsageError(
        "what is carried and how much of it is said together: carrying COLUMN at "
        "most CAPACITY");
  if (terms.carrying && !several)
    throw UsageError("what is carried is limited where there are several tours: at most N tours");
  if (!terms.carrying) return;
  capacity = *terms.capacity;
  load_column = terms.carrying->column();
  for (const Row s : stops) {
    load.push_back((*terms.carrying)[s]);
    if (load.back().sign() < 0)
      throw UsageError(fmt::format("{} of {} is {}: what is carried is not below 0", load_column,
                                   stop(s.index()), figure(load.back())));
  }
  load[at(gate)] = 0;
}

std::string TourRule::stop(Index s) const {
  return stops.data().keys_of(s)[0];
}

std::vector<std::pair<Index, std::string>> TourRule::dead_ends() const {
  std::vector<std::pair<Index, std::string>> ends_here;
  if (num_stops() < 2) return ends_here;
  std::vector<Index> out(at(num_stops()), 0), in(out);
  std::vector<char> twice(out.size(), 0);  // a leg that can be gone there and back
  for (std::size_t k = 0; k < ends.size(); ++k) {
    const auto [a, b] = ends[k];
    if (a == b || never(a) || never(b)) continue;
    ++out[at(a)];
    ++(directed ? in : out)[at(b)];
    const Rational& most = legs->upper.size() == 1 ? legs->upper[0] : legs->upper[k];
    if (!directed && most >= Rational(2)) twice[at(a)] = twice[at(b)] = 1;
  }
  for (Index s = 0; s < num_stops(); ++s) {
    if (never(s) || (s == gate && (several || visiting != nullptr))) continue;
    if (directed ? out[at(s)] > 0 && in[at(s)] > 0
                 : out[at(s)] > 1 || (out[at(s)] == 1 && twice[at(s)] != 0))
      continue;
    const char* why = directed ? (out[at(s)] == 0 && in[at(s)] == 0 ? "no link"
                                  : out[at(s)] == 0                 ? "no link from it"
                                                                    : "no link to it")
                               : (out[at(s)] == 0 ? "no leg" : "one leg only");
    ends_here.emplace_back(s, fmt::format("{}, which has {}", stop(s), why));
  }
  return ends_here;
}

std::int64_t TourRule::trips(const std::vector<Rational>& numbers) const {
  const Rational most = evaluate(at_most, numbers);
  if (!most.is_integer() || most.sign() < 0 || most > Rational(1'000'000))
    throw UsageError(fmt::format("at most {} tours: that is not a whole number", figure(most)));
  return static_cast<std::int64_t>(most.to_double());
}

Rational TourRule::room(const std::vector<Rational>& numbers) const {
  const Rational most = evaluate(capacity, numbers);
  if (most.sign() <= 0)
    throw UsageError(fmt::format("a tour that carries at most {} carries nothing", figure(most)));
  return most;
}

std::string TourRule::text(const std::vector<Rational>& numbers) const {
  std::string text =
      fmt::format("{} {}", legs->name,
                  several ? fmt::format("forms at most {} tours", trips(numbers)) : "forms tour");
  text += " over " + stops.name();
  if (visiting) text += " visiting " + visiting->name;
  if (gate >= 0) text += " from " + stop(gate);
  if (!load.empty())
    text += fmt::format(" carrying {} at most {}", load_column, figure(room(numbers)));
  for (const auto& [a, b] : ahead) text += fmt::format(" with {} ahead of {}", stop(a), stop(b));
  return text;
}

namespace {

class Reader {
 public:
  Reader(const TourRule& rule, const std::vector<Rational>& numbers,
         std::span<const Rational> values)
      : rule_(rule),
        numbers_(numbers),
        values_(values),
        out_(at(rule.num_stops())),
        in_(out_.size(), 0) {}

  TourReading run() {
    if (!read_visits() || !read_legs() || !look_at_stops()) return std::move(reading_);
    trace();
    look_at_trips();
    look_at_order();
    return std::move(reading_);
  }

 private:
  void fault(std::string text) { reading_.faults.push_back(std::move(text)); }
  [[nodiscard]] bool good() const { return reading_.faults.empty(); }

  bool read_visits() {
    visited_.assign(at(rule_.num_stops()), 0);
    for (Index s = 0; s < rule_.num_stops(); ++s) {
      const Index d = rule_.visiting != nullptr ? rule_.visit[at(s)] : -1;
      if (rule_.always(s)) visited_[at(s)] = 1;
      if (d < 0) continue;
      const Rational& v = values_[at(d)];
      if (!v.is_zero() && v != Rational(1))
        fault(fmt::format("whether {} is visited is {}", rule_.stop(s), figure(v)));
      else if (s == rule_.gate && v.is_zero())
        fault(fmt::format("{}, where it starts, is not visited", rule_.stop(s)));
      else if (!v.is_zero())
        visited_[at(s)] = 1;
    }
    count_ = std::ranges::count(visited_, 1);
    return good();
  }

  bool read_legs() {
    const Rational most = rule_.directed ? 1 : 2;
    for (std::size_t k = 0; k < rule_.ends.size(); ++k) {
      const Rational& v = values_[at(rule_.legs->first) + k];
      if (v.is_zero()) continue;
      const Index a = rule_.ends[k].a, b = rule_.ends[k].b;
      const auto leg = [&] {
        return rule_.directed
                   ? fmt::format("the link from {} to {}", rule_.stop(a), rule_.stop(b))
                   : fmt::format("the leg between {} and {}", rule_.stop(a), rule_.stop(b));
      };
      if (!v.is_integer() || v.sign() < 0 || v > most) {
        fault(fmt::format("{} is {}", leg(), figure(v)));
        continue;
      }
      if (a == b) {
        fault(fmt::format("{} leads nowhere", leg()));
        continue;
      }
      for (int times = v == Rational(2) ? 2 : 1; times > 0; --times) {
        out_[at(a)].push_back(b);
        if (rule_.directed)
          ++in_[at(b)];
        else
          out_[at(b)].push_back(a);
      }
    }
    return good();
  }

  // As many legs as its visits ask for.
  bool look_at_stops() {
    const bool alone = !rule_.several && count_ == 1;
    for (Index s = 0; s < rule_.num_stops(); ++s) {
      const auto out = out_[at(s)].size();
      const auto in = static_cast<std::size_t>(in_[at(s)]);
      if (rule_.several && s == rule_.gate) {
        look_at_gate(out, in);
        continue;
      }
      const std::size_t needed = visited_[at(s)] == 0 || alone ? 0 : rule_.directed ? 1 : 2;
      if (out == needed && (!rule_.directed || in == needed)) continue;
      const std::string name = "stop " + rule_.stop(s);
      if (visited_[at(s)] == 0)
        fault(fmt::format("{} is not visited, and has {}", name, legs(out, in)));
      else if (alone)
        fault(fmt::format("{} is the only one visited, and has {}", name, legs(out, in)));
      else
        fault(fmt::format("{} has {}", name, legs(out, in)));
    }
    return good();
  }

  [[nodiscard]] std::string legs(std::size_t out, std::size_t in) const {
    const auto number = [](std::size_t n, const std::string& what) {
      return n == 0 ? "no " + what : counted(n, what);
    };
    if (!rule_.directed) return out == 1 ? "one leg only" : number(out, "leg");
    return fmt::format("{} to it and {} from it", number(in, "link"), number(out, "link"));
  }

  void look_at_gate(std::size_t out, std::size_t in) {
    const std::string name = "stop " + rule_.stop(rule_.gate);
    const auto most = static_cast<std::size_t>(rule_.trips(numbers_));
    const std::size_t trips = rule_.directed ? out : out / 2;
    if (rule_.directed ? out != in : out % 2 != 0)
      fault(fmt::format("{} has {}", name, legs(out, in)));
    else if (trips > most)
      fault(fmt::format("{} start at {}, {} may", counted(trips, "tour"), rule_.stop(rule_.gate),
                        most == 0 ? "none" : fmt::format("at most {}", most)));
  }

  // Follows the legs; every stop but the gate of several has two.
  void trace() {
    std::vector<std::vector<Index>> left = out_;
    const auto go = [&](Index from) {
      const Index to = left[at(from)].back();
      left[at(from)].pop_back();
      if (!rule_.directed) {
        auto& back = left[at(to)];
        back.erase(std::ranges::find(back, from));
      }
      return to;
    };
    const auto follow = [&](Index first) {
      std::vector<Index> trip{first};
      for (Index now = go(first); now != first; now = go(now)) trip.push_back(now);
      reading_.trips.push_back(std::move(trip));
    };
    if (rule_.gate >= 0)
      while (!left[at(rule_.gate)].empty()) follow(rule_.gate);
    for (Index s = 0; s < rule_.num_stops(); ++s)
      if (!left[at(s)].empty()) follow(s);
    if (!rule_.directed)  // told the way that comes first by stops
      for (auto& trip : reading_.trips)
        if (trip.size() > 2 && trip[1] > trip.back()) std::reverse(trip.begin() + 1, trip.end());
    if (reading_.trips.empty() && count_ == 1 && !rule_.several)
      reading_.trips.push_back(
          {static_cast<Index>(std::ranges::find(visited_, 1) - visited_.begin())});
  }

  [[nodiscard]] std::string told(const std::vector<Index>& trip) const {
    std::vector<std::string> names;
    for (const Index s : trip) names.push_back(rule_.stop(s));
    return several_of(names);
  }

  void look_at_trips() {
    if (!rule_.several) {
      if (reading_.trips.size() < 2) return;
      std::vector<std::string> loops;
      for (const auto& trip : reading_.trips) loops.push_back(told(trip));
      fault(fmt::format("there are {} loops in place of one tour: {}", loops.size(),
                        fmt::join(loops, "; ")));
      return;
    }
    const Rational room = rule_.load.empty() ? Rational(0) : rule_.room(numbers_);
    for (const auto& trip : reading_.trips) {
      if (trip[0] != rule_.gate) {
        fault(fmt::format("{} make a loop without {}", told(trip), rule_.stop(rule_.gate)));
        continue;
      }
      if (rule_.load.empty()) continue;
      Rational load = 0;
      for (const Index s : trip) load += rule_.load[at(s)];
      if (load > room)
        fault(fmt::format("the tour {} carries {}, at most {} may be", told(trip), figure(load),
                          figure(room)));
    }
  }

  // In one of the two directions, where there are two.
  void look_at_order() {
    if (rule_.ahead.empty() || !good() || reading_.trips.empty()) return;
    const auto missed = [&](const std::vector<Index>& trip) {
      std::vector<Index> place(at(rule_.num_stops()), -1);
      for (std::size_t k = 0; k < trip.size(); ++k) place[at(trip[k])] = static_cast<Index>(k);
      std::vector<std::string> faults;
      for (const auto& [a, b] : rule_.ahead)
        if (place[at(a)] >= 0 && place[at(b)] >= 0 && place[at(a)] > place[at(b)])
          faults.push_back(fmt::format("{} is not ahead of {}", rule_.stop(a), rule_.stop(b)));
      return faults;
    };
    std::vector<Index>& trip = reading_.trips[0];
    std::vector<std::string> faults = missed(trip);
    if (!faults.empty() && !rule_.directed) {
      std::vector<Index> other = trip;
      std::reverse(other.begin() + 1, other.end());
      std::vector<std::string> then = missed(other);
      if (then.size() < faults.size()) {
        trip = std::move(other);
        faults = std::move(then);
      }
    }
    reading_.faults = std::move(faults);
  }

  const TourRule& rule_;
  const std::vector<Rational>& numbers_;
  std::span<const Rational> values_;
  std::vector<std::vector<Index>> out_;  // by stops: where its legs lead
  std::vector<Index> in_;                // directed: how many come
  std::vector<char> visited_;
  std::ptrdiff_t count_ = 0;
  TourReading reading_;
};

}  // namespace

TourReading read_trips(const TourRule& rule, const std::vector<Rational>& numbers,
                       std::span<const Rational> values) {
  return Reader(rule, numbers, values).run();
}

}  // namespace kiteknot
