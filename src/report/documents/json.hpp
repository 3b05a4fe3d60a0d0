#pragma once
// What all documents of questions share.

#include <nlohmann/json.hpp>

#include "kiteknot/rational.hpp"

namespace kiteknot::report {

using Json = nlohmann::ordered_json;

/// Whole where a double says it as such.
inline Json number(const Rational& r) {
  if (r.is_integer() && r.abs() < Rational(1LL << 53))
    return static_cast<std::int64_t>(r.to_double());
  return r.to_double();
}

inline std::string dumped(const Json& document) {
  return document.dump(1, ' ', false, Json::error_handler_t::replace) + "\n";
}

}  // namespace kiteknot::report
