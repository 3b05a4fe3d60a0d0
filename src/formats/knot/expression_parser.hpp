#pragma once
// Reads expressions and conditions from the tokens of a statement; statements build on it.

#include "formats/knot/lexer.hpp"
#include "formats/knot/syntax.hpp"

namespace kiteknot::formats::knot {

/// What ends the reading of a statement.
struct ParseFailure {
  Position at;
  std::string message;
};

class ExpressionParser {
 public:
  explicit ExpressionParser(RawStatement raw) : raw_(std::move(raw)) {}

 protected:
  [[noreturn]] static void fail(Position at, std::string message) {
    throw ParseFailure{at, std::move(message)};
  }
  [[noreturn]] void unexpected(std::string_view expected) const;
  [[nodiscard]] const Token& peek(std::size_t ahead = 0) const {
    return raw_.tokens[std::min(next_ + ahead, raw_.tokens.size() - 1)];
  }
  Token take() { return raw_.tokens[std::min(next_++, raw_.tokens.size() - 1)]; }
  [[nodiscard]] bool at_symbol(std::string_view s) const {
    return peek().kind == TokenKind::symbol && peek().text == s;
  }
  [[nodiscard]] bool at_word(std::string_view w, std::size_t ahead = 0) const {
    return peek(ahead).kind == TokenKind::word && peek(ahead).text == w;
  }
  bool take_symbol(std::string_view s) { return at_symbol(s) && (++next_, true); }
  bool take_word(std::string_view w) { return at_word(w) && (++next_, true); }
  void need_symbol(std::string_view s);
  void need_the_word(std::string_view w);
  Token need_word(std::string_view what);
  Token need_name(std::string_view what);
  Token need_column();

  NodePtr parse_condition();   // anything, iff binding loosest
  NodePtr parse_expression();  // no comparison
  std::vector<RowName> parse_rows();

  RawStatement raw_;

 private:
  NodePtr parse_implies();
  NodePtr parse_or();
  NodePtr parse_xor();
  NodePtr parse_and();
  NodePtr parse_not();
  NodePtr parse_comparison();
  NodePtr parse_product();
  NodePtr parse_sign();
  NodePtr parse_power();
  NodePtr parse_operand();
  NodePtr parse_total(Position at, NodeKind kind);
  NodePtr parse_number_of(Position at);
  NodePtr parse_count_of();
  NodePtr parse_choice(Position at);
  NodePtr parse_reference();
  NodePtr parse_row_function();
  static NodePtr distance(NodePtr node);
  NodePtr parse_cells(NodePtr row);
  [[nodiscard]] bool at_comparison() const;
  [[nodiscard]] bool at_count() const;

  static NodePtr make(NodeKind kind, Position at);
  static NodePtr joined(NodeKind kind, Position at, NodePtr left, NodePtr right);
  static NodePtr around(NodeKind kind, Position at, NodePtr inner);
  static void append(NodeKind kind, Position at, NodePtr& chain, bool& open, NodePtr next);

  // Counts nested calls, so that deep text ends in a message and not in a full stack.
  struct Depth {
    explicit Depth(ExpressionParser& p);
    ~Depth() { --parser.depth_; }
    Depth(const Depth&) = delete;
    Depth& operator=(const Depth&) = delete;
    ExpressionParser& parser;
  };

  std::size_t next_ = 0;
  int depth_ = 0;
};

}  // namespace kiteknot::formats::knot
