#pragma once
// What a model keeps apart in pairs, as lanes of a picture: what stands in one lane takes turns.

#include "mip/structures/precedences.hpp"
#include "report/drawing/plan_shapes.hpp"

namespace kiteknot::report {

struct Lane {
  std::string name;  ///< what its members share in their table; empty: nothing tells it from others
  struct Task {
    Index member = 0;    ///< of the family
    double takes = 0.0;  ///< the least time to the next one
    std::string label;   ///< short
  };
  std::vector<Task> tasks;
};

/// Of a model as the engine finds them; none for models that cannot be lowered. The model outlives
/// it. O(nonzeros).
class MachineLanes {
 public:
  explicit MachineLanes(const Model& model);
  /// The sets of the family's members no two of which overlap.
  [[nodiscard]] std::vector<Lane> of(const Family& family) const;
  /// The family with the most members in lanes; null: there is none.
  [[nodiscard]] const Family* main_family() const;

 private:
  const ModelData& m_;
  mip::Precedences found_;
};

}  // namespace kiteknot::report
