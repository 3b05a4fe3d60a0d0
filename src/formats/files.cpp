#include "formats/files.hpp"

#include <cerrno>
#include <cstring>
#include <filesystem>
#include <fstream>
#include <system_error>

#include <unistd.h>

#include "kiteknot/errors.hpp"

namespace kiteknot::formats {

std::string read_file(const std::string& path) {
  std::error_code code;
  if (std::filesystem::is_directory(path, code)) throw IoError(path + ": is a folder, not a file");
  errno = 0;
  std::ifstream in(path, std::ios::binary);
  if (!in)
    throw IoError(path + ": cannot be read (" + std::strerror(errno != 0 ? errno : ENOENT) + ")");
  std::string text;
  const auto size = std::filesystem::file_size(path, code);
  if (!code) text.reserve(static_cast<std::size_t>(size));
  constexpr std::size_t kChunk = 1 << 16;
  char chunk[kChunk];
  while (in.read(chunk, kChunk) || in.gcount() > 0)
    text.append(chunk, static_cast<std::size_t>(in.gcount()));
  if (in.bad()) throw IoError(path + ": reading failed");
  return text;
}

void write_file(const std::string& path, const std::string& content) {
  const std::string temporary = path + ".part" + std::to_string(::getpid());
  {
    errno = 0;
    std::ofstream out(temporary, std::ios::binary | std::ios::trunc);
    if (!out) throw IoError(path + ": cannot be written (" + std::strerror(errno) + ")");
    out.write(content.data(), static_cast<std::streamsize>(content.size()));
    out.close();
    if (!out) {
      std::filesystem::remove(temporary);
      throw IoError(path + ": writing failed (" + std::strerror(errno) + ")");
    }
  }
  std::error_code code;
  std::filesystem::rename(temporary, path, code);
  if (code) {
    std::filesystem::remove(temporary);
    throw IoError(path + ": cannot be written (" + code.message() + ")");
  }
}

}  // namespace kiteknot::formats
