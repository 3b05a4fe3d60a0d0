#pragma once
// Which of several ways to take next: the one that succeeded most often for its tries; each is
// tried once before any is tried again.

#include <vector>

namespace kiteknot::mip {

class Chooser {
 public:
  explicit Chooser(std::size_t ways) : tries_(ways, 0.0), successes_(ways, 0.0) {}
  /// `open(way)`: whether it can be taken at all; some way can.
  template <class Open>
  [[nodiscard]] std::size_t next(const Open& open) const {
    std::size_t best = tries_.size();
    for (std::size_t k = 0; k < tries_.size(); ++k)
      if (open(k) && (best == tries_.size() || share(k) > share(best))) best = k;
    return best;
  }
  void tried(std::size_t way, bool succeeded) {
    tries_[way] += 1.0;
    if (succeeded) successes_[way] += 1.0;
  }

 private:
  [[nodiscard]] double share(std::size_t k) const {
    return tries_[k] == 0.0 ? 2.0 : (1.0 + successes_[k]) / (1.0 + tries_[k]);
  }
  std::vector<double> tries_, successes_;
};

}  // namespace kiteknot::mip
