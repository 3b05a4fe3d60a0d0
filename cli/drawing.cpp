#include "drawing.hpp"

#include <cstdio>
#include <cstdlib>
#include <filesystem>
#include <fstream>
#include <iterator>

#include <unistd.h>

#include "kiteknot/read.hpp"

namespace kiteknot::cli {

bool can_draw() {
  return std::system("gnuplot --version >/dev/null 2>&1") == 0;
}

std::string unfinished_name(const std::string& file) {
  return file + ".part" + std::to_string(::getpid());
}

namespace {

// What the command, given the input, writes into `unfinished`, is the file.
void make(const std::string& command, const std::string& input, const std::string& unfinished,
          const std::string& file, const std::string& failure) {
  std::FILE* maker = ::popen(command.c_str(), "w");
  bool fine = maker != nullptr;
  if (fine) {
    fine = std::fwrite(input.data(), 1, input.size(), maker) == input.size();
    fine = ::pclose(maker) == 0 && fine;
  }
  std::error_code code;
  std::string made;
  if (fine) {
    std::ifstream in(unfinished, std::ios::binary);
    made.assign(std::istreambuf_iterator<char>(in), {});
  }
  std::filesystem::remove(unfinished, code);
  if (made.empty()) throw OutputError(file + ": " + failure);
  write_text(file, made);
}

}  // namespace

void draw(const std::string& program, const std::string& unfinished, const std::string& file) {
  make("gnuplot 2>/dev/null", program, unfinished, file, "gnuplot could not draw it");
}

bool can_paint() {
  return std::system("rsvg-convert --version >/dev/null 2>&1") == 0;
}

void paint(const std::string& svg, const std::string& file) {
  const std::string unfinished =
      (std::filesystem::temp_directory_path() / ("kiteknot-map-" + std::to_string(::getpid())))
          .string();
  make("rsvg-convert -f png -o '" + unfinished + "' 2>/dev/null", svg, unfinished, file,
       "rsvg-convert could not paint it");
}

}  // namespace kiteknot::cli
