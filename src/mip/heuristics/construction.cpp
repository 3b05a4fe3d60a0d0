#include "mip/heuristics/construction.hpp"

#include <algorithm>
#include <cmath>

#include "mip/heuristics/exchange.hpp"

namespace kiteknot::mip {
namespace {

constexpr double kTolerance = 1e-7;
constexpr double kMostPressure = 1e4;  // times the price of any move

}  // namespace

Construction::Construction(const Problem& problem, std::uint64_t seed)
    : p_(problem), random_(seed) {
  const auto rows = at(p_.num_rows());
  raise_price_.assign(rows, kInf);
  drop_price_.assign(rows, kInf);
  weight_.assign(rows, 1.0);
  double sum = 0.0;
  for (Index j = 0; j < p_.num_columns(); ++j) {
    const double cost = std::abs(p_.cost(j));
    sum += cost;
    const auto index = p_.columns().index(j);
    const auto entry = p_.columns().value(j);
    for (std::size_t k = 0; k < index.size(); ++k) {
      // From where the goal wants it a column moves one way only.
      const double each = cost / std::abs(entry[k]);
      const bool raises = (entry[k] > 0.0) == (p_.cost(j) >= 0.0);
      if (raises || cost == 0.0)
        raise_price_[at(index[k])] = std::min(raise_price_[at(index[k])], each);
      if (!raises || cost == 0.0)
        drop_price_[at(index[k])] = std::min(drop_price_[at(index[k])], each);
    }
  }
  least_ = 1e-3 * (sum > 0.0 ? sum / static_cast<double>(p_.num_columns()) : 1.0);
  for (auto* prices : {&raise_price_, &drop_price_})
    for (double& price : *prices)
      if (!std::isfinite(price)) price = least_;
  rate_rows();
}

// How large a part of other rows the columns of a row take, in the mean.
void Construction::rate_rows() {
  std::vector<double> largest(at(p_.num_rows()), 0.0);
  for (Index i = 0; i < p_.num_rows(); ++i)
    for (const double a : p_.rows().value(i))
      largest[at(i)] = std::max(largest[at(i)], std::abs(a));
  bulk_.assign(at(p_.num_rows()), 0.0);
  for (Index j = 0; j < p_.num_columns(); ++j) {
    const auto index = p_.columns().index(j);
    const auto entry = p_.columns().value(j);
    double first = 0.0, second = 0.0;  // largest parts
    Index of = -1;
    for (std::size_t k = 0; k < index.size(); ++k) {
      const double part = std::abs(entry[k]) / largest[at(index[k])];
      if (part > first) {
        second = first;
        first = part;
        of = index[k];
      } else {
        second = std::max(second, part);
      }
    }
    for (const Index i : index) bulk_[at(i)] += i == of ? second : first;
  }
  for (Index i = 0; i < p_.num_rows(); ++i)
    bulk_[at(i)] /= std::max(1.0, static_cast<double>(p_.rows().index(i).size()));
}

double Construction::missing(Index i) const {
  const double v = value_[at(i)], low = p_.row_lower(i), high = p_.row_upper(i);
  if (v < low - kTolerance * (1.0 + std::abs(low))) return low - v;
  if (v > high + kTolerance * (1.0 + std::abs(high))) return high - v;
  return 0.0;
}

// Keeps the list of broken rows.
void Construction::update(Index i) {
  const bool is = missing(i) != 0.0;
  Index& place = place_of_[at(i)];
  if (is == (place >= 0)) return;
  if (is) {
    place = static_cast<Index>(broken_.size());
    broken_.push_back(i);
    return;
  }
  broken_[at(place)] = broken_.back();
  place_of_[at(broken_.back())] = place;
  broken_.pop_back();
  place = -1;
}

// To where it is wanted, as far as the domain lets it.
void Construction::place(const Domain& domain, Index j) {
  const double x = std::clamp(wish_[at(j)], domain.lower(j), domain.upper(j));
  const double by = x - x_[at(j)];
  if (by == 0.0) return;
  x_[at(j)] = x;
  const auto index = p_.columns().index(j);
  const auto entry = p_.columns().value(j);
  for (std::size_t k = 0; k < index.size(); ++k) {
    value_[at(index[k])] += entry[k] * by;
    update(index[k]);
  }
}

void Construction::follow(const Domain& domain) {
  const auto& trail = domain.trail();
  for (; read_ < trail.size(); ++read_)
    if (trail[read_].change.what != Change::What::condition)
      place(domain, trail[read_].change.index);
}

void Construction::go_back(Domain& domain, std::size_t mark) {
  std::vector<Index> moved;
  for (std::size_t k = mark; k < read_; ++k)
    if (domain.trail()[k].change.what != Change::What::condition)
      moved.push_back(domain.trail()[k].change.index);
  domain.undo_to(mark);
  read_ = std::min(read_, mark);
  for (const Index j : moved) place(domain, j);
}

void Construction::begin(const Site& site) {
  const Domain& domain = site.domain;
  const auto columns = at(p_.num_columns()), rows = at(p_.num_rows());
  wish_.assign(columns, 0.0);
  for (Index j = 0; j < p_.num_columns(); ++j) {
    double& wish = wish_[at(j)];
    if (!site.wishes.empty())
      wish = p_.integer(j) ? std::round(site.wishes[at(j)]) : site.wishes[at(j)];
    else if (p_.cost(j) > 0.0 && std::isfinite(domain.lower(j)))
      wish = domain.lower(j);
    else if (p_.cost(j) < 0.0 && std::isfinite(domain.upper(j)))
      wish = domain.upper(j);
  }
  x_.assign(columns, 0.0);
  value_.assign(rows, 0.0);
  broken_.clear();
  place_of_.assign(rows, -1);
  for (Index i = 0; i < p_.num_rows(); ++i) update(i);
  for (Index j = 0; j < p_.num_columns(); ++j) place(domain, j);
  read_ = domain.mark();
  site.work.add(p_.rows().num_nonzeros() + p_.num_columns() + p_.num_rows());
}

// A row that is hard to mend: it was in the way before, its columns are large, and few of them can.
Index Construction::choose_row(const Site& site) {
  constexpr std::size_t kLooks = 512, kCounted = 8;
  const auto first =
      static_cast<std::size_t>(random_.between(0, static_cast<std::int64_t>(broken_.size()) - 1));
  drawn_.clear();
  for (std::size_t k = 0; k < std::min(kLooks, broken_.size()); ++k) {
    const Index i = broken_[(first + k) % broken_.size()];
    drawn_.emplace_back(-weight_[at(i)] * (0.1 + bulk_[at(i)]), i);
  }
  const std::size_t counted = std::min(kCounted, drawn_.size());
  std::ranges::partial_sort(drawn_, drawn_.begin() + static_cast<std::ptrdiff_t>(counted), {},
                            &std::pair<double, Index>::first);
  site.work.add(static_cast<std::int64_t>(drawn_.size()));
  Index best = -1;
  double best_score = -1.0;
  for (std::size_t k = 0; k < counted; ++k) {
    const Index i = drawn_[k].second;
    const double need = missing(i);
    double count = 1.0;
    const auto index = p_.rows().index(i);
    const auto entry = p_.rows().value(i);
    for (std::size_t e = 0; e < index.size(); ++e) {
      const bool up = (entry[e] > 0.0) == (need > 0.0);
      const double end = up ? site.domain.upper(index[e]) : site.domain.lower(index[e]);
      count += end != x_[at(index[e])] ? 1.0 : 0.0;
    }
    site.work.add(static_cast<std::int64_t>(index.size()));
    const double score = -drawn_[k].first / count;
    if (score <= best_score) continue;
    best = i;
    best_score = score;
  }
  return best;
}

// How the column mends the row, at what price.
std::optional<Construction::Move> Construction::move_of(const Domain& domain, Index j, double entry,
                                                        double need) {
  const bool up = (entry > 0.0) == (need > 0.0);
  double step = std::abs(need / entry);
  if (p_.integer(j)) step = std::ceil(step - kTolerance);
  step = up ? std::min(step, domain.upper(j) - x_[at(j)])
            : -std::min(step, x_[at(j)] - domain.lower(j));
  if (step == 0.0 || !std::isfinite(step)) return std::nullopt;
  double price = (prices_.empty() ? p_.cost(j) : prices_[at(j)]) * step + least_, help = 0.0;
  const auto index = p_.columns().index(j);
  const auto value = p_.columns().value(j);
  for (std::size_t k = 0; k < index.size(); ++k) {
    const Index i = index[k];
    const double now = value_[at(i)], then = now + value[k] * step;
    const double low = p_.row_lower(i), high = p_.row_upper(i);
    const double before = std::max({0.0, low - now, now - high});
    const double after = std::max({0.0, low - then, then - high});
    if (after < before)
      help += weight_[at(i)] * (before - after) / before;
    else if (after > before)
      price += (after - before) * (then < low ? raise_price_[at(i)] : drop_price_[at(i)]);
    else if (pressure_ > 0.0 && before == 0.0) {
      const double room = value[k] * step > 0.0 ? high - now : now - low;
      if (room > 0.0) price += pressure_ * std::abs(value[k] * step) / room;
    }
  }
  if (blur_ > 0.0) price *= 1.0 + blur_ * random_.fraction();
  const double score = price > 0.0 ? price / (help + kTolerance) : price * (help + kTolerance);
  return Move{j, x_[at(j)] + step, score};
}

void Construction::list_moves(const Site& site, Index row) {
  moves_.clear();
  const double need = missing(row);
  const auto index = p_.rows().index(row);
  const auto entry = p_.rows().value(row);
  std::int64_t work = 0;
  for (std::size_t e = 0; e < index.size(); ++e) {
    work += 1 + static_cast<std::int64_t>(p_.columns().index(index[e]).size());
    if (const auto move = move_of(site.domain, index[e], entry[e], need)) moves_.push_back(*move);
  }
  site.work.add(work);
  std::ranges::stable_sort(moves_, {}, &Move::score);
}

bool Construction::conclude(const Site& site, Index j, double low, double high) {
  const bool possible = site.domain.raise_lower(j, low) && site.domain.drop_upper(j, high) &&
                        site.propagation.run(site.domain, site.work);
  if (possible) follow(site.domain);
  return possible;
}

// Takes the move, or excludes it; false: neither is possible.
bool Construction::go(const Site& site, const Move& move) {
  const Domain& domain = site.domain;
  const Index j = move.column;
  const double here = x_[at(j)];
  const bool up = move.to > here;
  const std::size_t mark = domain.mark();
  if (up ? conclude(site, j, move.to, kInf) : conclude(site, j, -kInf, move.to)) return true;
  go_back(site.domain, mark);
  const double step = p_.integer(j) ? 1.0 : std::abs(move.to - here);
  return up ? conclude(site, j, -kInf, move.to - step) : conclude(site, j, move.to + step, kInf);
}

bool Construction::mend_one(const Site& site) {
  constexpr std::size_t kPartAtOnce = 16;  // of the moves, before they are rated again
  const Index row = choose_row(site);
  list_moves(site, row);
  const std::size_t many = 1 + moves_.size() / kPartAtOnce;
  bool moved = false;
  for (std::size_t k = 0; k < moves_.size() && k < many && missing(row) != 0.0; ++k) {
    const Move& move = moves_[k];
    const double now = x_[at(move.column)];
    if (move.to > now ? site.domain.upper(move.column) < move.to
                      : site.domain.lower(move.column) > move.to)
      continue;
    moved = true;
    if (go(site, move)) continue;
    weight_[at(row)] += 1.0;
    return false;
  }
  if (!moved) weight_[at(row)] += 1.0;
  return moved;
}

void Construction::list_open(const Domain& domain) {
  open_.clear();
  for (Index j = 0; j < p_.num_columns(); ++j)
    if (p_.integer(j) && !domain.fixed(j))
      open_.emplace_back(domain.upper(j) - domain.lower(j) > 1.0 ? domain.lower(j) : kInf, j);
  std::ranges::make_heap(open_, std::greater<>());
}

// The whole column that may be lowest, there; binary ones at last, where they are wanted.
bool Construction::fix_next(const Site& site) {
  const Domain& domain = site.domain;
  std::ranges::pop_heap(open_, std::greater<>());
  const auto [key, j] = open_.back();
  open_.pop_back();
  if (domain.fixed(j)) return true;
  const bool wide = std::isfinite(key);
  if (wide && domain.lower(j) > key) {
    open_.emplace_back(domain.lower(j), j);
    std::ranges::push_heap(open_, std::greater<>());
    return true;
  }
  const double value = wide && domain.lower(j) > -kInf ? domain.lower(j) : x_[at(j)];
  const std::size_t mark = domain.mark();
  if (conclude(site, j, value, value)) return true;
  go_back(site.domain, mark);
  const bool below = value == domain.upper(j);
  if (!(below ? conclude(site, j, -kInf, value - 1.0) : conclude(site, j, value + 1.0, kInf)))
    return false;
  open_.emplace_back(wide ? domain.lower(j) : kInf, j);
  std::ranges::push_heap(open_, std::greater<>());
  return true;
}

bool Construction::attempt(const Site& site) {
  begin(site);
  if (!site.propagation.run(site.domain, site.work)) return false;
  follow(site.domain);
  if (!p_.linear()) list_open(site.domain);
  while (true) {
    if (site.work.units() > site.until || site.interrupt.now()) return false;
    if (!broken_.empty()) {
      if (!mend_one(site)) return false;
    } else if (!p_.linear() && !open_.empty()) {
      if (!fix_next(site)) return false;
    } else {
      return true;
    }
  }
}

std::optional<std::vector<double>> Construction::build(const Site& site) {
  const std::size_t mark = site.domain.mark();
  std::optional<std::vector<double>> point;
  open_.clear();
  blur_ = site.blur;
  pressure_ = 0.0;
  prices_ = site.prices;
  while (!point && site.work.units() <= site.until && !site.interrupt.now()) {
    if (attempt(site)) {
      point = x_;
      constexpr std::int64_t kMostWork = 3'000'000;
      if (auto better = exchange(p_, x_, kMostWork, site.work)) point = std::move(better);
    }
    site.domain.undo_to(mark);
    blur_ = std::min(1.0, blur_ + 0.1);
    pressure_ = pressure_ > kMostPressure * least_ ? 0.0 : 2.0 * pressure_ + 100.0 * least_;
  }
  return point;
}

bool FirstPlans::wants(const NodeView& node) const {
  constexpr std::int64_t kGrace = 5'000'000, kShare = 8, kEvery = 16;
  if (work_ > node.spent / kShare + kGrace) return false;
  if (node.depth == 0) return true;
  return node.cutoff.best == kInf && node.moment == NodeView::Moment::divided &&
         node.nodes % kEvery == 0;
}

// From the goal's wishes and from the relaxed point by turns, at the relaxation's prices or at
// cost, more and more blurred: the best of these.
std::optional<std::vector<double>> FirstPlans::look(const NodeView& node) {
  constexpr std::int64_t kGrace = 2'000'000, kShare = 16;
  constexpr int kAttempts = 8;
  const Problem& problem = node.domain.problem();
  if (!build_) build_.emplace(problem, 1);
  const std::int64_t before = node.work.units(), until = before + kGrace + node.spent / kShare;
  const auto goal_of = [&](const std::vector<double>& point) {
    double goal = 0.0;
    for (Index j = 0; j < problem.num_columns(); ++j) goal += problem.cost(j) * point[at(j)];
    return goal;
  };
  std::optional<std::vector<double>> best;
  double best_goal = node.cutoff.best;
  const std::vector<double> prices = node.reduced_costs();
  for (int k = 0; k < kAttempts && node.work.units() < until; ++k) {
    Construction::Site site{node.domain, node.propagation, node.work, node.interrupt, until, {}};
    if (k == 0 && node.cutoff.best == kInf) site.until = before + (until - before) / 4;
    if (k % 2 == 1) site.wishes = node.point;
    if (k % 4 == 1) site.prices = prices;
    constexpr double kBlur = 0.1;
    site.blur = kBlur * k;
    auto point = build_->build(site);
    if (!point) continue;
    const double goal = goal_of(*point);
    if (goal >= best_goal) continue;
    best = std::move(point);
    best_goal = goal;
  }
  work_ += node.work.units() - before;
  return best;
}

}  // namespace kiteknot::mip
