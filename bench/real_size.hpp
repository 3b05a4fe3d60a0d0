#pragma once
// Models of 3,000 to 250,000 columns: what is known after 10, 60 and 300 s.

#include <string>

namespace kiteknot::bench {

/// Pages of Markdown: the problems whose name holds `wanted`, `seconds` each, in a process of its
/// own each (so that its memory can be told).
int real_size(double seconds, const std::string& wanted);

}  // namespace kiteknot::bench
