#pragma once
// Whole files in and out. Writing goes to a temporary name first, so that nothing is left
// half-written.

#include <string>

namespace kiteknot::formats {

/// Throws IoError that names the file.
std::string read_file(const std::string& path);
void write_file(const std::string& path, const std::string& content);

}  // namespace kiteknot::formats
