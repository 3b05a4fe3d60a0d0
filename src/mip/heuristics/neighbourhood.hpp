#pragma once

#include "mip/heuristics/heuristic.hpp"

namespace kiteknot::mip {

/// A small search for something better where the best plan and the relaxed point agree: whole
/// columns that both give the same value are fixed there. Now and then below the root, the more
/// often the more it found. Source: Danna, Rothberg and Le Pape 2005, "Exploring relaxation induced
/// neighborhoods to improve MIP solutions".
class NearBestPlan final : public Heuristic {
 public:
  std::string_view name() const override { return "a search near the best plan"; }
  bool wants(const Sighting& node) const override;
  std::optional<std::vector<double>> look(const Sighting& node) override;

 private:
  std::int64_t calls_ = 0, points_ = 0, work_ = 0;
  std::int64_t last_at_ = 0;  // node
};

}  // namespace kiteknot::mip
