#pragma once
// Between a solve and the file that it is kept in.

#include "kiteknot/kept.hpp"
#include "mip/interface/options.hpp"
#include "mip/parallel/kept_tree.hpp"

namespace kiteknot {

struct KeptSearch::Data {
  std::string title;
  std::uint64_t model = 0;  // mark of the problem as it came
  std::vector<std::pair<std::string, std::string>> beside;
  mip::KeptState state;
};

namespace methods {

/// Writes states of this problem; `problem` hears of what cannot be written, "" where it can again.
[[nodiscard]] std::shared_ptr<const mip::Keeper> keeper_of(const Keeping& keeping,
                                                           const std::string& title,
                                                           std::uint64_t model,
                                                           std::shared_ptr<std::string> problem);

/// Sets what the search goes on from. UsageError where that was another model.
void go_on_from(const KeptSearch& kept, std::uint64_t model, mip::SearchOptions& options);

}  // namespace methods
}  // namespace kiteknot
