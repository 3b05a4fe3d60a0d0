#pragma once
// A search as it stands, as one value: enough to go on from there in another process. Bases are not
// kept: nodes can do without.

#include <array>
#include <functional>
#include <memory>

#include "mip/interface/task.hpp"

namespace kiteknot::mip {

template <class Archive>
void archive(Archive& a, Counts& c) {
  a(c.nodes, c.pivots, c.generated_rows, c.cuts, c.work, c.look_pivots);
}

struct KeptNode {
  std::int64_t parent = -1;  ///< place in the list, before this one; -1: it is the root
  std::int64_t number = 0;
  std::int32_t depth = 0;
  bool open = false;
  double bound = 0.0, estimate = 0.0;
  std::vector<Change> changes;
  Branched branched;
};

struct KeptTree {
  std::uint64_t problem = 0;    ///< mark_of the one that is searched
  std::vector<KeptNode> nodes;  ///< parents before their parts
  RootFacts root;
  std::vector<PooledRow> rows;
  std::vector<Conflict> conflicts;
  PseudoCosts pseudo_costs{0};
  std::int64_t next_number = 0;
  double loose = 0.0, unresolved = 0.0;  ///< as TreeSearch has them
  std::string reason;
  double root_bound = 0.0;
  std::array<std::int64_t, kWaysToClose> closed{};
};

/// What is kept of a solve: in the terms of the problem as it came, but for the tree.
struct KeptState {
  std::optional<std::vector<Rational>> plan;  ///< the best one
  std::string found_by;
  double best = std::numeric_limits<double>::infinity();  ///< its goal
  bool finished = false;                                  ///< to its proof
  double bound = -std::numeric_limits<double>::infinity();
  Counts counts;
  double seconds = 0.0;
  std::int64_t open = 0;
  std::optional<KeptTree> tree;  ///< none: the root was not divided yet
};

/// Where states go to, and how often.
struct Keeper {
  double every = 60.0;  ///< seconds, and more where writing takes more than a hundredth of it
  std::function<void(const KeptState&)> write;
};

/// The same of another one with the same root, beside what is there: of several that search parts
/// of one tree.
void join(KeptTree& tree, const KeptTree& other);

/// DamagedBytes where they are none, or point where nothing is.
[[nodiscard]] std::string packed(const KeptTree& tree);
[[nodiscard]] KeptTree unpacked_tree(std::string_view bytes);
[[nodiscard]] std::string packed(const KeptState& state);
[[nodiscard]] KeptState unpacked(std::string_view bytes);

}  // namespace kiteknot::mip
