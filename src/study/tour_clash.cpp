#include "study/tour_clash.hpp"

#include <algorithm>
#include <numeric>

#include <fmt/format.h>

#include "base/at.hpp"
#include "base/text.hpp"
#include "kiteknot/solve.hpp"
#include "model/free_names.hpp"

namespace kiteknot {
namespace {

class TourDoctor {
 public:
  TourDoctor(const Model& others, const TourRule& rule, const TimeLeft& left)
      : others_(others), rule_(rule), left_(left), numbers_(others.data().number_values()) {
    others_.forget_goals();
  }

  std::vector<std::string> run() {
    for (const auto& [s, why] : rule_.dead_ends()) {
      const std::size_t comma = why.find(", which ");
      out_.push_back(fmt::format("stop {} {}", why.substr(0, comma), why.substr(comma + 8)));
    }
    if (out_.empty()) look_at_loads();
    if (out_.empty()) look_at_stops();
    if (out_.empty()) look_at_ways();
    if (out_.empty()) look_at_order();
    return std::move(out_);
  }

 private:
  void look_at_loads() {
    if (rule_.load.empty()) return;
    const Rational room = rule_.room(numbers_);
    Rational all = 0;
    for (Index s = 0; s < rule_.num_stops(); ++s) {
      if (!rule_.always(s)) continue;
      all += rule_.load[at(s)];
      if (rule_.load[at(s)] > room)
        out_.push_back(fmt::format("{} alone has {} to carry, and a tour carries at most {}",
                                   rule_.stop(s), figure(rule_.load[at(s)]), figure(room)));
    }
    const auto trips = static_cast<long long>(rule_.trips(numbers_));
    if (out_.empty() && all > room * Rational(trips))
      out_.push_back(fmt::format("{} have to be carried in all, and {} carry at most {}",
                                 figure(all), counted(static_cast<std::size_t>(trips), "tour"),
                                 figure(room * Rational(trips))));
  }

  // The most legs that the other rules leave at a stop, and the fewest.
  void look_at_stops() {
    constexpr Index kMostStops = 300;
    if (rule_.num_stops() < 2 || rule_.num_stops() > kMostStops) return;
    std::vector<Expression> out(at(rule_.num_stops())), in(out);
    for (std::size_t k = 0; k < rule_.ends.size(); ++k) {
      const auto [a, b] = rule_.ends[k];
      const Decision leg{others_.data().tag, rule_.legs->first + static_cast<Index>(k), true};
      if (a == b) continue;
      out[at(a)] += leg;
      (rule_.directed ? in : out)[at(b)] += leg;
    }
    const Rational needed = rule_.directed ? 1 : 2;
    for (Index s = 0; s < rule_.num_stops(); ++s) {
      if (!rule_.always(s) || (s == rule_.gate && (rule_.several || rule_.visiting != nullptr)))
        continue;
      tell(s, out[at(s)], needed, rule_.directed ? "link from it" : "leg");
      if (rule_.directed) tell(s, in[at(s)], needed, "link to it");
    }
  }

  void tell(Index s, const Expression& legs, const Rational& needed, const char* what) {
    constexpr std::size_t kMostTold = 6;
    if (out_.size() >= kMostTold) return;
    const auto number = [&](const Rational& n) {
      return n.is_zero() ? fmt::format("no {}", what)
                         : counted(static_cast<std::size_t>(n.to_double()), what);
    };
    const auto most = extreme(legs, Sense::maximize);
    if (most && *most < needed) {
      out_.push_back(fmt::format("stop {} can have {}{}, and needs {}", rule_.stop(s),
                                 most->is_zero() ? "" : "only ", number(*most), figure(needed)));
      return;
    }
    const auto least = extreme(legs, Sense::minimize);
    if (least && *least > needed)
      out_.push_back(fmt::format("stop {} has {} at least, and a tour takes {}", rule_.stop(s),
                                 number(*least), figure(needed)));
  }

  // Proven, or nothing.
  std::optional<Rational> extreme(const Expression& legs, Sense sense) {
    if (left_.over()) return std::nullopt;
    Model m = others_;
    m.add_goal(free_name(m, "legs at one stop"), sense, legs);
    SolveOptions options = left_.options();
    constexpr std::int64_t kMostNodes = 200;  // it is asked for every stop
    options.nodes = kMostNodes;
    const Result r = solve(m, options);
    if (r.outcome != Outcome::optimal || !r.goals[0].value) return std::nullopt;
    return r.goals[0].value;
  }

  // Stops that no way leads to, or back from, by the legs whose limits leave them.
  void look_at_ways() {
    const ModelData& m = others_.data();
    std::vector<std::vector<Index>> there(at(rule_.num_stops())), back(there);
    for (std::size_t k = 0; k < rule_.ends.size(); ++k) {
      const Index d = rule_.legs->first + static_cast<Index>(k);
      if (m.upper(*rule_.legs, static_cast<Index>(k), numbers_).sign() <= 0 || closed(d)) continue;
      const auto [a, b] = rule_.ends[k];
      there[at(a)].push_back(b);
      back[at(b)].push_back(a);
      if (!rule_.directed) there[at(b)].push_back(a);
    }
    const Index from = std::max<Index>(rule_.gate, 0);
    if (rule_.num_stops() == 0 || !rule_.always(from)) return;
    const auto unreached = [&](const auto& links) {
      std::vector<char> seen(at(rule_.num_stops()), 0);
      std::vector<Index> list{from};
      seen[at(from)] = 1;
      for (std::size_t k = 0; k < list.size(); ++k)
        for (const Index to : links[at(list[k])])
          if (seen[at(to)] == 0) {
            seen[at(to)] = 1;
            list.push_back(to);
          }
      std::vector<std::string> names;
      for (Index s = 0; s < rule_.num_stops(); ++s)
        if (seen[at(s)] == 0 && rule_.always(s)) names.push_back(rule_.stop(s));
      return names;
    };
    if (const auto names = unreached(there); !names.empty())
      out_.push_back(fmt::format("no way leads from {} to {}", rule_.stop(from), listed(names, 8)));
    if (!rule_.directed || !out_.empty()) return;
    if (const auto names = unreached(back); !names.empty())
      out_.push_back(
          fmt::format("no way leads back from {} to {}", listed(names, 8), rule_.stop(from)));
  }

  void look_at_order() {
    if (rule_.ahead.empty() || left_.over()) return;
    auto any_order = std::make_shared<TourRule>(rule_);
    any_order->ahead.clear();
    Condition tour;
    tour.kind = Condition::Kind::tour;
    tour.trips = std::move(any_order);
    Model m = others_;
    m.rule(free_rule(m, "a tour in any order"), tour);
    if (!solve(m, left_.options()).plan) return;
    std::vector<std::string> orders;
    for (const auto& [a, b] : rule_.ahead)
      orders.push_back(fmt::format("{} ahead of {}", rule_.stop(a), rule_.stop(b)));
    out_.push_back(fmt::format("there are tours, but none with {}", listed(orders, 8)));
  }

  // Whether a rule that holds says that it is 0.
  bool closed(Index decision) {
    if (closed_.empty()) {
      const ModelData& m = others_.data();
      closed_.assign(at(m.num_decisions), 0);
      Collector collector(m);
      for (std::size_t r = 0; r < m.rules.size(); ++r) {
        if (m.rules_off.contains(static_cast<Index>(r)) || m.rules[r]->soft()) continue;
        for (const Condition& c : m.rules[r]->conditions) {
          if (!is_linear(c)) continue;
          const LinearRule row = linear_rule(collector, c);
          const bool nothing = row.high.is_finite() && row.high.sign() <= 0 &&
                               std::ranges::all_of(row.terms, [&](const auto& t) {
                                 return t.coefficient.sign() > 0;
                               });
          if (!nothing || !std::ranges::all_of(row.terms, [&](const auto& t) {
                const Family& f = m.family_of(t.decision);
                return m.lower(f, t.decision - f.first, numbers_).sign() >= 0;
              }))
            continue;
          for (const auto& t : row.terms) closed_[at(t.decision)] = 1;
        }
      }
    }
    return closed_[at(decision)] != 0;
  }

  Model others_;
  const TourRule& rule_;
  const TimeLeft& left_;
  std::vector<Rational> numbers_;
  std::vector<char> closed_;  // by decision
  std::vector<std::string> out_;
};

}  // namespace

std::vector<std::string> why_no_tour(const Model& others, const TourRule& rule,
                                     const TimeLeft& left) {
  return TourDoctor(others, rule, left).run();
}

}  // namespace kiteknot
