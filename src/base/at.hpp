#pragma once
// Rows, columns and entries are counted in signed numbers; at() is their place in a vector.

#include <cstddef>
#include <cstdint>

namespace kiteknot {

constexpr std::size_t at(std::int32_t i) noexcept {
  return static_cast<std::size_t>(i);
}
constexpr std::size_t at(std::int64_t i) noexcept {
  return static_cast<std::size_t>(i);
}

}  // namespace kiteknot
