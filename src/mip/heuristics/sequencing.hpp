#pragma once

#include "mip/heuristics/heuristic.hpp"
#include "mip/structures/precedences.hpp"
#include "structures/sequences/shop.hpp"

namespace kiteknot::mip {

/// Orders on the machines of a problem whose goal is one column that comes after others: by the
/// shifting bottleneck, or dispatched, then improved by exchanges on longest paths; the choices of
/// the orders are propagated, and the rest goes to the lowest values that are left. At the root,
/// once: further down most orders are no longer possible.
class Sequencing final : public Heuristic {
 public:
  [[nodiscard]] std::string_view name() const override { return "sequences on machines"; }
  [[nodiscard]] bool wants(const NodeView& node) const override;
  [[nodiscard]] std::optional<std::vector<double>> look(const NodeView& node) override;

 private:
  bool read(const Problem& problem);
  [[nodiscard]] std::optional<std::vector<double>> point_of(const NodeView& node,
                                                            const structures::Orders& orders) const;

  bool read_ = false;
  Index goal_ = -1;
  const Precedences* found_ = nullptr;
  structures::Shop shop_;
  std::vector<std::vector<std::size_t>> tasks_;  // by machines of the shop: those of the problem
};

}  // namespace kiteknot::mip
