#pragma once
// What the terminal can do, and the live progress line on it.

#include <chrono>
#include <string>

#include "kiteknot/kiteknot.hpp"

namespace kiteknot::cli {

/// Colours only on a terminal and without NO_COLOR; the width of the terminal, or 100.
PageOptions page_options();
/// Throws OutputError where it cannot be written.
void print(const std::string& text);
void print_error(const std::string& text);

/// One line on stderr, at most five times a second, from half a second on; nothing when piped or
/// quiet.
class LiveLine final : public Observer {
 public:
  LiveLine(const Model& model, bool quiet);
  ~LiveLine() override;
  LiveLine(const LiveLine&) = delete;
  LiveLine& operator=(const LiveLine&) = delete;
  void progress(const Progress& p) override;
  /// Wipes the line.
  void finish();

 private:
  const Model& model_;
  bool live_;
  bool shown_ = false;
  std::chrono::steady_clock::time_point last_{};
};

}  // namespace kiteknot::cli
