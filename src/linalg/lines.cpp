#include "linalg/lines.hpp"

#include <algorithm>

#include "base/check.hpp"

namespace kiteknot::linalg {

void Lines::add_lines(Index count) {
  place_.resize(place_.size() + at(count), Place{static_cast<Offset>(index_.size()), 0, 0});
}

void Lines::add_line(Index room) {
  const Offset start = take_room(room);
  place_.push_back({start, 0, room});
}

// At the end of the pool, which grows by less than a vector would: what it holds is most of the
// memory of a large problem.
Offset Lines::take_room(Index room) {
  const std::size_t start = index_.size(), size = start + at(room);
  if (size > index_.capacity()) {
    index_.reserve(size + size / 4);
    value_.reserve(size + size / 4);
  }
  index_.resize(size);
  value_.resize(size);
  return static_cast<Offset>(start);
}

void Lines::push(Index line, Index index, double value) {
  if (place_[at(line)].size == place_[at(line)].room) {
    // Packed lines have room, the empty ones too: less than that is nothing to gain.
    const Offset most = 2 * (used_ + static_cast<Offset>(place_.size())) + 1024;
    if (static_cast<Offset>(index_.size()) > most) pack();
    move_to_end(place_[at(line)]);
  }
  Place& p = place_[at(line)];
  const auto where = static_cast<std::size_t>(p.start + p.size++);
  index_[where] = index;
  value_[where] = value;
  ++used_;
}

void Lines::move_to_end(Place& place) {
  const Index room = std::max<Index>(4, place.size + place.size / 2);
  const Offset start = take_room(room);
  const auto from = static_cast<std::ptrdiff_t>(place.start),
             to = static_cast<std::ptrdiff_t>(start);
  std::copy_n(index_.begin() + from, place.size, index_.begin() + to);
  std::copy_n(value_.begin() + from, place.size, value_.begin() + to);
  place.start = start;
  place.room = room;
}

// Every line keeps some room: lines that grow in turn would all have to move again at once.
void Lines::pack() {
  std::vector<Index> index;
  std::vector<double> value;
  const std::size_t size = at(used_ + used_ / 4) + place_.size();
  index.reserve(size + size / 4);
  value.reserve(size + size / 4);
  for (Place& p : place_) {
    const auto start = static_cast<Offset>(index.size());
    const auto from = static_cast<std::ptrdiff_t>(p.start);
    index.insert(index.end(), index_.begin() + from, index_.begin() + from + p.size);
    value.insert(value.end(), value_.begin() + from, value_.begin() + from + p.size);
    const Index room = p.size + p.size / 4 + 1;
    index.resize(static_cast<std::size_t>(start) + at(room));
    value.resize(static_cast<std::size_t>(start) + at(room));
    p = {start, p.size, room};
  }
  index_.swap(index);
  value_.swap(value);
}

void Lines::build(std::span<const Offset> start, std::span<const Index> index,
                  std::span<const double> value, Index room) {
  const std::size_t lines = start.size() - 1;
  place_.resize(lines);
  index_.assign(index.size() + lines * at(room), 0);
  value_.assign(index_.size(), 0.0);
  Offset next = 0;
  for (std::size_t i = 0; i < lines; ++i) {
    const auto size = static_cast<Index>(start[i + 1] - start[i]);
    place_[i] = {next, size, size + room};
    const auto from = static_cast<std::ptrdiff_t>(start[i]), to = static_cast<std::ptrdiff_t>(next);
    std::copy_n(index.begin() + from, size, index_.begin() + to);
    std::copy_n(value.begin() + from, size, value_.begin() + to);
    next += size + room;
  }
  used_ = static_cast<Offset>(index.size());
}

void Lines::erase(Index line, Index index) {
  Place& p = place_[at(line)];
  for (Offset k = p.start; k < p.start + p.size; ++k) {
    if (index_[static_cast<std::size_t>(k)] != index) continue;
    const auto last = static_cast<std::size_t>(p.start + --p.size);
    index_[static_cast<std::size_t>(k)] = index_[last];
    value_[static_cast<std::size_t>(k)] = value_[last];
    --used_;
    return;
  }
  KITEKNOT_CHECK(false, "an entry to erase must be there");
}

void Lines::renumber(std::span<const Index> new_line, std::span<const Index> new_entry) {
  KITEKNOT_CHECK(new_line.size() == place_.size(), "one new number for each line");
  std::size_t kept = 0;
  for (std::size_t i = 0; i < place_.size(); ++i) {
    Place p = place_[i];
    used_ -= p.size;
    if (new_line[i] < 0) continue;
    Index size = 0;
    for (Offset k = p.start; k < p.start + p.size; ++k) {
      const Index entry = new_entry[at(index_[static_cast<std::size_t>(k)])];
      if (entry < 0) continue;
      const auto to = static_cast<std::size_t>(p.start + size++);
      index_[to] = entry;
      value_[to] = value_[static_cast<std::size_t>(k)];
    }
    p.size = size;
    used_ += size;
    place_[kept++] = p;
  }
  place_.resize(kept);
}

}  // namespace kiteknot::linalg
