#pragma once
// The text of a document key by key, laid out as nlohmann does with an indent of one. Small values
// are nlohmann's; the lists in which a large model has an entry for each decision and rule are
// written as they come, since a quarter of a million of them took longer to build than to solve.

#include <algorithm>
#include <cmath>
#include <cstdint>
#include <iterator>
#include <limits>
#include <string>
#include <string_view>
#include <vector>

#include <fmt/format.h>
#include <nlohmann/json.hpp>

#include "kiteknot/rational.hpp"

namespace kiteknot {

class DocumentText {
 public:
  using Json = nlohmann::ordered_json;

  void add(std::string_view key, const Json& value) {
    text_ += text_.empty() ? "{" : ",";
    start(key, 1);
    const std::string told = value.dump(1, ' ', false, Json::error_handler_t::replace);
    for (const char c : told) {
      text_ += c;
      if (c == '\n') text_ += ' ';
    }
  }

  // A list: begin_list, for each entry begin_entry, fields, end_entry, then end_list.
  void begin_list(std::string_view key) {
    text_ += text_.empty() ? "{" : ",";
    start(key, 1);
    text_ += '[';
    first_entry_ = true;
  }
  void end_list() { text_ += first_entry_ ? "]" : "\n ]"; }
  void begin_entry() {
    text_ += first_entry_ ? "\n  {" : ",\n  {";
    first_entry_ = false;
    first_field_ = true;
  }
  void end_entry() { text_ += "\n  }"; }
  template <class Value>
  void field(std::string_view key, const Value& value) {
    if (!first_field_) text_ += ',';
    first_field_ = false;
    start(key, 3);
    write(value, 3);
  }
  /// {"from": ..., "to": ...}
  void span(std::string_view key, double from, double to) {
    if (!first_field_) text_ += ',';
    first_field_ = false;
    start(key, 3);
    text_ += '{';
    start("from", 4);
    write(from, 4);
    text_ += ',';
    start("to", 4);
    write(to, 4);
    text_ += "\n   }";
  }
  [[nodiscard]] std::string take() {
    text_ += "\n}\n";
    return std::move(text_);
  }

 private:
  void start(std::string_view key, std::size_t indent) {
    text_ += '\n';
    text_.append(indent, ' ');
    text_ += '"';
    text_ += key;
    text_ += "\": ";
  }
  void write(const char*, std::size_t) = delete;  // would be a bool
  void write(bool value, std::size_t) { text_ += value ? "true" : "false"; }
  // Infinite ones are null; whole ones that a double holds exactly have no point.
  void write(double value, std::size_t) {
    if (!std::isfinite(value))
      text_ += "null";
    else if (value == std::trunc(value) && std::abs(value) < 0x1p53)
      fmt::format_to(std::back_inserter(text_), "{}", static_cast<std::int64_t>(value));
    else
      fmt::format_to(std::back_inserter(text_), "{}", value);
  }
  // A whole one that 64 bits hold in full; any other as the nearest double.
  void write(const Rational& value, std::size_t indent) {
    const double near = value.to_double();
    if (value.is_integer() && std::abs(near) >= 0x1p53 &&
        value.abs() <= Rational(std::numeric_limits<std::int64_t>::max()))
      text_ += value.text();
    else
      write(near, indent);
  }
  void write(std::string_view value, std::size_t) {
    const auto plain = [](char c) { return c >= ' ' && c <= '~' && c != '"' && c != '\\'; };
    if (std::all_of(value.begin(), value.end(), plain)) {
      text_ += '"';
      text_ += value;
      text_ += '"';
    } else {
      text_ += Json(value).dump(-1, ' ', false, Json::error_handler_t::replace);
    }
  }
  void write(const std::vector<std::string>& values, std::size_t indent) {
    text_ += '[';
    for (std::size_t k = 0; k < values.size(); ++k) {
      text_ += k == 0 ? "\n" : ",\n";
      text_.append(indent + 1, ' ');
      write(std::string_view(values[k]), indent);
    }
    if (!values.empty()) text_.append("\n").append(indent, ' ');
    text_ += ']';
  }

  std::string text_;
  bool first_entry_ = true, first_field_ = true;
};

}  // namespace kiteknot
