// Places to open, customers served from open ones without a limit on how many.

#include <fmt/format.h>

#include "base/text.hpp"
#include "methods/kinds/special_kind.hpp"
#include "structures/locations.hpp"

namespace kiteknot::methods {
namespace {

struct Places final : SpecialKind {
  structures::LocationProblem problem;
  std::vector<Index> open;               // by place
  std::vector<std::vector<Index>> ship;  // by customer and place; -1: it cannot
  std::vector<double> amount;            // by customer: what its ship decisions sum up to

  [[nodiscard]] std::string told() const override {
    return fmt::format("a choice of {} that serve {} without limits", counted(open.size(), "place"),
                       counted(amount.size(), "customer"));
  }
  [[nodiscard]] double entries() const {  // of a round of swaps
    return static_cast<double>(open.size()) * static_cast<double>(amount.size() + open.size());
  }
};

// Customers are the equations; a link says that nothing comes from a place that is closed, for one
// lane or for all lanes of a place together, with at least as much as could ever go.
class PlaceFinder {
 public:
  explicit PlaceFinder(const PlainProblem& p)
      : p_(p), customer_(p.cost.size(), -1), place_(p.cost.size(), -1), linked_(p.cost.size(), 0) {}

  std::unique_ptr<SpecialKind> run() {
    for (Index i = 0; i < p_.num_rows(); ++i)
      if (!(is_customer(i) ? take_customer(i) : (links_.push_back(i), true))) return {};
    if (k_->amount.empty() || links_.empty() || !take_places()) return {};
    k_->problem.serve.assign(k_->amount.size(), std::vector<double>(k_->open.size(), HUGE_VAL));
    k_->ship.assign(k_->amount.size(), std::vector<Index>(k_->open.size(), -1));
    for (const Index i : links_)
      if (!take_link(i)) return {};
    for (Index d = 0; d < p_.num_decisions(); ++d)
      if (customer_[at(d)] >= 0 && !linked_[at(d)]) return {};
    return std::move(k_);
  }

 private:
  [[nodiscard]] bool is_customer(Index i) const {
    return p_.low[at(i)] == p_.high[at(i)] && p_.same_weight(i) > 0.0 && p_.low[at(i)] > 0.0;
  }

  bool take_customer(Index i) {
    const double amount = p_.low[at(i)] / p_.same_weight(i);
    for (const WeightedNode& t : p_.row(i)) {
      if (customer_[at(t.node)] >= 0) return false;
      customer_[at(t.node)] = static_cast<Index>(k_->amount.size());
      const DecisionRange& range = p_.ranges[at(t.node)];
      if (range.lower != 0.0 || range.upper < amount || range.or_zero || !range.listed.empty() ||
          (range.whole && !range.binary()))
        return false;
      // A whole one has to be the whole amount.
      if (range.binary() && amount != 1.0) return false;
    }
    k_->amount.push_back(amount);
    return true;
  }

  bool take_places() {
    for (Index d = 0; d < p_.num_decisions(); ++d) {
      if (customer_[at(d)] >= 0) continue;
      if (!p_.binary(d) || p_.cost[at(d)] < 0.0) return false;
      place_[at(d)] = static_cast<Index>(k_->open.size());
      k_->open.push_back(d);
      k_->problem.rent.push_back(p_.cost[at(d)]);
    }
    return true;
  }

  bool take_link(Index i) {
    if (p_.high[at(i)] != 0.0 || std::isfinite(p_.low[at(i)])) return false;
    Index of = -1;
    double room = 0.0, most = 0.0;
    for (const WeightedNode& t : p_.row(i)) {
      if (customer_[at(t.node)] < 0) {
        if (of >= 0 || t.weight >= 0.0) return false;
        of = place_[at(t.node)];
        room = -t.weight;
      } else {
        if (t.weight <= 0.0) return false;
        most += t.weight * k_->amount[at(customer_[at(t.node)])];
      }
    }
    if (of < 0 || most > room) return false;  // it limits more than whether it is open
    for (const WeightedNode& t : p_.row(i)) {
      const Index c = customer_[at(t.node)];
      if (c < 0) continue;
      Index& ship = k_->ship[at(c)][at(of)];
      if (ship >= 0 && ship != t.node) return false;
      if (linked_[at(t.node)] && ship != t.node) return false;  // one lane of one place only
      linked_[at(t.node)] = 1;
      ship = t.node;
      k_->problem.serve[at(c)][at(of)] = p_.cost[at(t.node)] * k_->amount[at(c)];
    }
    return true;
  }

  const PlainProblem& p_;
  std::unique_ptr<Places> k_ = std::make_unique<Places>();
  std::vector<Index> customer_, place_;  // by decision, or -1
  std::vector<char> linked_;
  std::vector<Index> links_;
};

std::unique_ptr<SpecialKind> find_place(const PlainProblem& p) {
  return PlaceFinder(p).run();
}

void take_place(KindRun& r, const Places& k, const structures::LocationPlan& plan) {
  if (plan.open.empty() || !std::isfinite(plan.cost)) return;
  std::vector<double> values = r.nothing();
  for (std::size_t f = 0; f < k.open.size(); ++f) values[at(k.open[f])] = plan.open[f] ? 1.0 : 0.0;
  for (std::size_t c = 0; c < k.amount.size(); ++c)
    values[at(k.ship[c][at(plan.from[c])])] = k.amount[c];
  r.take(plan.cost, std::move(values));
}

void places_added(KindRun& r, const SpecialKind& kind) {
  const auto& k = static_cast<const Places&>(kind);
  take_place(r, k, structures::add_places(k.problem));
}
void places_dropped(KindRun& r, const SpecialKind& kind) {
  const auto& k = static_cast<const Places&>(kind);
  take_place(r, k, structures::drop_places(k.problem));
}
void swap_on(KindRun& r, const Places& k, structures::LocationPlan plan) {
  take_place(r, k, plan);
  if (plan.open.empty()) return;
  constexpr std::int64_t kRounds = 100'000;
  for (double before = HUGE_VAL; plan.cost < before && !r.over(kRounds, k.entries());) {
    before = plan.cost;
    plan = structures::swap_places(k.problem, std::move(plan), 1);
    take_place(r, k, plan);
  }
}
void places_swapped(KindRun& r, const SpecialKind& kind) {
  const auto& k = static_cast<const Places&>(kind);
  swap_on(r, k, structures::add_places(k.problem));
}
void places_priced(KindRun& r, const SpecialKind& kind) {
  const auto& k = static_cast<const Places&>(kind);
  swap_on(r, k, structures::dual_ascent(k.problem).plan);
}

}  // namespace

KindEntry place_kind() {
  return {
      "choice of places without limits on what they serve",
      find_place,
      {{"add places", "of a choice of places: the one that saves most is opened, again and again",
        "Kuehn and Hamburger 1963", places_added},
       {"drop places", "of a choice of places: from all open, the dearest is closed",
        "Feldman, Lehrer and Ray 1966", places_dropped},
       {"swap places", "of a choice of places: opened, closed and swapped while that is better",
        "Teitz and Bart 1968; Whitaker 1983", places_swapped},
       {"dual ascent", "of a choice of places: those that customers' prices pay for, then swapped",
        "Erlenkotter 1978", places_priced}},
      places_priced,
      "what customers pay for places"};
}

}  // namespace kiteknot::methods
