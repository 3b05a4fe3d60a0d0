#include "values.hpp"

#include <optional>
#include <string>
#include <utility>

#include <fmt/format.h>

#include "kiteknot/rational.hpp"

namespace kiteknot::cli {
namespace {

const Rational kMost = 1'000'000'000'000LL;

// At most so much of what was written.
std::string shortened(const std::string& text) {
  constexpr std::size_t kLongest = 40;
  return text.substr(0, kLongest);
}

std::string without_blanks(const std::string& text) {
  std::string out;
  for (const char c : text)
    if (c != ' ') out += c;
  return out;
}

// Exactly as a double has it, without an exponent that would need one.
std::string decimal(const Rational& value) {
  return fmt::format("{}", value.to_double());
}

}  // namespace

CLI::Validator a_figure(bool zero_too) {
  return CLI::Validator(
      [zero_too](const std::string& text) {
        const std::optional<Rational> value = Rational::parse(text);
        if (value && (value->sign() > 0 || (zero_too && value->is_zero())) && *value <= kMost)
          return std::string();
        return fmt::format("a figure {} was expected, up to 1e12, not '{}'",
                           zero_too ? "from 0 up" : "above 0", shortened(text));
      },
      "");
}

CLI::Validator a_count(bool zero_too, std::int64_t most) {
  return CLI::Validator(
      [zero_too, most](const std::string& text) {
        constexpr std::size_t kDigits = 18;
        const bool digits = !text.empty() && text.size() <= kDigits &&
                            text.find_first_not_of("0123456789") == std::string::npos;
        const bool zero = digits && text.find_first_not_of('0') == std::string::npos;
        if (digits && (zero_too || !zero) && (most == 0 || std::stoll(text) <= most))
          return std::string();
        return fmt::format("a whole number from {} {} was expected, not '{}'", zero_too ? 0 : 1,
                           most == 0 ? "up" : fmt::format("to {}", most), shortened(text));
      },
      "");
}

CLI::Validator a_time() {
  return CLI::Validator(
      [](std::string& text) {
        const std::string written = without_blanks(text);
        const std::size_t unit_at = written.find_last_of("0123456789.") + 1;  // 0: none is there
        const std::string unit = written.substr(std::min(unit_at, written.size()));
        static const std::pair<const char*, Rational> kUnits[] = {
            {"", 1},   {"s", 1},    {"sec", 1}, {"ms", Rational(1) / Rational(1000)},
            {"m", 60}, {"min", 60}, {"h", 3600}};
        const std::optional<Rational> value = Rational::parse(written.substr(0, unit_at));
        for (const auto& [name, seconds] : kUnits)
          if (value && unit == name && value->sign() > 0 && *value * seconds <= kMost) {
            text = decimal(*value * seconds);
            return std::string();
          }
        // Exponents, as programs write them.
        if (const auto plain = Rational::parse(written);
            plain && plain->sign() > 0 && *plain <= kMost) {
          text = decimal(*plain);
          return std::string();
        }
        return fmt::format("a time above 0 was expected, such as 10, 10s, 5min or 2h, not '{}'",
                           shortened(text));
      },
      "");
}

CLI::Validator a_share() {
  return CLI::Validator(
      [](std::string& text) {
        std::string written = without_blanks(text);
        const bool percent = written.ends_with('%');
        if (percent) written.pop_back();
        const std::optional<Rational> value = Rational::parse(written);
        if (!value || value->sign() < 0)
          return fmt::format("a share from 0 up was expected, such as 5% or 0.05, not '{}'",
                             shortened(text));
        const Rational share = percent ? *value / Rational(100) : *value;
        if (share < Rational(1)) {
          text = decimal(share);
          return std::string();
        }
        if (percent)
          return fmt::format("a share below 100% was expected, not '{}'", shortened(text));
        return fmt::format(
            "'{0}' may mean {0}% or {0} times as much: say {0}%, or a figure below 1",
            shortened(text));
      },
      "");
}

}  // namespace kiteknot::cli
