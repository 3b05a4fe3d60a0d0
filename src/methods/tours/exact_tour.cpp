#include "methods/tours/exact_tour.hpp"

#include <algorithm>
#include <future>
#include <utility>

#include "structures/tours/build.hpp"
#include "structures/tours/neighbours.hpp"
#include "structures/tours/relaxation.hpp"

namespace kiteknot::methods {
namespace {

using linalg::Index;
using tours::Leg;
using tours::TourRelaxation;

Leg leg(Index a, Index b) {
  return {std::min(a, b), std::max(a, b)};
}

std::vector<Leg> legs_of(const std::vector<Index>& tour) {
  std::vector<Leg> legs;
  for (std::size_t k = 0; k < tour.size(); ++k)
    legs.push_back(leg(tour[k], tour[k + 1 == tour.size() ? 0 : k + 1]));
  std::sort(legs.begin(), legs.end());
  return legs;
}

bool has_all(const std::vector<Index>& tour, const std::vector<Leg>& sure) {
  const std::vector<Leg> legs = legs_of(tour);
  return std::all_of(sure.begin(), sure.end(),
                     [&](const Leg& l) { return std::binary_search(legs.begin(), legs.end(), l); });
}

// What a tour has to be shorter than where none is known: all of them are.
std::int64_t beyond_all(const tours::WholeLengths& lengths) {
  return lengths.longest() * lengths.size() + 1;
}

// The legs that are left, with those of the tour.
LegProblem what_is_left(const TourRelaxation& relaxation, std::int64_t upper,
                        const std::vector<Index>& tour) {
  LegProblem problem;
  TourRelaxation::Worth worth = relaxation.worth_keeping(upper);
  std::vector<Leg> all;
  const std::vector<Leg> own = legs_of(tour);
  std::set_union(worth.legs.begin(), worth.legs.end(), own.begin(), own.end(),
                 std::back_inserter(all));
  // A leg is sure of better tours only, and the known one is a plan of the search: it need not
  // have it.
  std::vector<char> sure(all.size(), 0);
  for (std::size_t k = 0, w = 0; k < all.size(); ++k)
    if (w < worth.legs.size() && worth.legs[w] == all[k])
      sure[k] = worth.sure[w++] != 0 &&
                        (own.empty() || std::binary_search(own.begin(), own.end(), all[k]))
                    ? 1
                    : 0;
  problem.legs = std::move(all);
  problem.sure = std::move(sure);
  problem.tour = tour;
  return problem;
}

// The best tour over the legs of several good ones: what they agree on is most of it, and the rest
// is a small problem (Cook and Seymour 2003, "Tour merging via branch-decomposition"; here by
// branch and bound, which may stop early). The first tour is the best one.
std::vector<Index> merged(const tours::WholeLengths& lengths, const TourRelaxation& relaxation,
                          const std::vector<std::vector<Index>>& all, const std::vector<Leg>& sure,
                          double seconds, const ExactTourOptions& options) {
  LegProblem problem;
  for (const std::vector<Index>& tour : all) {
    const std::vector<Leg> legs = legs_of(tour);
    problem.legs.insert(problem.legs.end(), legs.begin(), legs.end());
  }
  std::sort(problem.legs.begin(), problem.legs.end());
  problem.legs.erase(std::unique(problem.legs.begin(), problem.legs.end()), problem.legs.end());
  for (const Leg& l : problem.legs)
    problem.sure.push_back(std::binary_search(sure.begin(), sure.end(), l) ? 1 : 0);
  problem.rows = relaxation.start_for(problem.legs).rows;
  problem.tour = all.front();
  LegSearchOptions search;
  search.budget = options.budget;
  search.budget.seconds = seconds;
  return search_legs(lengths, problem, search).tour;
}

// Tells better plans of the search on.
class Watch final : public mip::Listener {
 public:
  Watch(const ExactTourOptions& options, const Stopwatch& clock, double scale, std::int64_t known)
      : options_(options), clock_(clock), scale_(scale), known_(known) {}
  void better_plan(const mip::Standing& s, std::span<const Rational>) override { progress(s); }
  void progress(const mip::Standing& s) override {
    if (!options_.watch) return;
    const auto units = [&](double v) {
      return std::isfinite(v) ? static_cast<std::int64_t>(v * scale_) : std::int64_t{0};
    };
    options_.watch(clock_.seconds(), std::isfinite(s.best) ? units(s.best) : known_,
                   units(s.bound));
  }

 private:
  const ExactTourOptions& options_;
  const Stopwatch& clock_;
  double scale_;
  std::int64_t known_;
};

}  // namespace

std::vector<Leg> first_legs(const tours::WholeLengths& lengths, const std::vector<Index>& tour) {
  constexpr std::size_t kNear = 6;
  std::vector<Leg> legs = legs_of(tour);
  const tours::Neighbours near(lengths.distances(), kNear);
  for (Index i = 0; i < lengths.size(); ++i)
    for (const Index j : near.of(i))
      if (lengths(i, j) < tours::WholeLengths::kNever) legs.push_back(leg(i, j));
  return legs;
}

ExactTour solve_exactly(const tours::WholeLengths& lengths, const std::vector<Leg>& sure,
                        const BetterTour& better, const ExactTourOptions& options) {
  const Stopwatch clock;
  const Interrupt interrupt = options.budget.interrupt(clock);
  const Index n = lengths.size();
  ExactTour answer;
  // Whoever found it: only tours that are some, with all sure legs, count. What is said of proofs
  // rests on their lengths.
  const auto is_tour = [&](const std::vector<Index>& tour) {
    std::vector<char> seen(at(n), 0);
    for (const Index s : tour)
      if (s < 0 || s >= n || std::exchange(seen[at(s)], 1) != 0) return false;
    return tour.size() == at(n) && has_all(tour, sure) &&
           tours::length(lengths, tour) < tours::WholeLengths::kNever;
  };
  const auto take = [&](std::vector<Index> tour) {
    if (!is_tour(tour)) return false;
    const std::int64_t length = tours::length(lengths, tour);
    if (!answer.tour.empty() && length >= answer.length) return false;
    answer.tour = std::move(tour);
    answer.length = length;
    if (options.watch) options.watch(clock.seconds(), answer.length, answer.bound);
    return true;
  };
  std::uint64_t draws = 0;
  const auto improve = [&](std::int64_t kicks) { (void)take(better(answer.tour, kicks, draws++)); };
  const auto upper = [&] { return answer.tour.empty() ? beyond_all(lengths) : answer.length; };
  const auto proven = [&] {
    if (answer.tour.empty() || answer.bound < answer.length) return false;
    answer.outcome = Outcome::optimal;
    answer.bound = answer.length;
    return true;
  };
  const auto accepted = [&] {
    if (answer.tour.empty() || options.gap <= 0.0) return false;
    const auto open = static_cast<double>(answer.length - answer.bound);
    if (open > options.gap * std::abs(static_cast<double>(answer.length))) return false;
    answer.outcome = Outcome::accepted;
    answer.stopped_by = "gap";
    return true;
  };
  const auto give_up = [&](const TourRelaxation& relaxation) {
    answer.bound = std::max(answer.bound, relaxation.bound());
    if (relaxation.stopped() == TourRelaxation::Why::no_tour && answer.tour.empty())
      answer.outcome = Outcome::infeasible;
    else
      answer.outcome = answer.tour.empty() ? Outcome::undecided : Outcome::unproven;
    if (relaxation.stopped() == TourRelaxation::Why::interrupted)
      answer.stopped_by = interrupt.by_hand() ? "hand" : "time";
    else if (answer.outcome != Outcome::infeasible)
      answer.reason = "a relaxation could not be settled";
  };

  constexpr std::int64_t kFirstKicks = 2, kMoreKicks = 8;  // a stop
  improve(kFirstKicks * n);
  answer.start_length = answer.length;
  TourRelaxation relaxation(lengths, first_legs(lengths, answer.tour), sure);
  bool fine = relaxation.solve_degrees(interrupt);
  if (fine) {
    constexpr std::size_t kFew = 30;
    answer.first_legs = relaxation.legs();
    answer.first_values.assign(relaxation.values().begin(), relaxation.values().end());
    answer.first_rows =
        tours::TourSeparation(n).look(answer.first_legs, answer.first_values, 1e-3, kFew);
    fine = relaxation.tighten(upper(), interrupt);
  }
  answer.bound = answer.root_bound = std::max(answer.bound, relaxation.bound());
  const auto take_rows = [&] {
    for (const tours::RowKind kind :
         {tours::RowKind::loop, tours::RowKind::blossom, tours::RowKind::comb})
      answer.rows[static_cast<std::size_t>(kind)] = relaxation.rows_found(kind);
  };
  take_rows();
  // From tours that know nothing of each other; alike ones would agree on too much. Two at a time.
  const auto merge_good_ones = [&](int merge) {
    constexpr std::size_t kTours = 12;
    constexpr std::int64_t kKicks = 2;  // a stop
    constexpr double kShare = 0.1;      // of the time that is left
    std::vector<std::vector<Index>> all(kTours);
    const auto find = [&](std::size_t from) {
      for (std::size_t k = from; k < kTours && !interrupt.now(); k += 2) {
        constexpr std::size_t kStep = 7919;
        const std::size_t draw = static_cast<std::size_t>(merge) * kTours + k;
        std::vector<Index> start =
            tours::by_nearest_stop(lengths.distances(), static_cast<Index>(draw * kStep % at(n)));
        if (!has_all(start, sure)) start.clear();
        all[k] = better(std::move(start), kKicks * n, kTours + draw);
      }
    };
    std::future<void> other = std::async(std::launch::async, find, std::size_t{1});
    find(0);
    other.get();
    std::erase_if(all, [&](const auto& tour) { return !is_tour(tour); });
    if (!answer.tour.empty()) all.push_back(answer.tour);
    if (all.size() < 2 || interrupt.now()) return std::vector<Index>{};
    std::ranges::stable_sort(all, {}, [&](const auto& t) { return tours::length(lengths, t); });
    return merged(lengths, relaxation, all, sure,
                  kShare * (options.budget.seconds - clock.seconds()), options);
  };
  if (options.watch) options.watch(clock.seconds(), answer.length, answer.bound);
  if (proven() || accepted()) return answer;
  // What is open is worth another look for tours: a better one leaves fewer legs.
  const bool many = n >= options.merge_from;
  if (fine && !many && !interrupt.now()) improve(kMoreKicks * n);
  constexpr int kMerges = 2;
  for (int merge = 0; fine && many && merge < kMerges && !interrupt.now(); ++merge) {
    const bool shorter = take(merge_good_ones(merge));
    if (proven() || accepted()) return answer;
    if (!shorter) break;
  }
  if (proven() || accepted()) return answer;
  if (!fine) {
    give_up(relaxation);
    return answer;
  }
  LegProblem left = what_is_left(relaxation, upper(), answer.tour);
  TourRelaxation::Start start = relaxation.start_for(left.legs);
  left.rows = std::move(start.rows);
  left.basis = std::move(start.basis);
  constexpr std::size_t kSets = 100;
  left.sets = relaxation.undecided_sets(kSets);
  answer.legs_kept = static_cast<std::int64_t>(left.legs.size());
  LegSearchOptions search;
  search.budget = options.budget.less(clock.seconds(), 0);
  search.gap = options.gap;
  Watch watch(options, clock, 1.0 / scale_of(lengths), answer.length);
  const LegAnswer found = search_legs(lengths, left, search, &watch);
  answer.nodes = found.nodes;
  for (std::size_t k = 0; k < answer.rows.size(); ++k) answer.rows[k] += found.rows[k];
  answer.stopped_by = found.stopped_by;
  answer.reason = found.reason;
  const bool had_tour = !answer.tour.empty();
  const bool sound = found.tour.empty() || is_tour(found.tour);
  if (!found.tour.empty()) (void)take(found.tour);
  // Tours over legs that were left out are no shorter than the one that was known.
  if (found.outcome == Outcome::infeasible && !had_tour) {
    answer.outcome = Outcome::infeasible;
    return answer;
  }
  const bool closed =
      sound && (found.outcome == Outcome::optimal || found.outcome == Outcome::infeasible);
  if (closed)
    answer.bound = answer.length;
  else if (std::isfinite(found.bound))
    answer.bound = std::max(
        answer.bound, std::min(answer.length, static_cast<std::int64_t>(std::ceil(found.bound))));
  if (proven() || accepted()) return answer;
  answer.outcome = answer.tour.empty() ? Outcome::undecided : Outcome::unproven;
  return answer;
}

Rounds solve_in_rounds(const tours::WholeLengths& lengths, const std::vector<Leg>& sure,
                       const std::vector<Index>& tour, int most, const ExactTourOptions& options) {
  const Stopwatch clock;
  const Interrupt interrupt = options.budget.interrupt(clock);
  Rounds all;
  const std::int64_t upper = tour.empty() ? beyond_all(lengths) : tours::length(lengths, tour);
  TourRelaxation relaxation(lengths, first_legs(lengths, tour), sure);
  std::vector<tours::StopRow> rules;
  while (static_cast<int>(all.rounds.size()) < most) {
    // What is left is a search over all legs: its first steps alone take as long as many limits.
    const bool solved = relaxation.solve_degrees(interrupt);
    if (solved && interrupt.now()) {
      all.outcome = Outcome::undecided;
      all.stopped_by = interrupt.by_hand() ? "hand" : "time";
      return all;
    }
    if (!solved) {
      all.outcome = relaxation.stopped() == TourRelaxation::Why::no_tour ? Outcome::infeasible
                                                                         : Outcome::undecided;
      if (relaxation.stopped() == TourRelaxation::Why::interrupted)
        all.stopped_by = interrupt.by_hand() ? "hand" : "time";
      return all;
    }
    // A plan of this round is no longer than the tour, which meets all rules.
    LegProblem left = what_is_left(relaxation, upper + 1, tour);
    left.rows = rules;
    all.legs_kept = std::max(all.legs_kept, static_cast<std::int64_t>(left.legs.size()));
    LegSearchOptions search;
    search.budget = options.budget.less(clock.seconds(), 0);
    const LoopAnswer found = search_loops(lengths, left, search);
    all.nodes += found.nodes;
    if (found.outcome != Outcome::optimal) {
      all.outcome = found.outcome == Outcome::infeasible ? Outcome::infeasible : Outcome::undecided;
      all.stopped_by = found.stopped_by;
      all.reason = found.reason;
      return all;
    }
    all.rounds.push_back({found.length, found.loops});
    if (found.loops.size() == 1) {
      all.outcome = Outcome::optimal;
      return all;
    }
    for (const std::vector<Index>& loop : found.loops) {
      tours::StopRow rule{{loop}, 2};
      tours::normalise(rule, lengths.size());
      if (std::find(rules.begin(), rules.end(), rule) != rules.end()) continue;
      rules.push_back(rule);
      relaxation.add_rule(rule);
      ++all.loops;
    }
  }
  all.outcome = Outcome::unproven;
  return all;
}

}  // namespace kiteknot::methods
