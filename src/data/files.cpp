#include "data/files.hpp"

#include <cerrno>
#include <cstring>
#include <filesystem>
#include <fstream>
#include <iostream>
#include <system_error>

#include <unistd.h>

#include "kiteknot/errors.hpp"

namespace kiteknot::data {
namespace fs = std::filesystem;
namespace {

constexpr std::size_t kMostInput = std::size_t{2} << 30;

// Through links to the place that is meant, there already or not.
fs::path meant(const std::string& path) {
  fs::path place = path;
  constexpr int kMostLinks = 40;
  std::error_code code;
  for (int k = 0; k < kMostLinks && fs::is_symlink(fs::symlink_status(place, code)); ++k) {
    const fs::path next = fs::read_symlink(place, code);
    if (code) break;
    place = next.is_absolute() ? next : place.parent_path() / next;
  }
  return place;
}

void write_to(const std::string& path, const fs::path& place, const std::string& content) {
  errno = 0;
  std::ofstream out(place, std::ios::binary | std::ios::trunc);
  if (!out) throw OutputError(path + ": cannot be written (" + std::strerror(errno) + ")");
  out.write(content.data(), static_cast<std::streamsize>(content.size()));
  out.close();
  if (!out) throw OutputError(path + ": writing failed (" + std::strerror(errno) + ")");
}

void refuse_large(std::uintmax_t size, const std::string& path) {
  if (size > kMostInput) throw IoError(path + ": is larger than 2 GB, which is not read");
}

std::string read_all(std::istream& in, const std::string& name, std::string text = {}) {
  constexpr std::size_t kChunk = 1 << 16;
  char chunk[kChunk];
  while (in.read(chunk, kChunk) || in.gcount() > 0) {
    text.append(chunk, static_cast<std::size_t>(in.gcount()));
    refuse_large(text.size(), name);
  }
  if (in.bad()) throw IoError(name + ": reading failed");
  return text;
}

}  // namespace

std::string read_file(const std::string& path) {
  if (path == "-") {
    static const std::string text = read_all(std::cin, "standard input");
    return text;
  }
  std::error_code code;
  const fs::file_status status = fs::status(path, code);
  if (fs::is_directory(status)) throw IoError(path + ": is a folder, not a file");
  if (fs::is_block_file(status) || fs::is_character_file(status))
    throw IoError(path + ": is a device, not a file");
  errno = 0;
  std::ifstream in(path, std::ios::binary);
  if (!in)
    throw IoError(path + ": cannot be read (" + std::strerror(errno != 0 ? errno : ENOENT) + ")");
  std::string text;
  const auto size = fs::file_size(path, code);
  if (!code) {
    refuse_large(size, path);
    text.reserve(static_cast<std::size_t>(size));
  }
  return read_all(in, path, std::move(text));
}

void write_file(const std::string& path, const std::string& content) {
  const fs::path place = meant(path);
  std::error_code code;
  const fs::file_status there = fs::status(place, code);
  if (fs::is_directory(there)) throw OutputError(path + ": is a folder, not a file");
  if (fs::exists(there) && !fs::is_regular_file(there)) return write_to(path, place, content);
  const fs::path temporary = place.string() + ".part" + std::to_string(::getpid());
  try {
    write_to(path, temporary, content);
  } catch (...) {
    fs::remove(temporary, code);
    throw;
  }
  if (fs::exists(there)) fs::permissions(temporary, there.permissions(), code);
  fs::rename(temporary, place, code);
  if (code) {
    const std::string why = code.message();
    fs::remove(temporary, code);
    throw OutputError(path + ": cannot be written (" + why + ")");
  }
}

}  // namespace kiteknot::data
