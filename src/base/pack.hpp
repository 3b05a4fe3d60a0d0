#pragma once
// Values as bytes and back. One function says what a type consists of, for both ways:
//
//   template <class Archive>
//   void archive(Archive& a, Point& p) { a(p.x, p.y); }
//
// Figures as this machine has them.

#include <cstdint>
#include <cstring>
#include <optional>
#include <stdexcept>
#include <string>
#include <string_view>
#include <type_traits>
#include <utility>
#include <vector>

#include "base/mark.hpp"
#include "kiteknot/rational.hpp"

namespace kiteknot {

/// Bytes that are none of what was written: cut short, or changed.
class DamagedBytes : public std::runtime_error {
 public:
  DamagedBytes() : std::runtime_error("the bytes end early, or say what cannot be") {}
};

class Packer {
 public:
  static constexpr bool kReads = false;
  template <class... T>
  void operator()(const T&... values) {
    (put(values), ...);
  }
  [[nodiscard]] std::string take() { return std::move(bytes_); }

 private:
  void raw(const void* data, std::size_t size) {
    bytes_.append(static_cast<const char*>(data), size);
  }
  template <PlainFigure T>
  void put(const T& value) {
    raw(&value, sizeof value);
  }
  void put(const std::string& text) {
    put(static_cast<std::uint64_t>(text.size()));
    bytes_ += text;
  }
  void put(const Rational& value) {
    put(value.is_finite());
    if (!value.is_finite()) return put(value > 0);
    put(value.numerator().text());
    put(value.denominator().text());
  }
  template <class T>
  void put(const std::vector<T>& values) {
    put(static_cast<std::uint64_t>(values.size()));
    if constexpr (PlainFigure<T>)
      raw(values.data(), values.size() * sizeof(T));
    else
      for (const T& value : values) put(value);
  }
  template <class T>
  void put(const std::optional<T>& value) {
    put(value.has_value());
    if (value) put(*value);
  }
  template <class A, class B>
  void put(const std::pair<A, B>& both) {
    put(both.first);
    put(both.second);
  }
  template <class T>
  requires std::is_class_v<T>
  void put(const T& value) {
    archive(*this, const_cast<T&>(value));  // it only reads from it
  }
  std::string bytes_;
};

class Unpacker {
 public:
  static constexpr bool kReads = true;
  explicit Unpacker(std::string_view bytes) : rest_(bytes) {}
  template <class... T>
  void operator()(T&... values) {
    (get(values), ...);
  }
  [[nodiscard]] bool at_end() const noexcept { return rest_.empty(); }

 private:
  void raw(void* to, std::size_t size) {
    if (size > rest_.size()) throw DamagedBytes();
    if (size > 0) std::memcpy(to, rest_.data(), size);
    rest_.remove_prefix(size);
  }
  /// Of things of at least one byte each.
  std::size_t count() {
    std::uint64_t n = 0;
    get(n);
    if (n > rest_.size()) throw DamagedBytes();
    return static_cast<std::size_t>(n);
  }
  template <PlainFigure T>
  void get(T& value) {
    if constexpr (std::is_same_v<T, bool>) {
      char byte = 0;
      raw(&byte, 1);
      if (byte != 0 && byte != 1) throw DamagedBytes();
      value = byte != 0;
    } else {
      raw(&value, sizeof value);
    }
  }
  void get(std::string& text) {
    text.resize(count());
    raw(text.data(), text.size());
  }
  void get(Rational& value) {
    bool finite = false, up = false;
    get(finite);
    if (!finite) {
      get(up);
      value = up ? Rational::infinity() : Rational::minus_infinity();
      return;
    }
    const Rational above = whole(), below = whole();
    if (below <= 0) throw DamagedBytes();
    value = above / below;
  }
  /// A whole number of any length, some digits at a time.
  Rational whole() {
    constexpr std::size_t kDigits = 300;
    std::string text;
    get(text);
    const bool negative = text.starts_with('-');
    if (negative) text.erase(0, 1);
    if (text.empty() || text.find_first_not_of("0123456789") != std::string::npos)
      throw DamagedBytes();
    const Rational shift = *Rational::parse("1e300");
    Rational value = 0;
    std::size_t first = text.size() % kDigits;
    if (first > 0) value = *Rational::parse(text.substr(0, first));
    for (; first < text.size(); first += kDigits)
      value = value * shift + *Rational::parse(text.substr(first, kDigits));
    return negative ? -value : value;
  }
  template <class T>
  void get(std::vector<T>& values) {
    const std::size_t n = count();
    if constexpr (PlainFigure<T>) {
      if (n > rest_.size() / sizeof(T)) throw DamagedBytes();
      values.resize(n);
      raw(values.data(), n * sizeof(T));
    } else {
      values.clear();
      for (std::size_t k = 0; k < n; ++k) get(values.emplace_back());
    }
  }
  template <class T>
  void get(std::optional<T>& value) {
    bool there = false;
    get(there);
    value.reset();
    if (there) get(value.emplace());
  }
  template <class A, class B>
  void get(std::pair<A, B>& both) {
    get(both.first);
    get(both.second);
  }
  template <class T>
  requires std::is_class_v<T>
  void get(T& value) { archive(*this, value); }
  std::string_view rest_;
};

}  // namespace kiteknot
