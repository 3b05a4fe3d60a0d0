#pragma once
// Between a solve and the file that it is kept in.

#include "kiteknot/kept.hpp"
#include "mip/interface/options.hpp"
#include "mip/parallel/kept_tree.hpp"

namespace kiteknot {

struct KeptSearch::Data {
  std::string title;
  std::optional<std::uint64_t> model;  // mark of the problem as it came; nothing: it has none
  std::vector<std::pair<std::string, std::string>> beside;
  std::optional<double> best, bound;  // as the user states them
  mip::KeptState state;
};

namespace methods {

/// Of whose search states are kept.
struct KeptOf {
  std::string title;
  std::optional<std::uint64_t> model;       ///< mark of the problem as it came
  std::function<double(double)> to_user{};  ///< from the problem's goal; empty: it has none
};

/// `problem` hears of what cannot be written, "" where it can again.
[[nodiscard]] std::shared_ptr<const mip::Keeper> keeper_of(const Keeping& keeping, KeptOf of,
                                                           std::shared_ptr<std::string> problem);

/// Sets what the search goes on from. UsageError where that was another model, or may have been.
void go_on_from(const KeptSearch& kept, std::optional<std::uint64_t> model,
                mip::SearchOptions& options);

}  // namespace methods
}  // namespace kiteknot
