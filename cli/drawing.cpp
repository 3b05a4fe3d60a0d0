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

void draw(const std::string& program, const std::string& unfinished, const std::string& file) {
  std::FILE* gnuplot = ::popen("gnuplot 2>/dev/null", "w");
  bool fine = gnuplot != nullptr;
  if (fine) {
    fine = std::fwrite(program.data(), 1, program.size(), gnuplot) == program.size();
    fine = ::pclose(gnuplot) == 0 && fine;
  }
  std::error_code code;
  std::string drawn;
  if (fine) {
    std::ifstream in(unfinished, std::ios::binary);
    drawn.assign(std::istreambuf_iterator<char>(in), {});
  }
  std::filesystem::remove(unfinished, code);
  if (drawn.empty()) throw OutputError(file + ": gnuplot could not draw it");
  write_text(file, drawn);
}

}  // namespace kiteknot::cli
