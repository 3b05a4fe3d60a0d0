#pragma once
// The branches of a search as rows of an outline: which are shown, how deep they stand, and how
// each one ended, in words.

#include <cstdint>
#include <string>
#include <vector>

#include "kiteknot/result.hpp"

namespace kiteknot::report {

struct SearchRow {
  std::size_t node = 0;  ///< in SearchCounts::tree
  int depth = 0;
  bool on_way = false;         ///< to the best plan
  std::int64_t more = 0;       ///< branches below that are not shown, ...
  std::optional<double> none;  ///< ... and what none of them can beat
};

/// The root, the way to the best plan, then what is nearest to the root, `most` in all; children in
/// the order in which they were looked at.
std::vector<SearchRow> search_rows(const Result& result, std::size_t most);
/// "cannot beat 482", "whole: 476", "settled by looking through"; empty for a divided one.
std::string how_it_ended(const SearchNode& node);

}  // namespace kiteknot::report
