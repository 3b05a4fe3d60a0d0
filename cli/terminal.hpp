#pragma once
// What the terminal can do, and the live progress line on it.

#include <chrono>
#include <condition_variable>
#include <functional>
#include <string>
#include <thread>

#include "kiteknot/kiteknot.hpp"

namespace kiteknot::cli {

/// Colours only on a terminal and without NO_COLOR; the width of the terminal, or 100.
PageOptions page_options(const std::string& under = {});
/// Throws OutputError where it cannot be written.
void print(const std::string& text);
void print_error(const std::string& text);

/// What was read; its warnings go to stderr, its errors are thrown as InputError.
template <class T>
T noted(Reading<T> reading) {
  for (const Diagnostic& note : reading.notes().items())
    if (note.warning && reading.ok()) print_error(note.text());
  return std::move(reading).value();
}

/// One line on stderr, at most five times a second, from half a second on; nothing when piped or
/// quiet.
class ShortLine {
 public:
  explicit ShortLine(bool quiet);
  ~ShortLine();
  ShortLine(const ShortLine&) = delete;
  ShortLine& operator=(const ShortLine&) = delete;
  void show(double seconds, const std::function<std::string()>& line);
  /// Wipes the line.
  void finish();

 private:
  bool live_;
  bool shown_ = false;
  std::chrono::steady_clock::time_point last_{};
};

/// The same for the search of a model.
class LiveLine final : public Observer {
 public:
  LiveLine(const Model& model, bool quiet) : model_(model), line_(quiet) {}
  void progress(const Progress& p) override {
    line_.show(p.seconds, [&] { return progress_line(model_, p); });
  }
  void finish() { line_.finish(); }

 private:
  const Model& model_;
  ShortLine line_;
};

/// While files are read, from its making to its end: how long that has been going on.
class ReadingLine {
 public:
  explicit ReadingLine(const std::string& file);

 private:
  std::jthread thread_;  // none where nobody looks
};

/// Of a question that takes several solves: which one, and for how long it has been going on.
class AskedLine {
 public:
  AskedLine() : line_(false) {}
  void asked(const std::string& name);

 private:
  std::chrono::steady_clock::time_point start_ = std::chrono::steady_clock::now();
  int count_ = 0;
  ShortLine line_;
};

}  // namespace kiteknot::cli
