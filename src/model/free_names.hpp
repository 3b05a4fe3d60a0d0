#pragma once
// Names for what a question adds to a model: users may have taken any.

#include "model/model_data.hpp"

namespace kiteknot {

/// The name wanted, or one like it, that no rule has yet.
inline std::string free_rule(const Model& model, std::string wanted) {
  while (model.data().names->rules.contains(wanted)) wanted += '\'';
  return wanted;
}

/// The same among numbers, decisions, expressions and goals.
inline std::string free_name(const Model& model, std::string wanted) {
  while (model.data().names->of_value(wanted)) wanted += '\'';
  return wanted;
}

}  // namespace kiteknot
