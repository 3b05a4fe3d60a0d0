#include "kiteknot/outcome.hpp"

namespace kiteknot {

StopSwitch::StopSwitch() : pressed_(std::make_shared<std::atomic<bool>>(false)) {}

std::string_view word(Outcome outcome) {
  switch (outcome) {
    case Outcome::optimal:
      return "optimal";
    case Outcome::accepted:
      return "accepted";
    case Outcome::unproven:
      return "unproven";
    case Outcome::undecided:
      return "undecided";
    case Outcome::infeasible:
      return "infeasible";
    case Outcome::unbounded:
      return "unbounded";
  }
  return "undecided";
}

std::string_view word(Sense sense) {
  return sense == Sense::minimize ? "minimize" : "maximize";
}

}  // namespace kiteknot
