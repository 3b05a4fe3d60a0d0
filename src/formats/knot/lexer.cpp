#include "formats/knot/lexer.hpp"

#include <algorithm>
#include <array>

#include <fmt/format.h>

namespace kiteknot::formats::knot {
namespace {

// Words between expressions, and those that begin a change of a scenario or a goal. Words that
// begin a statement need no place of their own: they stand in column one.
constexpr std::array<std::string_view, 21> kReserved = {
    "table",   "minimize", "maximize", "and",   "or",   "not",    "xor",
    "implies", "iff",      "over",     "where", "in",   "binary", "integer",
    "real",    "inf",      "if",       "then",  "else", "has",    "forms"};
// Functions are known by the bracket behind them.
constexpr std::array<std::string_view, 13> kFunctions = {
    "total", "min", "max", "abs",   "largest", "smallest", "count",
    "sqrt",  "exp", "log", "round", "floor",   "ceil"};

bool letter(char c) {
  return (c >= 'a' && c <= 'z') || (c >= 'A' && c <= 'Z') || c == '_';
}
bool digit(char c) {
  return c >= '0' && c <= '9';
}

class Lexer {
 public:
  Lexer(std::string_view text, const std::string& file, Diagnostics& notes)
      : text_(text), file_(file), notes_(notes) {}

  std::vector<RawStatement> run() {
    if (text_.starts_with("\xef\xbb\xbf")) text_.remove_prefix(3);
    bool in_block = false;
    for (std::size_t at = 0; at < text_.size();) {
      std::size_t end = text_.find_first_of("\r\n", at);
      if (end == std::string_view::npos) end = text_.size();
      const std::string_view line = text_.substr(at, end - at);
      ++line_;
      at = end + (text_.substr(end).starts_with("\r\n") ? 2 : 1);
      const std::size_t first = line.find_first_not_of(" \t");
      const bool blank = first == std::string_view::npos || line[first] == '#';
      if (!blank && first == 0) {
        finish();
        in_block = false;
        statements_.emplace_back();
        open_ = true;
      }
      if (in_block) {
        statements_.back().block += blank ? "" : std::string(line);
        statements_.back().block += '\n';
        continue;
      }
      if (blank) continue;
      if (!open_) {
        complain(first,
                 "a line that starts with white space goes on with a statement, but there is none "
                 "before it");
        continue;
      }
      read_line(line);
      RawStatement& s = statements_.back();
      if (s.tokens.size() > 1 && s.tokens.front().text == "table" &&
          s.tokens.back().kind == TokenKind::word && s.tokens.back().text == "rows") {
        in_block = true;
        s.block_line = line_ + 1;
      }
    }
    finish();
    return std::move(statements_);
  }

 private:
  void complain(std::size_t column, std::string message) {
    notes_.error({file_, line_, static_cast<int>(column) + 1, std::move(message), false});
  }

  void finish() {
    if (!open_) return;
    RawStatement& s = statements_.back();
    Token end;
    end.at = s.tokens.empty() ? Position{line_, 1} : last_end_;
    s.tokens.push_back(end);
    open_ = false;
  }

  void read_line(std::string_view line) {
    RawStatement& s = statements_.back();
    std::size_t at = 0;
    bool space = true;
    while (at < line.size() && line[at] != '#') {
      if (line[at] == ' ' || line[at] == '\t') {
        ++at;
        space = true;
        continue;
      }
      const std::size_t begin = at;
      Token token;
      token.at = {line_, static_cast<int>(begin) + 1};
      if (!read_token(line, at, token)) continue;
      if (space && !s.stated.empty()) s.stated += ' ';
      space = false;
      s.stated += line.substr(begin, at - begin);
      last_end_ = {line_, static_cast<int>(at) + 1};
      s.tokens.push_back(std::move(token));
    }
  }

  bool read_token(std::string_view line, std::size_t& at, Token& token) {
    const char c = line[at];
    if (letter(c)) {
      const std::size_t begin = at;
      while (at < line.size() && (letter(line[at]) || digit(line[at]))) ++at;
      token.kind = TokenKind::word;
      token.text = std::string(line.substr(begin, at - begin));
      return true;
    }
    if (digit(c) || (c == '.' && at + 1 < line.size() && digit(line[at + 1])))
      return read_number(line, at, token);
    if (c == '"') return read_text(line, at, token);
    token.kind = TokenKind::symbol;
    static constexpr std::pair<std::string_view, std::string_view> kOtherwise[] = {
        {"==", "="},   {"=<", "<="}, {"=>", "implies"}, {"->", "implies"},
        {"&&", "and"}, {"||", "or"}, {"<>", "!="},      {"**", "^"}};
    for (const auto& [sign, ours] : kOtherwise)
      if (line.substr(at).starts_with(sign)) {
        complain(at, fmt::format("'{}' is written here as {}", sign, ours));
        at += sign.size();
        return false;
      }
    for (const std::string_view two : {"<=", ">=", "!=", ".."})
      if (line.substr(at).starts_with(two)) {
        token.text = std::string(two);
        at += 2;
        return true;
      }
    if (std::string_view("+-*/^()[],:.=<>%").find(c) != std::string_view::npos) {
      token.text.assign(1, c);
      ++at;
      return true;
    }
    std::size_t length = 1;  // a whole character of UTF-8
    while (at + length < line.size() &&
           (static_cast<unsigned char>(line[at + length]) & 0xC0) == 0x80)
      ++length;
    complain(
        at,
        fmt::format(
            "'{}' has no meaning here; a name with other than letters, digits and _ goes in quotes",
            line.substr(at, length)));
    at += length;
    return false;
  }

  bool read_number(std::string_view line, std::size_t& at, Token& token) {
    const std::size_t begin = at;
    while (at < line.size() && digit(line[at])) ++at;
    if (at < line.size() && line[at] == '.' && !line.substr(at).starts_with("..")) {
      ++at;
      while (at < line.size() && digit(line[at])) ++at;
    }
    if (at < line.size() && (line[at] == 'e' || line[at] == 'E')) {
      std::size_t next = at + 1;
      if (next < line.size() && (line[next] == '+' || line[next] == '-')) ++next;
      if (next < line.size() && digit(line[next])) {
        at = next;
        while (at < line.size() && digit(line[at])) ++at;
      }
    }
    while (at < line.size() && (letter(line[at]) || digit(line[at])))
      ++at;  // 12abc is one mistake, not two tokens
    const std::string_view figure = line.substr(begin, at - begin);
    const std::optional<Rational> value = Rational::parse(figure);
    if (!value) {
      complain(begin, fmt::format("'{}' is not a figure", figure));
      return false;
    }
    token.kind = TokenKind::number;
    token.text = std::string(figure);
    token.value = *value;
    return true;
  }

  bool read_text(std::string_view line, std::size_t& at, Token& token) {
    const std::size_t begin = at++;
    token.kind = TokenKind::text;
    while (at < line.size()) {
      if (line[at] == '"') {
        if (at + 1 >= line.size() || line[at + 1] != '"') {
          ++at;
          return true;
        }
        ++at;
      }
      token.text += line[at++];
    }
    complain(begin, "a quote is opened and not closed on its line");
    return false;
  }

  std::string_view text_;
  const std::string& file_;
  Diagnostics& notes_;
  std::vector<RawStatement> statements_;
  bool open_ = false;
  int line_ = 0;
  Position last_end_;
};

}  // namespace

bool function(std::string_view word) {
  return std::find(kFunctions.begin(), kFunctions.end(), word) != kFunctions.end();
}

bool reserved(std::string_view word) {
  return std::find(kReserved.begin(), kReserved.end(), word) != kReserved.end();
}

std::vector<RawStatement> lex(std::string_view text, const std::string& file, Diagnostics& notes) {
  return Lexer(text, file, notes).run();
}

}  // namespace kiteknot::formats::knot
