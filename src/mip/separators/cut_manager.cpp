#include "mip/separators/cut_manager.hpp"

#include <algorithm>
#include <cmath>

#include "mip/separators/cliques.hpp"
#include "mip/separators/implied_bounds.hpp"
#include "mip/separators/lifted_covers.hpp"
#include "mip/separators/path_aggregation.hpp"
#include "mip/separators/tableau_rows.hpp"
#include "mip/separators/zero_half.hpp"

namespace kiteknot::mip {

CutManager::CutManager(const CutSwitches& switches) {
  if (switches.cliques) add(CutFamily::cliques, std::make_unique<CliqueCuts>());
  if (switches.implied) add(CutFamily::implied, std::make_unique<ImpliedBounds>());
  if (switches.covers) add(CutFamily::covers, std::make_unique<LiftedCovers>());
  if (switches.paths) add(CutFamily::paths, std::make_unique<PathAggregation>());
  if (switches.halves) add(CutFamily::halves, std::make_unique<ZeroHalfCuts>());
  if (switches.tableau) add(CutFamily::tableau, std::make_unique<TableauRows>());
  tallies_.resize(all_.size());
}

void CutManager::add(CutFamily family, std::unique_ptr<Separator> separator) {
  all_.push_back(std::move(separator));
  families_.push_back(family);
}

std::int64_t CutManager::chosen_of(CutFamily family) const {
  std::int64_t rows = 0;
  for (std::size_t k = 0; k < all_.size(); ++k)
    if (families_[k] == family) rows += tallies_[k].steps;
  return rows;
}

std::int64_t CutManager::chosen() const {
  std::int64_t rows = 0;
  for (const Tally& t : tallies_) rows += t.steps;
  return rows;
}

// Farthest first; the point's distance from the row's hyperplane.
void CutManager::weigh(std::span<const double> point) {
  for (Found& f : found_) {
    double value = 0.0, square = 0.0;
    for (const Entry& e : f.row.entries) {
      value += e.value * point[at(e.index)];
      square += e.value * e.value;
    }
    f.norm = std::sqrt(square);
    f.efficacy = std::max(value - f.row.upper, f.row.lower - value) / f.norm;
  }
  std::stable_sort(found_.begin(), found_.end(), [](const Found& a, const Found& b) {
    return a.efficacy != b.efficacy ? a.efficacy > b.efficacy
                                    : a.row.entries.size() < b.row.entries.size();
  });
}

// `a` is spread out in dense_.
bool CutManager::parallel(const Found& a, const Found& b) {
  constexpr double kCosine = 0.9;
  double product = 0.0;
  for (const Entry& e : b.row.entries) product += e.value * dense_[at(e.index)];
  return std::abs(product) > kCosine * a.norm * b.norm;
}

namespace {

constexpr std::size_t kSomeCuts = 10;

// Whole columns between whole values: the more of them, the more cuts a round may bring.
std::size_t num_between(const SeparationContext& where) {
  constexpr double kApart = 1e-6;
  std::size_t count = 0;
  for (Index j = 0; j < where.domain.problem().num_columns(); ++j)
    if (where.domain.problem().integer(j) &&
        std::abs(where.point[at(j)] - std::round(where.point[at(j)])) > kApart)
      ++count;
  return count;
}

}  // namespace

const std::vector<LinearRow>& CutManager::round(const SeparationContext& where) {
  found_.clear();
  chosen_.clear();
  const std::size_t most = kSomeCuts + num_between(where) / 2;
  const Index columns = where.domain.problem().num_columns();
  const std::size_t longest = 100 + at(columns) / 5;
  std::size_t looked = 0;
  for (std::size_t k = 0; k < all_.size(); ++k) {
    if (!all_[k]->wants(where) || (all_[k]->last_resort() && looked >= most)) continue;
    looked_.clear();
    const std::int64_t before = where.work.units();
    all_[k]->look(where, looked_);
    ++tallies_[k].calls;
    tallies_[k].work += where.work.units() - before;
    tallies_[k].conflicts += static_cast<std::int64_t>(looked_.size());
    looked += looked_.size();
    for (LinearRow& row : looked_)  // the rest would only be held until the end of the round
      if (row.entries.size() <= longest) found_.push_back({k, std::move(row), 0.0, 0.0});
  }
  weigh(where.point);
  dense_.resize(at(columns));
  std::vector<char> out(found_.size(), 0);
  for (std::size_t f = 0; f < found_.size() && chosen_.size() < most; ++f) {
    Found& cut = found_[f];
    if (out[f] || cut.efficacy < kLeastEfficacy) continue;
    for (const Entry& e : cut.row.entries) dense_[at(e.index)] = e.value;
    for (std::size_t g = f + 1; g < found_.size(); ++g)
      if (!out[g]) out[g] = parallel(cut, found_[g]) ? 1 : 0;
    for (const Entry& e : cut.row.entries) dense_[at(e.index)] = 0.0;
    ++tallies_[cut.family].steps;
    chosen_.push_back(std::move(cut.row));
  }
  looked_.clear();
  found_.clear();
  return chosen_;
}

}  // namespace kiteknot::mip
