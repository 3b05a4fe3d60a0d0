#pragma once
// Who of several ranks has what to do. The supervisor holds no nodes: it tells a rank that has many
// to give some to one that has none, and these go from one to the other (Eckstein 1997,
// "Distributed versus centralized storage and control for parallel branch and bound"; Ralphs,
// Ladanyi and Saltzman 2003, "Parallel branch, cut, and price for large-scale discrete
// optimization"). It knows a bound on everything that is left at any moment: the last that each
// rank told, which can only rise, and for nodes that are on their way what their giver told before
// it gave them.

#include <cstdint>
#include <limits>
#include <optional>
#include <vector>

#include "mip/interface/result.hpp"

namespace kiteknot::mip {

/// What a rank tells of itself.
struct RankStanding {
  std::int64_t taken = 0;                                  ///< the last parcel that it took in
  std::int64_t open = 0;                                   ///< nodes
  bool idle = true;                                        ///< it has none, and does nothing
  double bound = std::numeric_limits<double>::infinity();  ///< on all that it has
  double best = bound;                                     ///< of plans that it knows
  double loose = std::numeric_limits<double>::infinity();  ///< as TreeSearch has them
  double unresolved = std::numeric_limits<double>::infinity();
  Counts counts;
};

class Supervisor {
 public:
  explicit Supervisor(int ranks) : ranks_(static_cast<std::size_t>(ranks)) {}

  struct Give {
    int from = 0, to = 0;
    std::int64_t parcel = 0, nodes = 0;
    bool first = false;  ///< the one that gets it knows nothing yet
    bool noted = false;  ///< the giver keeps it in mind (RankState::given)
  };
  void heard(int from, const RankStanding& standing);
  /// It had none to spare for this one.
  void refused(std::int64_t parcel);
  /// What is to be given now.
  [[nodiscard]] std::vector<Give> gives();

  /// Nobody has anything, and nothing is on its way.
  [[nodiscard]] bool all_done() const;
  /// On all that ranks from `first` on have, or that is on its way to them.
  [[nodiscard]] double bound_from(int first) const;
  /// The best plan that anybody told to know.
  [[nodiscard]] double best() const;
  struct Sums {
    Counts counts;
    std::int64_t open = 0;
    double loose = std::numeric_limits<double>::infinity(), unresolved = loose;
  };
  [[nodiscard]] Sums sums_from(int first) const;
  [[nodiscard]] std::int64_t taken(int rank) const { return of(rank).standing.taken; }

 private:
  struct Rank {
    bool joined = false;
    RankStanding standing;
    std::int64_t promised = 0;  // a parcel on its way to it; 0: none
    double promised_bound = std::numeric_limits<double>::infinity();
    bool giving = false;  // it was asked to give, and has told nothing since
    bool knows = false;   // it got a parcel
  };
  [[nodiscard]] const Rank& of(int rank) const { return ranks_[static_cast<std::size_t>(rank)]; }
  [[nodiscard]] bool wants(const Rank& r) const {
    return r.joined && r.standing.idle && r.promised == 0;
  }

  std::vector<Rank> ranks_;
  std::int64_t parcels_ = 0;
};

}  // namespace kiteknot::mip
