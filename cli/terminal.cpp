#include "terminal.hpp"

#include <algorithm>
#include <cerrno>
#include <cstdio>
#include <cstdlib>
#include <cstring>
#include <mutex>

#include <fmt/format.h>
#include <sys/ioctl.h>
#include <unistd.h>

namespace kiteknot::cli {
namespace {

int width_of(int descriptor) {
  winsize size{};
  if (isatty(descriptor) == 0 || ioctl(descriptor, TIOCGWINSZ, &size) != 0 || size.ws_col == 0)
    return 100;
  return std::clamp<int>(size.ws_col - 1, 60, 120);
}

}  // namespace

PageOptions page_options(const std::string& under) {
  const char* no_colour = std::getenv("NO_COLOR");
  const char* terminal = std::getenv("TERM");
  PageOptions options;
  options.under = under;
  options.colour = isatty(STDOUT_FILENO) != 0 && (no_colour == nullptr || *no_colour == '\0') &&
                   (terminal == nullptr || std::strcmp(terminal, "dumb") != 0);
  options.width = width_of(STDOUT_FILENO);
  return options;
}

void print(const std::string& text) {
  errno = 0;
  if (std::fwrite(text.data(), 1, text.size(), stdout) != text.size() || std::fflush(stdout) != 0)
    throw OutputError(std::string("standard output: writing failed (") + std::strerror(errno) +
                      ")");
}

void print_error(const std::string& text) {
  const std::string line = shown(text) + "\n";  // one line, whatever it quotes from data
  std::fwrite(line.data(), 1, line.size(), stderr);
}

ShortLine::ShortLine(bool quiet) : live_(!quiet && isatty(STDERR_FILENO) != 0) {}
ShortLine::~ShortLine() {
  finish();
}

void ShortLine::show(double seconds, const std::function<std::string()>& told) {
  constexpr double kQuietSeconds = 0.5;
  if (!live_ || seconds < kQuietSeconds) return;
  const auto now = std::chrono::steady_clock::now();
  if (shown_ && now - last_ < std::chrono::milliseconds(200)) return;
  last_ = now;
  shown_ = true;
  std::string line = told();
  line.resize(std::min(line.size(), static_cast<std::size_t>(width_of(STDERR_FILENO))));
  std::fprintf(stderr, "\r\033[K%s", line.c_str());
  std::fflush(stderr);
}

void ShortLine::finish() {
  if (!shown_) return;
  std::fprintf(stderr, "\r\033[K");
  std::fflush(stderr);
  shown_ = false;
}

ReadingLine::ReadingLine(const std::string& file) {
  if (isatty(STDERR_FILENO) == 0) return;
  thread_ = std::jthread([file](const std::stop_token& stop) {
    const auto start = std::chrono::steady_clock::now();
    std::mutex mutex;
    std::condition_variable_any wake;
    ShortLine line(false);
    std::unique_lock lock(mutex);
    while (!wake.wait_for(lock, stop, std::chrono::milliseconds(300), [] { return false; })) {
      if (stop.stop_requested()) return;
      const std::chrono::duration<double> since = std::chrono::steady_clock::now() - start;
      line.show(since.count(),
                [&] { return fmt::format(" {:.0f} s   reading {}", since.count(), shown(file)); });
    }
  });
}

void AskedLine::asked(const std::string& name) {
  ++count_;
  const std::chrono::duration<double> since = std::chrono::steady_clock::now() - start_;
  line_.show(since.count(), [&] {
    return fmt::format(" {:.0f} s   solve {}{}", since.count(), count_,
                       name.empty() ? "" : "   " + shown(name));
  });
}

}  // namespace kiteknot::cli
