#include "structures/matching.hpp"

#include <algorithm>
#include <queue>

#include "base/at.hpp"
#include "base/infinity.hpp"

namespace kiteknot::structures {
namespace {

constexpr Index kUnpaired = -1;

class ShortestPaths {
 public:
  ShortestPaths(Index size, const std::vector<Pair>& pairs)
      : size_(size), pairs_(pairs), first_(at(size) + 1, 0), row_of_(at(size), kUnpaired) {
    m_.pair_of.assign(at(size), kUnpaired);
    m_.row_price.assign(at(size), kInf);
    m_.column_price.assign(at(size), 0.0);
    for (const Pair& p : pairs) ++first_[at(p.row) + 1];
    for (std::size_t i = 0; i < at(size); ++i) first_[i + 1] += first_[i];
    list_.resize(pairs.size());
    std::vector<Index> next(first_.begin(), first_.end() - 1);
    for (std::size_t k = 0; k < pairs.size(); ++k)
      list_[at(next[at(pairs[k].row)]++)] = static_cast<Index>(k);
  }

  std::optional<Matching> run(WorkCounter& work) {
    start();
    work.add(2 * static_cast<std::int64_t>(pairs_.size()));
    for (Index row = 0; row < size_; ++row) {
      if (m_.pair_of[at(row)] != kUnpaired) continue;
      const Index free = search(row, work);
      if (free == kUnpaired || work.interrupted()) return std::nullopt;
      augment(row, free);
    }
    // One more search, to the end: its pairs and those taken are a tree.
    if (size_ == 0) return std::nullopt;
    (void)search(0, work);
    for (Index column = 0; column < size_; ++column) {
      if (distance_[at(column)] == kInf) return std::nullopt;
      if (row_of_[at(column)] != 0) m_.tree.push_back(through_[at(column)]);
      m_.tree.push_back(m_.pair_of[at(row_of_[at(column)])]);
    }
    return std::move(m_);
  }

 private:
  // Prices from the cheapest pairs, and what they leave without conflict.
  void start() {
    std::vector<double>& v = m_.column_price;
    std::fill(v.begin(), v.end(), kInf);
    for (const Pair& p : pairs_) v[at(p.column)] = std::min(v[at(p.column)], p.cost);
    for (double& price : v)
      if (price == kInf) price = 0.0;
    for (std::size_t k = 0; k < pairs_.size(); ++k) {
      const Pair& p = pairs_[k];
      double& u = m_.row_price[at(p.row)];
      u = std::min(u, p.cost - v[at(p.column)]);
    }
    for (std::size_t k = 0; k < pairs_.size(); ++k) {
      const Pair& p = pairs_[k];
      if (m_.pair_of[at(p.row)] == kUnpaired && row_of_[at(p.column)] == kUnpaired &&
          slack(p) <= 0.0) {
        m_.pair_of[at(p.row)] = static_cast<Index>(k);
        row_of_[at(p.column)] = p.row;
      }
    }
  }

  [[nodiscard]] double slack(const Pair& p) const {
    return p.cost - m_.row_price[at(p.row)] - m_.column_price[at(p.column)];
  }

  // Shortest paths from the row by slacks, until a column without a row is reached (kUnpaired:
  // there is none); prices follow, so that pairs on the paths have no slack left.
  Index search(Index row, WorkCounter& work) {
    distance_.assign(at(size_), kInf);
    through_.assign(at(size_), kUnpaired);
    done_.clear();
    std::vector<char> final(at(size_), 0);
    using Entry = std::pair<double, Index>;
    std::priority_queue<Entry, std::vector<Entry>, std::greater<>> queue;
    const auto scan = [&](Index i, double so_far) {
      for (Index k = first_[at(i)]; k < first_[at(i) + 1]; ++k) {
        const Pair& p = pairs_[at(list_[at(k)])];
        const double d = so_far + std::max(0.0, slack(p));
        if (final[at(p.column)] || d >= distance_[at(p.column)]) continue;
        distance_[at(p.column)] = d;
        through_[at(p.column)] = list_[at(k)];
        queue.emplace(d, p.column);
      }
      work.add(2 * (first_[at(i) + 1] - first_[at(i)]) + 1);
    };
    scan(row, 0.0);
    Index free = kUnpaired;
    double reach = 0.0;
    while (!queue.empty()) {
      const auto [d, column] = queue.top();
      queue.pop();
      if (final[at(column)]) continue;
      final[at(column)] = 1;
      reach = d;
      if (row_of_[at(column)] == kUnpaired) {
        free = column;
        break;
      }
      done_.push_back(column);
      scan(row_of_[at(column)], d);
    }
    // Prices: all that is nearer than the end moves by the rest of the way.
    m_.row_price[at(row)] += reach;
    for (const Index column : done_) {
      const double by = reach - distance_[at(column)];
      if (row_of_[at(column)] != row) m_.row_price[at(row_of_[at(column)])] += by;
      m_.column_price[at(column)] -= by;
    }
    return free;
  }

  void augment(Index row, Index column) {
    for (;;) {
      const Index k = through_[at(column)], i = pairs_[at(k)].row, taken = m_.pair_of[at(i)];
      m_.pair_of[at(i)] = k;
      row_of_[at(column)] = i;
      if (i == row) return;
      column = pairs_[at(taken)].column;
    }
  }

  Index size_;
  const std::vector<Pair>& pairs_;
  std::vector<Index> first_, list_;  // pairs by rows
  std::vector<Index> row_of_;        // by columns
  std::vector<double> distance_;
  std::vector<Index> through_;  // by columns: the pair
  std::vector<Index> done_;
  Matching m_;
};

}  // namespace

std::optional<Matching> cheapest_matching(Index size, const std::vector<Pair>& pairs,
                                          WorkCounter& work) {
  return ShortestPaths(size, pairs).run(work);
}

}  // namespace kiteknot::structures
