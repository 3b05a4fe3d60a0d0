#pragma once
// All families of cuts of a search. In a round each looks at the point; of what they find the rows
// that lie farthest from the point and are not nearly parallel to better ones come into the
// relaxation. Source: Wesselmann and Suhl 2012, "Implementing cutting plane management and
// selection techniques".

#include <memory>

#include "mip/separators/cut_switches.hpp"
#include "mip/separators/separator.hpp"

namespace kiteknot::mip {

class CutManager {
 public:
  explicit CutManager(const CutSwitches& switches);
  /// The rows that are worth having, the best first; valid until the next round.
  [[nodiscard]] const std::vector<LinearRow>& round(const SeparationContext& where);
  [[nodiscard]] bool empty() const noexcept { return all_.empty(); }
  [[nodiscard]] std::size_t size() const noexcept { return all_.size(); }
  [[nodiscard]] std::string_view name(std::size_t k) const { return all_[k]->name(); }
  /// Rows of the family that were chosen so far.
  [[nodiscard]] std::int64_t chosen_of(CutFamily family) const;
  [[nodiscard]] std::int64_t chosen() const;
  [[nodiscard]] const std::vector<Tally>& tallies() const noexcept { return tallies_; }

 private:
  struct Found {
    std::size_t family = 0;
    LinearRow row;
    double efficacy = 0.0, norm = 0.0;
  };
  void add(CutFamily family, std::unique_ptr<Separator> separator);
  void weigh(std::span<const double> point);
  [[nodiscard]] bool parallel(const Found& a, const Found& b);

  std::vector<std::unique_ptr<Separator>> all_;
  std::vector<CutFamily> families_;
  std::vector<Tally> tallies_;  // steps: rows chosen; conflicts: rows found
  std::vector<Found> found_;
  std::vector<LinearRow> looked_, chosen_;
  std::vector<double> dense_;  // by columns; 0 between calls
};

}  // namespace kiteknot::mip
