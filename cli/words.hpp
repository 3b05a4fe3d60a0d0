#pragma once
// What the tool says about itself: what to do first, and its options in words.

#include <memory>
#include <string>

#include <CLI/CLI.hpp>

namespace kiteknot::cli {

/// Ten lines for somebody who said no command.
std::string first_steps();
/// Options without the names of types that programs have.
std::shared_ptr<CLI::Formatter> plain_words();

}  // namespace kiteknot::cli
