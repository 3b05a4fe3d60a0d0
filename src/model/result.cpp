#include "kiteknot/result.hpp"

#include <fmt/format.h>

namespace kiteknot {

const Rational& Result::goal() const {
  if (goals.empty() || !goals[0].value)
    throw UsageError("there is no plan, so the goal has no value");
  return *goals[0].value;
}

const Rational& Result::operator[](const Decision& d) const {
  if (!plan) throw UsageError(fmt::format("there is no plan: the model is {}", word(outcome)));
  return (*plan)[d];
}

std::vector<std::string> Result::chosen(const Decisions& family) const {
  std::vector<std::string> names;
  for (std::int32_t i = 0; i < family.size(); ++i)
    if (!(*this)[family.member(i)].is_zero()) names.push_back(model_.name(family.member(i)));
  return names;
}

}  // namespace kiteknot
