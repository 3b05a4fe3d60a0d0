#pragma once
// What a run writes: never over what it reads, and one that fails does not stop the others.

#include <functional>
#include <string>
#include <vector>

#include "command.hpp"

namespace kiteknot::cli {

/// Refuses outputs that are an input of the same run, or each other (links followed); options and
/// their files, empty where not said. Throws CommandLineError.
void need_apart(const std::vector<std::pair<std::string, std::string>>& outputs,
                const std::vector<std::string>& inputs);

/// Runs what writes, one after the other; failures are told when all had their turn.
class Outputs {
 public:
  void attempt(const std::function<void()>& write);
  /// The run's exit code: `code`, or 1 where something failed, after telling what.
  [[nodiscard]] int end(int code) const;

 private:
  std::vector<std::string> failures_;
};

}  // namespace kiteknot::cli
