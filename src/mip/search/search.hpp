#pragma once
// A solve, stage by stage, with values between them:
//
//   root       the relaxation as stated, and a first look at the tree with little work to a node:
//              most everyday problems are settled there
//   presolve   what is left of the problem, parts that nothing ties to the rest, symmetries
//   root, tree of what is left, with all that the search can do
//   postsolve  each plan is one of the problem as it came from the moment it is found
//
// One stage is there at a time: what the stage before has held is freed.

#include "mip/presolve/presolve.hpp"
#include "mip/search/tree_search.hpp"

namespace kiteknot::mip {

/// A search as workers are given it.
[[nodiscard]] SearchResult sub_search(Problem problem, const Judge& judge, SearchOptions options);

class Search {
 public:
  Search(Problem problem, Judge judge, SearchOptions options, Listener* listener = nullptr);
  Search(const Search&) = delete;  // stages look at its clock
  Search& operator=(const Search&) = delete;
  ~Search() = default;
  SearchResult run();

 private:
  void solve();
  void look_first();
  void keep();
  [[nodiscard]] bool ray_is_confirmed() const;

  // presolve_stage.cpp
  void go_on_presolved();
  [[nodiscard]] Presolved presolved(const Problem& stated);
  [[nodiscard]] std::shared_ptr<const Symmetry> symmetry_of(const Problem& problem);
  void find_machines(Problem& problem);
  [[nodiscard]] bool settle_components(Problem& problem);
  [[nodiscard]] SearchOptions options_for(const Presolved& reduced, const Translation& terms) const;
  void conclude_without_tree(bool all_settled);

  Problem problem_;  // until a stage has it; kept on where a direction may have to be confirmed
  SearchOptions options_;
  SolveContext context_;
  Interrupt interrupt_;
  std::unique_ptr<TreeSearch> stage_;
  double proven_ = -std::numeric_limits<double>::infinity();  // bound of the stages that are over
  std::int64_t opening_work_ = 0;                             // of the relaxation as stated
  SearchResult result_;
};

}  // namespace kiteknot::mip
