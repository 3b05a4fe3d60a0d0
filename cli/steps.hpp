#pragma once
// Steps at a tableau from a file or from standard input, one a line.

#include <functional>
#include <istream>
#include <string>

#include "kiteknot/workbench.hpp"

namespace kiteknot::cli {

/// A step without blanks around it and the remark behind it ("# ..."); empty where there is none.
std::string step_in(const std::string& line);

/// The remark; empty where there is none.
std::string note_in(const std::string& line);
/// Whether the words leave: "end", "quit" or "exit".
bool is_end(const std::string& words);

/// Takes one after the other until the end, or until words that leave; remarks become notes of the
/// story. Throws InputError at the first that
/// cannot be taken, with its line and column in `name`.
void take_steps(Workbench& bench, std::istream& in, const std::string& name,
                const std::function<void(const std::string& words)>& before = {},
                const std::function<void(const Deed& deed)>& after = {});

}  // namespace kiteknot::cli
