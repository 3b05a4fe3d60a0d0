#pragma once
// Lines from a person: edited, with a history and completion, where that was built in and both ends
// are a terminal; plain ones otherwise.

#include <functional>
#include <memory>
#include <optional>
#include <string>
#include <vector>

namespace kiteknot::cli {

/// Whether somebody sits in front of both ends.
bool is_conversation();

class Prompt {
 public:
  /// What may follow what was typed.
  using Completions = std::function<std::vector<std::string>(const std::string& typed)>;
  Prompt(std::string sign, Completions completions);
  ~Prompt();
  Prompt(const Prompt&) = delete;
  Prompt& operator=(const Prompt&) = delete;
  /// The next line without its end; nothing at the end of all.
  std::optional<std::string> line();

 private:
  struct Editing;
  std::unique_ptr<Editing> editing_;
};

}  // namespace kiteknot::cli
