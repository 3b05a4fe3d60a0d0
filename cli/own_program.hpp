#pragma once
// A program of the user's as a way to plans: it gets the model's data in a folder, writes a plan
// there, and is stopped at its limit.

#include <memory>
#include <string>

#include "command.hpp"

namespace kiteknot::cli {

/// "mine=./mine.py": a name and a command for the shell; CommandLineError for anything else.
///
/// The command is run as COMMAND FOLDER SECONDS SEED. In FOLDER stand tables/NAME.csv for every
/// table, numbers.csv (number,value) and decisions.csv (decision, its keys, least, greatest, kind);
/// what it leaves in FOLDER/plan.csv (as plans are written: decision, keys, value) is judged.
std::shared_ptr<const Method> own_program(const std::string& stated);

/// A plan that is there already, as a way of its own.
std::shared_ptr<const Method> plan_file(const std::string& path);

}  // namespace kiteknot::cli
