#include "base/text.hpp"

#include <algorithm>
#include <cmath>

#include <fmt/format.h>

namespace kiteknot {
namespace {

std::string lowered(std::string_view text) {
  std::string out(text);
  for (char& c : out)
    if (c >= 'A' && c <= 'Z') c = static_cast<char>(c - 'A' + 'a');
  return out;
}

// Edits (insert, delete, replace, swap of neighbours) that turn a into b.
std::size_t edit_distance(const std::string& a, const std::string& b) {
  std::vector<std::size_t> before(b.size() + 1), last(b.size() + 1), row(b.size() + 1);
  for (std::size_t j = 0; j <= b.size(); ++j) last[j] = j;
  for (std::size_t i = 1; i <= a.size(); ++i) {
    row[0] = i;
    for (std::size_t j = 1; j <= b.size(); ++j) {
      row[j] = std::min({last[j] + 1, row[j - 1] + 1, last[j - 1] + (a[i - 1] != b[j - 1])});
      if (i > 1 && j > 1 && a[i - 1] == b[j - 2] && a[i - 2] == b[j - 1])
        row[j] = std::min(row[j], before[j - 2] + 1);
    }
    before.swap(last);
    last.swap(row);
  }
  return last[b.size()];
}

// Puts a comma after every three digits of the whole part of a plain decimal.
std::string with_separators(std::string digits) {
  const std::size_t begin = digits.starts_with('-') ? 1 : 0;
  std::size_t end = digits.find_first_of(".e");
  if (end == std::string::npos) end = digits.size();
  for (std::size_t at = end; at > begin + 3;) {
    at -= 3;
    digits.insert(at, ",");
  }
  return digits;
}

}  // namespace

std::string nearest_name(std::string_view wanted, std::span<const std::string> known) {
  const std::string target = lowered(wanted.substr(0, 64));
  std::string best;
  std::size_t best_distance = std::max<std::size_t>(1, target.size() / 3) + 1;
  for (const std::string& name : known) {
    if (name.size() > 64 || name == wanted) continue;
    const std::size_t distance = edit_distance(target, lowered(name));
    // With nothing in common it is another name, not a slip.
    if (distance < best_distance && distance < std::max(target.size(), name.size())) {
      best_distance = distance;
      best = name;
    }
  }
  return best;
}

std::string nearest_hint(std::string_view wanted, std::span<const std::string> known) {
  const std::string near = nearest_name(wanted, known);
  return near.empty() ? "" : fmt::format("; nearest is '{}'", near);
}

std::string known_hint(std::string_view wanted, const std::vector<std::string>& known) {
  constexpr std::size_t kMost = 8;
  const std::string near = nearest_hint(wanted, known);
  if (!near.empty() || known.empty()) return near;
  return fmt::format("; there {} {}", known.size() == 1 ? "is" : "are", listed(known, kMost));
}

std::string figure(const Rational& value) {
  if (!value.is_finite()) return value.sign() > 0 ? "inf" : "-inf";
  if (value.is_integer()) return with_separators(value.text());
  return figure(value.to_double());
}

std::string figure(double value) {
  if (std::isnan(value)) return "not a number";
  if (std::isinf(value)) return value > 0 ? "inf" : "-inf";
  const double size = std::abs(value);
  if (size != 0.0 && (size < 1e-4 || size >= 1e15)) return fmt::format("{:.4g}", value);
  const int whole_digits = size < 1.0 ? 1 : static_cast<int>(std::floor(std::log10(size))) + 1;
  std::string text = fmt::format("{:.{}f}", value, std::clamp(8 - whole_digits, 2, 7));
  while (text.find('.') != std::string::npos && (text.back() == '0' || text.back() == '.')) {
    const bool point = text.back() == '.';
    text.pop_back();
    if (point) break;
  }
  return with_separators(text == "-0" ? "0" : text);
}

std::string rough(double value) {
  if (value == 0.0 || !std::isfinite(value)) return figure(value);
  constexpr int kDigits = 4;
  const int whole_digits = static_cast<int>(std::floor(std::log10(std::abs(value)))) + 1;
  if (whole_digits > kDigits) {  // no exponents: whole figures are told in full
    return figure(std::round(value));
  }
  const double scale = std::pow(10.0, kDigits - whole_digits);
  return figure(std::round(value * scale) / scale);
}

std::string percent(double share) {
  const double value = 100.0 * share;
  if (value != 0.0 && std::abs(value) < 0.1) return fmt::format("{:.2g} %", value);
  return fmt::format("{:.1f} %", value);
}

std::string fraction(const Rational& value) {
  if (!value.is_finite()) return value.sign() > 0 ? "no end" : "minus no end";
  const std::string numerator = value.numerator().text();
  return value.is_integer() ? numerator : numerator + "/" + value.denominator().text();
}

std::string decimal(const Rational& value) {
  std::string text = value.text();
  return text.find('/') == std::string::npos ? text : fmt::format("{}", value.to_double());
}

std::string duration(double seconds) {
  constexpr double kLongest = 1e15;  // beyond that whole seconds cannot be told apart
  if (!(seconds < kLongest)) return "an unknown time";
  if (seconds < 0.001) return "under 1 ms";
  if (seconds < 1.0) return fmt::format("{:.3g} s", seconds);
  if (seconds < 10.0) return fmt::format("{:.1f} s", seconds);
  if (seconds < 120.0) return fmt::format("{:.0f} s", seconds);
  const auto whole = static_cast<long long>(seconds);
  return fmt::format("{} min {} s", whole / 60, whole % 60);
}

std::string listed(std::span<const std::string> names, std::size_t most) {
  const bool cut = names.size() > most;
  const std::size_t shown = cut ? most - 1 : names.size();
  std::string out;
  for (std::size_t i = 0; i < shown; ++i) {
    if (i > 0) out += (!cut && i + 1 == shown) ? " and " : ", ";
    out += names[i];
  }
  if (cut) out += fmt::format(" and {} more", names.size() - shown);
  return out;
}

std::size_t not_utf8(std::string_view text) {
  const auto byte = [&](std::size_t k) {
    return k < text.size() ? static_cast<unsigned char>(text[k]) : 0U;
  };
  const auto follows = [&](std::size_t k) { return (byte(k) & 0xC0U) == 0x80U; };
  for (std::size_t k = 0; k < text.size();) {
    const unsigned lead = byte(k);
    if (lead < 0x80U) {
      ++k;
      continue;
    }
    const std::size_t size = lead >= 0xF0U ? 4 : lead >= 0xE0U ? 3 : 2;
    bool fine = lead >= 0xC2U && lead <= 0xF4U;
    for (std::size_t i = 1; i < size; ++i) fine = fine && follows(k + i);
    // Longer than needed, half of a pair, or beyond the last character.
    fine = fine && !(lead == 0xE0U && byte(k + 1) < 0xA0U) &&
           !(lead == 0xEDU && byte(k + 1) > 0x9FU) && !(lead == 0xF0U && byte(k + 1) < 0x90U) &&
           !(lead == 0xF4U && byte(k + 1) > 0x8FU);
    if (!fine) return k;
    k += size;
  }
  return std::string_view::npos;
}

std::string visible(std::string_view text, char kept) {
  std::string out;
  const auto append = [&](unsigned sign) {  // below U+10000
    out += static_cast<char>(0xE0U | sign >> 12);
    out += static_cast<char>(0x80U | (sign >> 6 & 0x3FU));
    out += static_cast<char>(0x80U | (sign & 0x3FU));
  };
  for (std::size_t k = 0; k < text.size(); ++k) {
    const auto c = static_cast<unsigned char>(text[k]);
    const auto next = [&](std::size_t by) {
      return k + by < text.size() ? static_cast<unsigned char>(text[k + by]) : 0U;
    };
    if (c < 0x20U && (kept == '\0' || text[k] != kept)) {
      append(0x2400U + c);
    } else if (c == 0x7FU) {
      append(0x2421U);
    } else if (c == 0xC2U && next(1) >= 0x80U && next(1) < 0xA0U) {
      out += fmt::format("<U+{:04X}>", next(1));
      ++k;
    } else if (c == 0xE2U && ((next(1) == 0x80U && next(2) >= 0xA8U && next(2) <= 0xAEU) ||
                              (next(1) == 0x81U && next(2) >= 0xA6U && next(2) <= 0xA9U))) {
      out += fmt::format("<U+{:04X}>", 0x2000U | (next(1) & 0x3FU) << 6 | (next(2) & 0x3FU));
      k += 2;
    } else {
      out += text[k];
    }
  }
  return out;
}

std::string counted(std::size_t count, std::string_view noun) {
  const std::string number = figure(Rational(static_cast<long long>(count)));
  if (count == 1) return fmt::format("1 {}", noun);
  const bool vowel = noun.size() > 1 &&
                     std::string_view("aeou").find(noun[noun.size() - 2]) != std::string_view::npos;
  if (noun.ends_with("y") && !vowel)
    return fmt::format("{} {}ies", number, noun.substr(0, noun.size() - 1));
  return fmt::format("{} {}{}", number, noun,
                     noun.ends_with("ch") || noun.ends_with("s") ? "es" : "s");
}

}  // namespace kiteknot
