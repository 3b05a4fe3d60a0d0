#include "model/tours/tour_lowering.hpp"

#include <algorithm>
#include <cmath>

#include <fmt/format.h>

#include "base/mark.hpp"
#include "kiteknot/errors.hpp"
#include "structures/tours/cuts/separation.hpp"
#include "structures/tours/cuts/trips.hpp"

namespace kiteknot {
namespace {

namespace tours = structures::tours;
using tours::Leg;

constexpr std::size_t kMostRows = 40;  // of one look
constexpr double kNear = 1e-5;         // to a whole number

// One undirected trip through all stops: what is known best.
class TourGenerator final : public mip::RowGenerator {
 public:
  TourGenerator(Index stops, std::vector<Leg> legs, std::vector<Index> columns)
      : legs_(std::move(legs)), columns_(std::move(columns)), separation_(stops), counts_(stops) {}
  [[nodiscard]] bool wants_fractions() const override { return true; }
  std::vector<mip::LinearRow> look(std::span<const double> point, bool) override {
    constexpr double kBroken = 0.02, kBrokenWhole = 0.5;
    // The engine's columns may be whole while these are not, and the other way round.
    bool whole = true;
    x_.clear();
    for (const Index j : columns_) {
      x_.push_back(point[at(j)]);
      whole = whole && std::abs(x_.back() - std::round(x_.back())) <= kNear;
    }
    std::vector<mip::LinearRow> rows;
    for (const tours::StopRow& row :
         separation_.look(legs_, x_, whole ? kBrokenWhole : kBroken, kMostRows)) {
      mip::LinearRow linear{{}, 0.0, kInf, true};
      linear.lower = static_cast<double>(counts_.shorter(row, legs_, [&](Index k, Index times) {
        linear.entries.push_back({columns_[at(k)], static_cast<double>(times)});
      }));
      rows.push_back(std::move(linear));
    }
    return rows;
  }
  [[nodiscard]] std::shared_ptr<mip::RowGenerator> twin() const override {
    return std::make_shared<TourGenerator>(*this);
  }
  [[nodiscard]] bool mark(Mark& mark) const override {
    mark.add("one trip through all");
    for (const Leg& leg : legs_) {
      mark.add(leg.a);
      mark.add(leg.b);
    }
    mark.add(std::span<const Index>(columns_));
    return true;
  }

 private:
  std::vector<Leg> legs_;  // a < b
  std::vector<Index> columns_;
  tours::TourSeparation separation_;
  tours::LegCounts counts_;
  std::vector<double> x_;
};

// All others.
class TripGenerator final : public mip::RowGenerator {
 public:
  TripGenerator(tours::Trips trips, std::vector<Index> legs, std::vector<Index> visits)
      : separation_(std::move(trips)), legs_(std::move(legs)), visits_(std::move(visits)) {}
  [[nodiscard]] bool wants_fractions() const override { return true; }
  std::vector<mip::LinearRow> look(std::span<const double> point, bool) override {
    bool whole = true;
    const auto value = [&](Index j) {
      const double v = point[at(j)];
      whole = whole && std::abs(v - std::round(v)) <= kNear;
      return v;
    };
    x_.clear();
    for (const Index j : legs_) x_.push_back(value(j));
    y_.clear();
    const tours::Trips& trips = separation_.trips();
    for (Index s = 0; s < trips.stops; ++s)
      y_.push_back(trips.sure(s) ? 1.0 : visits_[at(s)] < 0 ? 0.0 : value(visits_[at(s)]));
    std::vector<mip::LinearRow> rows;
    for (const tours::TripRow& row : separation_.look(x_, y_, whole, kMostRows)) {
      mip::LinearRow linear{{}, static_cast<double>(row.at_least), kInf, true};
      for (const auto& [k, times] : row.legs)
        linear.entries.push_back({legs_[at(k)], static_cast<double>(times)});
      for (const auto& [s, times] : row.visits)
        if (visits_[at(s)] >= 0)
          linear.entries.push_back({visits_[at(s)], static_cast<double>(times)});
      rows.push_back(std::move(linear));
    }
    return rows;
  }
  [[nodiscard]] std::shared_ptr<mip::RowGenerator> twin() const override {
    return std::make_shared<TripGenerator>(*this);
  }
  [[nodiscard]] bool mark(Mark& mark) const override {
    const tours::Trips& t = separation_.trips();
    mark.add("trips");
    mark.add(t.stops);
    mark.add(t.directed);
    mark.add(t.gate);
    mark.add(t.several);
    mark.add(t.capacity);
    mark.add(std::span<const char>(t.optional));
    mark.add(std::span<const std::int64_t>(t.load));
    for (const Leg& leg : t.legs) {
      mark.add(leg.a);
      mark.add(leg.b);
    }
    for (const auto& [first, second] : t.ahead) {
      mark.add(first);
      mark.add(second);
    }
    mark.add(std::span<const Index>(legs_));
    mark.add(std::span<const Index>(visits_));
    return true;
  }

 private:
  tours::TripSeparation separation_;
  std::vector<Index> legs_, visits_;  // columns
  std::vector<double> x_, y_;
};

class TourLowering {
 public:
  TourLowering(const ModelData& model, const TourRule& rule, Builder& builder)
      : model_(model), rule_(rule), builder_(builder), n_(rule.num_stops()) {}

  std::shared_ptr<mip::RowGenerator> run() {
    if (n_ == 0) return nullptr;
    note_columns();
    limit_legs();
    state_visits();
    std::vector<LinearForm> out(at(n_)), in(at(n_));
    const bool arcs = !rule_.directed && !rule_.ahead.empty();
    if (arcs) turn_into_links();
    for (std::size_t k = 0; k < links_.size(); ++k) {
      const auto [a, b] = links_[k];
      if (a == b) continue;
      out[at(a)] = plus(out[at(a)], single(columns_[k]), 1);
      LinearForm& other = directed_ ? in[at(b)] : out[at(b)];
      other = plus(other, single(columns_[k]), 1);
    }
    for (Index s = 0; s < n_; ++s) {
      if (rule_.several && s == rule_.gate) {
        state_gate(out[at(s)], in[at(s)]);
        continue;
      }
      const LinearForm visits = visits_of(s);
      const Rational each = directed_ ? 1 : 2;
      equal(plus(out[at(s)], visits, -each));
      if (directed_) equal(plus(in[at(s)], visits, -each));
    }
    return generator();
  }

 private:
  void equal(const LinearForm& f) { row(f, 0, 0); }
  // The constant moves to the limits.
  void row(const LinearForm& f, const Rational& low, const Rational& high) {
    if (f.terms.empty()) {
      if (low > f.constant || high < f.constant) {
        Logic never;
        never.value = false;
        builder_.require(never, {});
      }
      return;
    }
    const auto moved = [&](const Rational& limit) {
      return limit.is_finite() ? limit - f.constant : limit;
    };
    (void)builder_.add_row({0, f.terms}, moved(low), moved(high), nullptr);
  }

  void note_columns() {
    directed_ = rule_.directed;
    links_ = rule_.ends;
    for (std::size_t k = 0; k < links_.size(); ++k)
      columns_.push_back(rule_.legs->first + static_cast<Index>(k));
    if (!directed_)
      for (Leg& leg : links_)
        if (leg.a > leg.b) std::swap(leg.a, leg.b);
  }

  // A column that may be other than whole from 0 to `most` is made equal to one that may not.
  void keep_whole(Index column, const Rational& most) {
    const Range range = builder_.range(single(column));
    const bool whole = column >= model_.num_decisions || model_.whole(column);
    if (!whole || range.low.sign() < 0) {
      const Index whole_one = builder_.add_column(0, most, true);
      equal(plus(single(column), single(whole_one), -1));
    } else if (range.high > most) {
      row(single(column), 0, most);
    }
  }

  void limit_legs() {
    // There and back on one leg is a trip of two stops.
    const bool one_trip_of_two = !rule_.several && rule_.visiting == nullptr && n_ == 2;
    for (std::size_t k = 0; k < links_.size(); ++k) {
      const auto [a, b] = links_[k];
      const bool at_gate = rule_.gate < 0 || a == rule_.gate || b == rule_.gate;
      const bool twice =
          !directed_ && at_gate && (rule_.several || rule_.visiting != nullptr || one_trip_of_two);
      if (a == b || rule_.never(a) || rule_.never(b))
        row(single(columns_[k]), 0, 0);
      else
        keep_whole(columns_[k], twice ? 2 : 1);
    }
  }

  [[nodiscard]] LinearForm visits_of(Index s) const {
    const bool alone = n_ == 1 && rule_.visiting == nullptr;  // of several it is the gate
    if (rule_.never(s) || alone) return {};
    LinearForm visits;
    if (rule_.always(s))
      visits.constant = 1;
    else
      visits = single(rule_.visit[at(s)]);
    if (only_[at(s)] >= 0) visits = plus(visits, single(only_[at(s)]), -1);
    return visits;
  }

  // One trip of one stop has no legs: whether a stop is the only one that is visited.
  void state_visits() {
    only_.assign(at(n_), -1);
    if (rule_.visiting == nullptr) return;
    for (Index s = 0; s < n_; ++s)
      if (rule_.visit[at(s)] >= 0) {
        keep_whole(rule_.visit[at(s)], 1);
        if (s == rule_.gate) row(single(rule_.visit[at(s)]), 1, 1);
      }
    if (rule_.several) return;
    LinearForm all;
    for (Index s = 0; s < n_; ++s)
      if (rule_.gate < 0 ? !rule_.never(s) : s == rule_.gate) {
        only_[at(s)] = builder_.add_binary().column;
        all = plus(all, single(only_[at(s)]), 1);
      }
    for (Index s = 0; s < n_; ++s) {
      if (rule_.always(s) || rule_.never(s)) continue;
      const LinearForm visit = single(rule_.visit[at(s)]);
      LinearForm others = all;
      if (only_[at(s)] >= 0) {  // where it is not visited, it is not the only one
        const LinearForm own = single(only_[at(s)]);
        row(plus(visit, own, -1), 0, Rational::infinity());
        others = plus(all, own, -1);
      }
      if (!others.terms.empty()) row(plus(visit, others, 1), Rational::minus_infinity(), 1);
    }
  }

  // An undirected leg as two links, of which those are taken that the trip goes along: orders are
  // told in one of its two directions.
  void turn_into_links() {
    std::vector<Leg> links;
    std::vector<Index> columns;
    for (std::size_t k = 0; k < links_.size(); ++k) {
      if (links_[k].a == links_[k].b) continue;
      const Index there = builder_.add_binary().column, back = builder_.add_binary().column;
      equal(plus(plus(single(columns_[k]), single(there), -1), single(back), -1));
      links.push_back(links_[k]);
      columns.push_back(there);
      links.push_back({links_[k].b, links_[k].a});
      columns.push_back(back);
    }
    links_ = std::move(links);
    columns_ = std::move(columns);
    directed_ = true;
  }

  void state_gate(const LinearForm& out, const LinearForm& in) {
    const Rational most = static_cast<long long>(rule_.trips(builder_.numbers()));
    const Rational each = directed_ ? 1 : 2;
    Rational least = 0;
    if (!rule_.load.empty()) {
      Rational sure = 0;
      for (Index s = 0; s < n_; ++s)
        if (rule_.always(s)) sure += rule_.load[at(s)];
      least = (sure / rule_.room(builder_.numbers())).ceil();
    }
    row(out, each * least, each * most);
    if (directed_) equal(plus(out, in, -1));
  }

  std::shared_ptr<mip::RowGenerator> generator() {
    if (n_ < 2) return nullptr;
    const bool all = rule_.visiting == nullptr && !rule_.several;
    if (all && !directed_ && n_ >= 3 &&
        std::ranges::none_of(links_, [](const Leg& l) { return l.a == l.b; }))
      return std::make_shared<TourGenerator>(n_, links_, columns_);
    tours::Trips trips;
    trips.stops = n_;
    trips.directed = directed_;
    trips.legs = links_;
    trips.gate = rule_.gate;
    trips.several = rule_.several;
    trips.ahead = rule_.ahead;
    std::vector<Index> visits(at(n_), -1);
    if (rule_.visiting != nullptr) {
      trips.optional.assign(at(n_), 1);
      for (Index s = 0; s < n_; ++s)
        if (!rule_.always(s)) visits[at(s)] = rule_.visit[at(s)];
    }
    if (!rule_.load.empty()) take_loads(trips, visits);
    return std::make_shared<TripGenerator>(std::move(trips), columns_, std::move(visits));
  }

  // Loads and capacity as whole numbers of one unit; a stop that is too much for any trip is not
  // visited.
  void take_loads(tours::Trips& trips, const std::vector<Index>& visits) {
    const Rational room = rule_.room(builder_.numbers());
    Rational unit = room.denominator();
    for (const Rational& load : rule_.load) unit = Rational::lcm(unit, load.denominator());
    Rational sum = 0;
    for (const Rational& load : rule_.load) sum += load * unit;
    constexpr long long kLargest = 1LL << 48;
    if (sum > Rational(kLargest) || room * unit > Rational(kLargest))
      throw UsageError(fmt::format("the figures of {} have too many digits to be added up exactly",
                                   rule_.load_column));
    const auto units = [&](const Rational& v) {
      return static_cast<std::int64_t>((v * unit).to_double());
    };
    trips.capacity = units(room);
    for (Index s = 0; s < n_; ++s) {
      const Rational& load = rule_.load[at(s)];
      trips.load.push_back(units(std::min(load, room)));
      if (load <= room || rule_.never(s)) continue;
      row(rule_.always(s) ? LinearForm{1, {}} : single(visits[at(s)]), 0, 0);
    }
  }

  const ModelData& model_;
  const TourRule& rule_;
  Builder& builder_;
  Index n_;
  bool directed_ = false;
  std::vector<Leg> links_;
  std::vector<Index> columns_;
  std::vector<Index> only_;  // by stops: the column that says that no other one is visited; -1
};

}  // namespace

std::shared_ptr<mip::RowGenerator> lower_tour(const ModelData& model, const TourRule& rule,
                                              Builder& builder) {
  return TourLowering(model, rule, builder).run();
}

bool JoinedGenerators::mark(Mark& mark) const {
  return std::ranges::all_of(all_, [&](const auto& g) { return g->mark(mark); });
}

bool JoinedGenerators::wants_fractions() const {
  return std::ranges::any_of(all_, [](const auto& g) { return g->wants_fractions(); });
}

std::vector<mip::LinearRow> JoinedGenerators::look(std::span<const double> point, bool integral) {
  std::vector<mip::LinearRow> rows;
  for (const auto& generator : all_) {
    if (!integral && !generator->wants_fractions()) continue;
    for (mip::LinearRow& row : generator->look(point, integral)) rows.push_back(std::move(row));
  }
  return rows;
}

std::shared_ptr<mip::RowGenerator> JoinedGenerators::twin() const {
  std::vector<std::shared_ptr<mip::RowGenerator>> twins;
  for (const auto& generator : all_) {
    twins.push_back(generator->twin());
    if (twins.back() == nullptr) return nullptr;
  }
  return std::make_shared<JoinedGenerators>(std::move(twins));
}

}  // namespace kiteknot
