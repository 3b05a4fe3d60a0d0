#include "data/figure_text.hpp"

#include <array>

namespace kiteknot {
namespace {

// Signs of several bytes that stand around figures.
constexpr std::array<std::string_view, 3> kSpaces = {"\xc2\xa0", "\xe2\x80\xaf", "\xe2\x80\x89"};
constexpr std::array<std::string_view, 7> kCurrencies = {
    "$", "\xe2\x82\xac", "\xc2\xa3", "\xc2\xa5", "\xe2\x82\xb9", "\xe2\x82\xba", "\xe2\x82\xbd"};
constexpr std::string_view kMinus = "\xe2\x88\x92";

bool take(std::string_view& text, std::string_view sign) {
  if (!text.starts_with(sign)) return false;
  text.remove_prefix(sign.size());
  return true;
}
bool take_end(std::string_view& text, std::string_view sign) {
  if (!text.ends_with(sign)) return false;
  text.remove_suffix(sign.size());
  return true;
}

void trim(std::string_view& text) {
  const auto space = [&](const auto& taker) {
    if (taker(text, " ") || taker(text, "\t")) return true;
    for (const std::string_view s : kSpaces)
      if (taker(text, s)) return true;
    return false;
  };
  while (space(take)) {
  }
  while (space(take_end)) {
  }
}

// What is around the digits taken off: sign, currency, percent. False: too much of it.
struct Bare {
  std::string_view digits;  // and marks
  bool negative = false, percent = false;
};
std::optional<Bare> bare(std::string_view text) {
  Bare b;
  trim(text);
  int signs = 0, currencies = 0;
  for (bool more = true; more;) {
    more = false;
    if (take(text, "-") || take(text, kMinus)) {
      b.negative = true;
      ++signs;
      more = true;
    } else if (take(text, "+")) {
      ++signs;
      more = true;
    }
    for (const std::string_view c : kCurrencies)
      if (take(text, c)) {
        ++currencies;
        more = true;
      }
    if (more) trim(text);
  }
  if (take_end(text, "%"))
    b.percent = true;
  else
    for (const std::string_view c : kCurrencies)
      if (take_end(text, c)) ++currencies;
  trim(text);
  if (signs > 1 || currencies > 1 || (currencies > 0 && b.percent)) return std::nullopt;
  b.digits = text;
  return b;
}

bool digit(char c) {
  return c >= '0' && c <= '9';
}

// Digits with `mark` before the fraction and thousands set apart by the other mark, a blank or an
// apostrophe, always the same one and always by three; as plain digits with a point.
std::optional<std::string> plain(std::string_view text, char mark) {
  const char other = mark == '.' ? ',' : '.';
  std::string out;
  std::string_view apart;  // the sign between thousands
  std::size_t since = 0, at = 0;
  bool fraction = false, any = false;
  while (at < text.size()) {
    const char c = text[at];
    if (digit(c)) {
      out += c;
      ++since;
      ++at;
      any = true;
      continue;
    }
    if (fraction) return std::nullopt;
    if (!apart.empty() && since != 3) return std::nullopt;
    if (c == mark) {
      fraction = true;
      out += '.';
      since = 0;
      ++at;
      continue;
    }
    std::string_view sign;
    if (c == other || c == ' ' || c == '\'') sign = text.substr(at, 1);
    for (const std::string_view s : kSpaces)
      if (text.substr(at).starts_with(s)) sign = s;
    if (text.substr(at).starts_with("\xe2\x80\x99")) sign = text.substr(at, 3);
    if (sign.empty() || (!apart.empty() && apart != sign)) return std::nullopt;
    if (apart.empty() && (since == 0 || since > 3 || out[0] == '0')) return std::nullopt;
    apart = sign;
    since = 0;
    at += sign.size();
  }
  if (!any || (!fraction && !apart.empty() && since != 3)) return std::nullopt;
  if (fraction && since == 0) return std::nullopt;
  return out;
}

std::optional<Rational> with(const Bare& b, char mark) {
  const std::optional<std::string> digits = plain(b.digits, mark);
  if (!digits) return std::nullopt;
  std::optional<Rational> value = Rational::parse(*digits);
  if (!value) return std::nullopt;
  if (b.percent) value = *value / Rational(100);
  return b.negative ? -*value : *value;
}

}  // namespace

bool may_be_thousands(std::string_view text) {
  if (text.starts_with('-')) text.remove_prefix(1);
  constexpr std::size_t kGroup = 3;
  const std::size_t point = text.find('.');
  return point != std::string_view::npos && point >= 1 && point <= kGroup && text[0] != '0' &&
         text.size() == point + 1 + kGroup &&
         std::all_of(text.begin(), text.end(),
                     [](char c) { return c == '.' || (c >= '0' && c <= '9'); }) &&
         text.find('.', point + 1) == std::string_view::npos;
}

std::optional<Rational> figure_of(std::string_view text, DecimalMark mark) {
  // As programs write them, exponents included.
  if (mark != DecimalMark::comma || text.find('.') == std::string_view::npos)
    if (std::optional<Rational> value = Rational::parse(text)) return value;
  const std::optional<Bare> b = bare(text);
  if (!b) return std::nullopt;
  if (mark == DecimalMark::comma) return with(*b, ',');
  const std::optional<Rational> point = with(*b, '.');
  if (mark == DecimalMark::point) return point;
  const std::optional<Rational> comma = with(*b, ',');
  if (point && comma && *point != *comma) return std::nullopt;
  return point ? point : comma;
}

DecimalMark mark_told_by(std::string_view text) {
  const std::optional<Bare> b = bare(text);
  if (!b || b->digits.find_first_of(".,") == std::string_view::npos) return DecimalMark::as_found;
  const bool point = plain(b->digits, '.').has_value(), comma = plain(b->digits, ',').has_value();
  if (point == comma) return DecimalMark::as_found;
  return point ? DecimalMark::point : DecimalMark::comma;
}

}  // namespace kiteknot
