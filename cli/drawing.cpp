#include "drawing.hpp"

#include <cstdio>
#include <cstdlib>
#include <filesystem>

#include <unistd.h>

#include "kiteknot/errors.hpp"

namespace kiteknot::cli {

bool can_draw() {
  return std::system("gnuplot --version >/dev/null 2>&1") == 0;
}

std::string unfinished_name(const std::string& file) {
  return file + ".part" + std::to_string(::getpid());
}

void draw(const std::string& program, const std::string& unfinished, const std::string& file) {
  std::FILE* gnuplot = ::popen("gnuplot 2>/dev/null", "w");
  bool fine = gnuplot != nullptr;
  if (fine) {
    fine = std::fwrite(program.data(), 1, program.size(), gnuplot) == program.size();
    fine = ::pclose(gnuplot) == 0 && fine;
  }
  std::error_code code;
  fine = fine && std::filesystem::file_size(unfinished, code) > 0 && !code;
  if (fine) std::filesystem::rename(unfinished, file, code);
  if (!fine || code) {
    std::filesystem::remove(unfinished, code);
    throw IoError(file + ": gnuplot could not draw it");
  }
}

}  // namespace kiteknot::cli
