#include "structures/least_cut.hpp"

#include <algorithm>
#include <deque>
#include <limits>

#include "base/at.hpp"

namespace kiteknot::structures {
namespace {

// The first half of the method: what reaches `to`. What can not is left where it is, on the side of
// `from`.
class Pushing {
 public:
  Pushing(Index nodes, const std::vector<CutArc>& arcs, Index from, Index to)
      : n_(nodes),
        from_(from),
        to_(to),
        first_(at(nodes) + 1, 0),
        height_(at(nodes), 0),
        excess_(at(nodes), 0),
        at_height_(2 * at(nodes) + 1, 0) {
    for (const CutArc& a : arcs) {
      ++first_[at(a.from) + 1];
      ++first_[at(a.to) + 1];
    }
    for (std::size_t k = 0; k < at(nodes); ++k) first_[k + 1] += first_[k];
    half_.resize(2 * arcs.size());
    std::vector<std::size_t> next(first_.begin(), first_.end() - 1);
    for (const CutArc& a : arcs) {
      const std::size_t there = next[at(a.from)]++, back = next[at(a.to)]++;
      half_[there] = {a.to, a.capacity, back};
      half_[back] = {a.from, 0, there};
    }
    current_.assign(first_.begin(), first_.end() - 1);
  }

  std::optional<LeastCut> run(const std::vector<CutArc>& arcs, WorkCounter& work) {
    set_heights(work);
    for (std::size_t k = first_[at(from_)]; k < first_[at(from_) + 1]; ++k)
      push(from_, k, half_[k].left);
    std::int64_t next_heights = work.units() + each_heights();
    while (!active_.empty()) {
      const Index v = active_.front();
      active_.pop_front();
      discharge(v, work);
      if (work.interrupted()) return std::nullopt;
      if (work.units() > next_heights) {
        set_heights(work);
        next_heights = work.units() + each_heights();
      }
    }
    set_heights(work);  // those that still reach `to` are on its side
    LeastCut cut;
    for (Index v = 0; v < n_; ++v) cut.beside.push_back(height_[at(v)] >= n_ ? 1 : 0);
    for (const CutArc& a : arcs)
      if (cut.beside[at(a.from)] && !cut.beside[at(a.to)]) cut.capacity += a.capacity;
    // As much came there: that is the proof.
    if (cut.capacity != excess_[at(to_)]) return std::nullopt;
    return cut;
  }

 private:
  struct Half {
    Index to = 0;
    std::int64_t left = 0;
    std::size_t back = 0;
  };
  [[nodiscard]] std::int64_t each_heights() const {
    return 6 * static_cast<std::int64_t>(half_.size() + at(n_)) + 1000;
  }

  void push(Index v, std::size_t k, std::int64_t much) {
    Half& h = half_[k];
    if (much <= 0) return;
    h.left -= much;
    half_[h.back].left += much;
    excess_[at(v)] -= much;
    excess_[at(h.to)] += much;
    if (excess_[at(h.to)] == much && h.to != to_ && h.to != from_ && height_[at(h.to)] < n_)
      active_.push_back(h.to);
  }

  void discharge(Index v, WorkCounter& work) {
    while (excess_[at(v)] > 0 && height_[at(v)] < n_) {
      std::size_t& k = current_[at(v)];
      for (; k < first_[at(v) + 1] && excess_[at(v)] > 0; ++k) {
        work.add(1);
        if (half_[k].left > 0 && height_[at(v)] == height_[at(half_[k].to)] + 1)
          push(v, k, std::min(half_[k].left, excess_[at(v)]));
        if (excess_[at(v)] == 0) return;
      }
      if (k == first_[at(v) + 1]) lift(v, work);
    }
  }

  void lift(Index v, WorkCounter& work) {
    Index least = n_;
    for (std::size_t k = first_[at(v)]; k < first_[at(v) + 1]; ++k)
      if (half_[k].left > 0) least = std::min(least, height_[at(half_[k].to)] + 1);
    work.add(static_cast<std::int64_t>(first_[at(v) + 1] - first_[at(v)]) + 1);
    const Index before = height_[at(v)];
    --at_height_[at(before)];
    height_[at(v)] = least;
    ++at_height_[at(least)];
    current_[at(v)] = first_[at(v)];
    if (at_height_[at(before)] > 0 || before >= n_) return;
    for (Index u = 0; u < n_; ++u)  // nothing above the gap reaches `to`
      if (height_[at(u)] > before && height_[at(u)] < n_) {
        --at_height_[at(height_[at(u)])];
        height_[at(u)] = n_;
        ++at_height_[at(n_)];
      }
  }

  // The number of arcs to `to`; n where there is no way.
  void set_heights(WorkCounter& work) {
    std::ranges::fill(height_, n_);
    std::ranges::fill(at_height_, 0);
    height_[at(to_)] = 0;
    std::deque<Index> queue{to_};
    while (!queue.empty()) {
      const Index v = queue.front();
      queue.pop_front();
      for (std::size_t k = first_[at(v)]; k < first_[at(v) + 1]; ++k) {
        const Index u = half_[k].to;
        if (height_[at(u)] < n_ || u == from_ || u == to_ || half_[half_[k].back].left <= 0)
          continue;
        height_[at(u)] = height_[at(v)] + 1;
        queue.push_back(u);
      }
    }
    for (const Index h : height_) ++at_height_[at(h)];
    for (Index v = 0; v < n_; ++v) current_[at(v)] = first_[at(v)];
    active_.clear();
    for (Index v = 0; v < n_; ++v)
      if (v != from_ && v != to_ && excess_[at(v)] > 0 && height_[at(v)] < n_) active_.push_back(v);
    work.add(static_cast<std::int64_t>(half_.size()) + 3 * n_);
  }

  Index n_, from_, to_;
  std::vector<std::size_t> first_;  // by node: of its half arcs
  std::vector<Half> half_;
  std::vector<std::size_t> current_;
  std::vector<Index> height_;
  std::vector<std::int64_t> excess_;
  std::vector<Index> at_height_;
  std::deque<Index> active_;
};

}  // namespace

std::optional<LeastCut> least_cut(Index nodes, const std::vector<CutArc>& arcs, Index from,
                                  Index to, WorkCounter& work) {
  return Pushing(nodes, arcs, from, to).run(arcs, work);
}

}  // namespace kiteknot::structures
