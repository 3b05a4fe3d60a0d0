#pragma once
// Sparse rows or columns that grow. One pool holds all entries; a line that outgrows its place
// moves to the end with half as much again, and the pool is packed when about half of it lies
// unused, so that appending an entry costs amortised O(1).
//
//   line i: index(i)[0 .. size(i)), value(i)[0 .. size(i))      in no particular order

#include <cstdint>
#include <span>
#include <vector>

#include "base/at.hpp"

namespace kiteknot::linalg {

using Index = std::int32_t;   // a row or column; signed
using Offset = std::int64_t;  // a position among nonzeros

class Lines {
 public:
  [[nodiscard]] Index num_lines() const noexcept { return static_cast<Index>(place_.size()); }
  [[nodiscard]] Offset num_nonzeros() const noexcept { return used_; }
  [[nodiscard]] Index size(Index line) const { return place_[at(line)].size; }
  [[nodiscard]] std::span<const Index> index(Index line) const {
    const Place& p = place_[at(line)];
    return {index_.data() + p.start, at(p.size)};
  }
  [[nodiscard]] std::span<const double> value(Index line) const {
    const Place& p = place_[at(line)];
    return {value_.data() + p.start, at(p.size)};
  }

  /// Appends `count` empty lines.
  void add_lines(Index count);
  /// Appends an empty line with room for so many entries, which it will hardly outgrow.
  void add_line(Index room);
  void push(Index line, Index index, double value);
  /// Replaces everything by fixed lines (line i: start[i] .. start[i + 1]), each with `room` free
  /// places.
  void build(std::span<const Offset> start, std::span<const Index> index,
             std::span<const double> value, Index room);
  /// Takes the entry out of the line; it must be there. O(size of the line).
  void erase(Index line, Index index);
  void clear_line(Index line) {
    used_ -= place_[at(line)].size;
    place_[at(line)].size = 0;
  }
  /// Keeps the lines whose new number is not -1, in order, and renumbers entries by `new_entry`
  /// (entries that map to -1 go away). O(nnz).
  void renumber(std::span<const Index> new_line, std::span<const Index> new_entry);

 private:
  struct Place {
    Offset start = 0;
    Index size = 0;
    Index room = 0;
  };
  void move_to_end(Place& place);
  [[nodiscard]] Offset take_room(Index room);
  void pack();

  std::vector<Place> place_;
  std::vector<Index> index_;
  std::vector<double> value_;
  Offset used_ = 0;
};

}  // namespace kiteknot::linalg
