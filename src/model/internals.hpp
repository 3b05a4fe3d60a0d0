#pragma once
// What the library's own readers may do with a model, a table or a curve, and users may not.

#include "kiteknot/model.hpp"

namespace kiteknot {

struct Internals {
  [[nodiscard]] static const std::shared_ptr<ModelData>& of(const Model& model) {
    return model.data_;
  }
  [[nodiscard]] static const std::shared_ptr<TableData>& of(const Table& table) {
    return table.data_;
  }
  [[nodiscard]] static const std::shared_ptr<const CurveData>& of(const Curve& curve) {
    return curve.data_;
  }
};

}  // namespace kiteknot
