#pragma once
// Whole files in and out. Writing goes to a temporary name first, so that nothing is left
// half-written; through links to the file that is meant, and straight to what is no file.

#include <string>

namespace kiteknot::data {

/// "-" is standard input, the same text as often as it is asked for. Throws IoError that names the
/// file: folders, devices and more than 2 GB are not read.
std::string read_file(const std::string& path);
/// Throws OutputError that names the file.
void write_file(const std::string& path, const std::string& content);

}  // namespace kiteknot::data
