#include "methods/kinds/special_kinds.hpp"

#include <algorithm>
#include <cmath>
#include <map>

#include <fmt/format.h>

#include "base/text.hpp"

namespace kiteknot::methods {
namespace {

// A rule as a row: its terms, with the constant moved to the limits.
struct Row {
  std::span<const WeightedNode> terms;
  double low = 0.0, high = 0.0;
};

class Detector {
 public:
  explicit Detector(const PlainProblem& p) : p_(p), cost_(p.cost) {
    for (Index i = 0; i < static_cast<Index>(p.low.size()); ++i)
      rows_.push_back({p.rows.of(i), p.low[at(i)], p.high[at(i)]});
  }

  SpecialKind run() {
    if (auto k = cover()) return std::move(*k);
    if (auto k = boxes()) return std::move(*k);
    if (auto k = rooms()) return std::move(*k);
    if (auto k = locations()) return std::move(*k);
    return {};
  }

 private:
  [[nodiscard]] bool binary(Index d) const { return p_.ranges[at(d)].binary(); }
  [[nodiscard]] bool all_binary() const {
    for (Index d = 0; d < static_cast<Index>(cost_.size()); ++d)
      if (!binary(d)) return false;
    return true;
  }
  // All weights the same, above 0: that weight, else 0.
  static double same_weight(const Row& r) {
    if (r.terms.empty()) return 0.0;
    const double w = r.terms.front().weight;
    const bool same =
        w > 0.0 && std::ranges::all_of(r.terms, [w](const auto& t) { return t.weight == w; });
    return same ? w : 0.0;
  }
  static bool one_of(const Row& r) {  // exactly one of binaries
    const double w = same_weight(r);
    return w > 0.0 && r.low == w && r.high == w;
  }

  std::optional<CoverKind> cover() {
    if (rows_.empty() || !all_binary()) return {};
    if (std::ranges::any_of(cost_, [](double c) { return c < 0.0; })) return {};
    CoverKind k;
    k.problem.cost = cost_;
    k.problem.needs.resize(cost_.size());
    k.problem.num_needs = static_cast<Index>(rows_.size());
    for (Index d = 0; d < static_cast<Index>(cost_.size()); ++d) k.decision.push_back(d);
    for (std::size_t i = 0; i < rows_.size(); ++i) {
      const double w = same_weight(rows_[i]);
      if (w == 0.0 || rows_[i].low != w || std::isfinite(rows_[i].high)) return {};
      for (const WeightedNode& t : rows_[i].terms)
        k.problem.needs[at(t.node)].push_back(static_cast<Index>(i));
    }
    return k;
  }

  // By decision the rows of each sort that it stands in; nothing where one stands in two of a sort.
  struct Sorted {
    std::vector<Index> choice, other;    // by decision: place among rows of that sort, or -1
    std::vector<Index> choices, others;  // rows
  };
  [[nodiscard]] std::optional<Sorted> sorted() const {
    Sorted s;
    s.choice.assign(cost_.size(), -1);
    s.other.assign(cost_.size(), -1);
    for (std::size_t i = 0; i < rows_.size(); ++i) {
      const bool choice = one_of(rows_[i]);
      std::vector<Index>& place = choice ? s.choice : s.other;
      std::vector<Index>& list = choice ? s.choices : s.others;
      for (const WeightedNode& t : rows_[i].terms) {
        if (place[at(t.node)] >= 0) return {};
        place[at(t.node)] = static_cast<Index>(list.size());
      }
      list.push_back(static_cast<Index>(i));
    }
    return s;
  }

  std::optional<BoxKind> boxes() {
    if (!all_binary()) return {};
    const auto s = sorted();
    if (!s || s->choices.empty() || s->others.empty()) return {};
    BoxKind k;
    k.sizes.assign(s->choices.size(), 0);
    k.put.assign(s->choices.size(), std::vector<Index>(s->others.size(), -1));
    k.used.assign(s->others.size(), -1);
    double each = 0.0;
    for (std::size_t b = 0; b < s->others.size(); ++b) {
      const Row& r = rows_[at(s->others[b])];
      if (r.high != 0.0 || std::isfinite(r.low)) return {};
      for (const WeightedNode& t : r.terms) {
        const Index item = s->choice[at(t.node)];
        if (item < 0) {  // the box itself
          if (k.used[b] >= 0 || t.weight >= 0.0 || !(cost_[at(t.node)] > 0.0)) return {};
          const auto room = static_cast<std::int64_t>(-t.weight);
          if (static_cast<double>(room) != -t.weight || (k.room != 0 && k.room != room)) return {};
          if (each != 0.0 && each != cost_[at(t.node)]) return {};
          k.room = room;
          each = cost_[at(t.node)];
          k.used[b] = t.node;
          continue;
        }
        const auto size = static_cast<std::int64_t>(t.weight);
        if (static_cast<double>(size) != t.weight || size <= 0 || cost_[at(t.node)] != 0.0)
          return {};
        if (k.sizes[at(item)] != 0 && k.sizes[at(item)] != size) return {};
        k.sizes[at(item)] = size;
        k.put[at(item)][b] = t.node;
      }
      if (k.used[b] < 0) return {};
    }
    for (std::size_t i = 0; i < k.put.size(); ++i)
      if (k.sizes[i] == 0 || k.sizes[i] > k.room ||
          std::ranges::any_of(k.put[i], [](Index d) { return d < 0; }))
        return {};
    // Every decision is one of these.
    if (cost_.size() != k.put.size() * k.used.size() + k.used.size()) return {};
    return k;
  }

  std::optional<RoomKind> rooms() {
    if (!all_binary()) return {};
    const auto s = sorted();
    if (!s || s->choices.empty() || s->others.empty()) return {};
    RoomKind k;
    k.problem.agents = static_cast<Index>(s->others.size());
    k.problem.jobs = static_cast<Index>(s->choices.size());
    const std::size_t n = s->others.size() * s->choices.size();
    k.problem.cost.assign(n, HUGE_VAL);
    k.problem.use.assign(n, 0.0);
    k.does.assign(n, -1);
    for (std::size_t a = 0; a < s->others.size(); ++a) {
      const Row& r = rows_[at(s->others[a])];
      if (std::isfinite(r.low) || !std::isfinite(r.high)) return {};
      k.problem.room.push_back(r.high);
      for (const WeightedNode& t : r.terms) {
        const Index job = s->choice[at(t.node)];
        if (job < 0 || t.weight <= 0.0) return {};
        const std::size_t p = k.problem.place(static_cast<Index>(a), job);
        if (k.does[p] >= 0) return {};
        k.does[p] = t.node;
        k.problem.cost[p] = cost_[at(t.node)];
        k.problem.use[p] = t.weight;
      }
    }
    for (Index d = 0; d < static_cast<Index>(cost_.size()); ++d)
      if (s->choice[at(d)] < 0 || s->other[at(d)] < 0) return {};
    return k;
  }

  // Customers are the equations; a link says that nothing comes from a place that is closed, for
  // one lane or for all lanes of a place together, with at least as much as could ever go.
  std::optional<LocationKind> locations() {
    LocationKind k;
    std::vector<Index> customer(cost_.size(), -1), place(cost_.size(), -1);
    std::vector<const Row*> links;
    std::vector<double> weight;
    for (const Row& r : rows_) {
      if (r.low == r.high && same_weight(r) > 0.0 && r.low > 0.0) {
        const double amount = r.low / same_weight(r);
        for (const WeightedNode& t : r.terms) {
          if (customer[at(t.node)] >= 0) return {};
          customer[at(t.node)] = static_cast<Index>(k.amount.size());
          const DecisionRange& range = p_.ranges[at(t.node)];
          if (range.lower != 0.0 || range.upper < amount || range.or_zero ||
              !range.listed.empty() || (range.whole && !range.binary()))
            return {};
          // A whole one has to be the whole amount.
          if (range.binary() && amount != 1.0) return {};
        }
        k.amount.push_back(amount);
      } else {
        links.push_back(&r);
      }
    }
    if (k.amount.empty() || links.empty()) return {};
    for (Index d = 0; d < static_cast<Index>(cost_.size()); ++d) {
      if (customer[at(d)] >= 0) continue;
      if (!binary(d) || cost_[at(d)] < 0.0) return {};
      place[at(d)] = static_cast<Index>(k.open.size());
      k.open.push_back(d);
      k.problem.rent.push_back(cost_[at(d)]);
    }
    k.problem.serve.assign(k.amount.size(), std::vector<double>(k.open.size(), HUGE_VAL));
    k.ship.assign(k.amount.size(), std::vector<Index>(k.open.size(), -1));
    std::vector<char> linked(cost_.size(), 0);
    for (const Row* r : links) {
      if (r->high != 0.0 || std::isfinite(r->low)) return {};
      Index of = -1;
      double room = 0.0, most = 0.0;
      for (const WeightedNode& t : r->terms) {
        if (customer[at(t.node)] < 0) {
          if (of >= 0 || t.weight >= 0.0) return {};
          of = place[at(t.node)];
          room = -t.weight;
        } else {
          if (t.weight <= 0.0) return {};
          most += t.weight * k.amount[at(customer[at(t.node)])];
        }
      }
      if (of < 0 || most > room) return {};  // it limits more than whether it is open
      for (const WeightedNode& t : r->terms) {
        const Index c = customer[at(t.node)];
        if (c < 0) continue;
        if (k.ship[at(c)][at(of)] >= 0 && k.ship[at(c)][at(of)] != t.node) return {};
        // One lane of one place only.
        if (linked[at(t.node)] && k.ship[at(c)][at(of)] != t.node) return {};
        linked[at(t.node)] = 1;
        k.ship[at(c)][at(of)] = t.node;
        k.problem.serve[at(c)][at(of)] = cost_[at(t.node)] * k.amount[at(c)];
      }
    }
    for (Index d = 0; d < static_cast<Index>(cost_.size()); ++d)
      if (customer[at(d)] >= 0 && !linked[at(d)]) return {};
    return k;
  }

  const PlainProblem& p_;
  const std::vector<double>& cost_;  // by decision, to be small
  std::vector<Row> rows_;
};

}  // namespace

std::optional<PlainProblem> plain_problem(const CompiledModel& m) {
  if (!m.linear || m.goal < 0) return {};
  PlainProblem p;
  p.ranges = m.ranges;
  if (!std::ranges::all_of(p.ranges, &DecisionRange::can_move)) return {};
  p.cost.assign(m.ranges.size(), 0.0);
  for (const WeightedNode& t : m.terms.of(m.goal)) p.cost[at(t.node)] += t.weight;
  for (Index r = 0; r < static_cast<Index>(m.rules.size()); ++r) {
    const Index sum = m.sum_of(r);
    const CompiledModel::Figures& f = m.figures[at(m.rules[at(r)].root)];
    const auto terms = m.terms.of(sum);
    p.rows.entries.insert(p.rows.entries.end(), terms.begin(), terms.end());
    p.rows.start.push_back(p.rows.entries.size());
    p.low.push_back(f.low - m.figures[at(sum)].constant);
    p.high.push_back(f.high - m.figures[at(sum)].constant);
  }
  return p;
}

std::optional<PlainProblem> plain_problem(const mip::Problem& m) {
  if (!m.linear()) return {};
  PlainProblem p;
  for (Index j = 0; j < m.num_columns(); ++j) {
    DecisionRange r;
    r.lower = m.lower(j);
    r.upper = m.upper(j);
    r.whole = m.integer(j);
    if (r.lower >= r.upper) return {};
    p.ranges.push_back(std::move(r));
    p.cost.push_back(m.cost(j));
  }
  for (Index i = 0; i < m.num_rows(); ++i) {
    const mip::RowView row = m.row(i);
    for (std::size_t k = 0; k < row.index.size(); ++k)
      p.rows.entries.push_back({row.index[k], row.value[k]});
    p.rows.start.push_back(p.rows.entries.size());
    p.low.push_back(row.lower);
    p.high.push_back(row.upper);
  }
  return p;
}

SpecialKind special_kind(const PlainProblem& p) {
  return Detector(p).run();
}

SpecialKind special_kind(const CompiledModel& m) {
  const std::optional<PlainProblem> p = plain_problem(m);
  return p ? special_kind(*p) : SpecialKind();
}

std::string told(const SpecialKind& kind) {
  struct Words {
    std::string operator()(const std::monostate&) const { return {}; }
    std::string operator()(const CoverKind& k) const {
      return fmt::format("a cover of {} by {}", counted(at(k.problem.num_needs), "need"),
                         counted(k.decision.size(), "set"));
    }
    std::string operator()(const BoxKind& k) const {
      return fmt::format("packing of {} into boxes of {}", counted(k.sizes.size(), "item"),
                         figure(Rational(static_cast<long long>(k.room))));
    }
    std::string operator()(const LocationKind& k) const {
      return fmt::format("a choice of {} that serve {} without limits",
                         counted(k.open.size(), "place"), counted(k.amount.size(), "customer"));
    }
    std::string operator()(const RoomKind& k) const {
      return fmt::format("an assignment of {} to {} with room", counted(at(k.problem.jobs), "job"),
                         counted(at(k.problem.agents), "agent"));
    }
  };
  return std::visit(Words(), kind);
}

}  // namespace kiteknot::methods
