#pragma once
// Whether two things are the same, told by one number of each.

#include <concepts>
#include <cstdint>
#include <cstring>
#include <span>
#include <string_view>
#include <type_traits>

namespace kiteknot {

template <class T>
concept PlainFigure = std::is_arithmetic_v<T> || std::is_enum_v<T>;

/// FNV-1a (Fowler, Noll and Vo 1991): tells accidents, not intentions.
class Mark {
 public:
  void add(std::string_view bytes) noexcept {
    for (const char c : bytes) {
      value_ ^= static_cast<unsigned char>(c);
      value_ *= 0x100000001b3ULL;
    }
  }
  template <PlainFigure T>
  void add(const T& value) noexcept {
    char bytes[sizeof(T)];
    std::memcpy(bytes, &value, sizeof value);
    add(std::string_view(bytes, sizeof bytes));
  }
  template <PlainFigure T>
  void add(std::span<const T> values) noexcept {
    add(values.size());
    for (const T& value : values) add(value);
  }
  [[nodiscard]] std::uint64_t value() const noexcept { return value_; }

 private:
  std::uint64_t value_ = 0xcbf29ce484222325ULL;
};

}  // namespace kiteknot
