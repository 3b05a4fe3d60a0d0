#pragma once
// The manual page and the completion of shells, from what --help tells.

#include <string>

#include <CLI/CLI.hpp>

namespace kiteknot::cli {

/// In the language of man pages (man(7)).
std::string manual_page(const CLI::App& app);
/// For "bash", "zsh" or "fish".
std::string completion(const CLI::App& app, const std::string& shell);

}  // namespace kiteknot::cli
