#include "formats/knot/expression_parser.hpp"

#include <algorithm>
#include <array>

#include <fmt/format.h>

#include "formats/knot/messages.hpp"

namespace kiteknot::formats::knot {
namespace {

constexpr int kMostTerms = 5000;  // in one written sum, product, 'and', 'or'
constexpr int kMostXor = 50;      // in one chain, which nests
constexpr int kDeepest = 200;     // levels of nesting

}  // namespace

void ExpressionParser::unexpected(std::string_view expected) const {
  fail(peek().at, messages::expected(expected, peek()));
}
void ExpressionParser::need_symbol(std::string_view s) {
  if (!take_symbol(s)) unexpected(fmt::format("'{}'", s));
}
void ExpressionParser::need_the_word(std::string_view w) {
  if (!take_word(w)) unexpected(fmt::format("'{}'", w));
}
Token ExpressionParser::need_word(std::string_view what) {
  if (peek().kind != TokenKind::word) unexpected(what);
  return take();
}
Token ExpressionParser::need_name(std::string_view what) {
  if (peek().kind == TokenKind::word && reserved(peek().text))
    fail(peek().at, messages::reserved_word(peek().text, what));
  return need_word(fmt::format("a name for {}", what));
}
Token ExpressionParser::need_column() {
  if (peek().kind != TokenKind::word && peek().kind != TokenKind::text) unexpected("a column name");
  return take();
}

ExpressionParser::Depth::Depth(ExpressionParser& p) : parser(p) {
  if (++parser.depth_ > kDeepest) fail(parser.peek().at, messages::nested_too_deep(kDeepest));
}

NodePtr ExpressionParser::make(NodeKind kind, Position at) {
  auto node = std::make_unique<SyntaxNode>();
  node->kind = kind;
  node->at = at;
  return node;
}
NodePtr ExpressionParser::joined(NodeKind kind, Position at, NodePtr left, NodePtr right) {
  NodePtr node = make(kind, at);
  node->args.push_back(std::move(left));
  node->args.push_back(std::move(right));
  return node;
}

NodePtr ExpressionParser::around(NodeKind kind, Position at, NodePtr inner) {
  NodePtr node = make(kind, at);
  node->args.push_back(std::move(inner));
  return node;
}

std::vector<RowName> ExpressionParser::parse_rows() {
  std::vector<RowName> rows;
  do {
    const Token row = need_name("a row");
    if (!take_word("in")) unexpected(fmt::format("'in' and the table of {}", row.text));
    const Token table = need_name("a table");
    rows.push_back({row.text, table.text, row.at, table.at});
  } while (take_symbol(","));
  return rows;
}

// iff < implies < or < xor < and < not < comparison < sum < product < sign < power < operand
NodePtr ExpressionParser::parse_condition() {
  const Depth guard(*this);
  NodePtr left = parse_implies();
  if (!at_word("iff")) return left;
  const Position at = take().at;
  NodePtr node = joined(NodeKind::same, at, std::move(left), parse_implies());
  if (at_word("iff"))
    fail(peek().at, "'iff' is not chained; say with brackets which two conditions are meant");
  return node;
}

NodePtr ExpressionParser::parse_implies() {
  const Depth guard(*this);
  NodePtr left = parse_or();
  if (!at_word("implies")) return left;
  const Position at = take().at;
  return joined(NodeKind::implies, at, std::move(left), parse_implies());
}

// Long chains are one node with many parts, so that no tree is deeper than its text is nested.
void ExpressionParser::append(NodeKind kind, Position at, NodePtr& chain, bool& open,
                              NodePtr next) {
  if (!open)
    chain = joined(kind, at, std::move(chain), std::move(next));
  else if (chain->args.size() >= kMostTerms)
    fail(at, messages::too_many_terms(kMostTerms));
  else
    chain->args.push_back(std::move(next));
  open = true;
}

NodePtr ExpressionParser::parse_or() {
  NodePtr left = parse_xor();
  bool open = false;
  while (at_word("or") && !at_word("pay", 1)) {
    const Position at = take().at;
    append(NodeKind::either, at, left, open, parse_xor());
  }
  return left;
}

NodePtr ExpressionParser::parse_xor() {
  NodePtr left = parse_and();
  for (int parts = 1; at_word("xor"); ++parts) {
    if (parts >= kMostXor) fail(peek().at, messages::too_many_terms(kMostXor));
    const Position at = take().at;
    left = joined(NodeKind::exclusive, at, std::move(left), parse_and());
  }
  return left;
}

NodePtr ExpressionParser::parse_and() {
  NodePtr left = parse_not();
  bool open = false;
  while (at_word("and")) {
    const Position at = take().at;
    append(NodeKind::both, at, left, open, parse_not());
  }
  return left;
}

NodePtr ExpressionParser::parse_not() {
  const Depth guard(*this);
  if (at_count()) return parse_count_of();
  if (!at_word("not")) return parse_comparison();
  NodePtr node = make(NodeKind::inverse, take().at);
  node->args.push_back(parse_not());
  return node;
}

// "at most N of", "at least N of", "exactly N of": 'at' and 'exactly' may also be names.
bool ExpressionParser::at_count() const {
  const bool starts =
      (at_word("at") && (at_word("most", 1) || at_word("least", 1))) ||
      (at_word("exactly") && (peek(1).kind == TokenKind::number ||
                              (peek(1).kind == TokenKind::word && !reserved(peek(1).text))));
  return starts;
}

NodePtr ExpressionParser::parse_count_of() {
  NodePtr node = make(NodeKind::count_of, peek().at);
  node->text = take().text == "exactly" ? "exactly" : take().text;
  node->args.push_back(parse_expression());
  need_the_word("of");
  need_symbol("(");
  node->args.push_back(parse_condition());
  if (take_word("over")) {
    node->rows = parse_rows();
    if (take_word("where")) node->args.push_back(parse_condition());
  } else {
    while (take_symbol(",")) node->args.push_back(parse_condition());
  }
  need_symbol(")");
  return node;
}

bool ExpressionParser::at_comparison() const {
  if (peek().kind != TokenKind::symbol) return false;
  const auto symbols = {"<=", ">=", "=", "!=", "<", ">"};
  return std::any_of(symbols.begin(), symbols.end(),
                     [&](const char* s) { return peek().text == s; });
}

NodePtr ExpressionParser::parse_comparison() {
  NodePtr left = parse_expression();
  if (left->kind == NodeKind::name && at_word("has")) {
    NodePtr node = make(NodeKind::has, take().at);
    node->text = left->text;
    const bool brackets = take_symbol("(");
    do node->args.push_back(parse_expression());
    while (brackets && take_symbol(","));
    if (brackets) need_symbol(")");
    return node;
  }
  if (at_word("is") && (at_word("empty", 1) || at_word("given", 1))) {
    const Position at = take().at;
    NodePtr node = joined(NodeKind::compare, at, std::move(left), make(NodeKind::text, at));
    node->text = take().text == "empty" ? "=" : "!=";
    return node;
  }
  if (!at_comparison()) return left;
  const Token op = take();
  NodePtr node = joined(NodeKind::compare, op.at, std::move(left), parse_expression());
  node->text = op.text;
  if (!at_comparison()) return node;
  const Token second = take();
  if (op.text != "<=" || second.text != "<=")
    fail(second.at, "two comparisons in one rule are read only as LOW <= expression <= HIGH");
  node->kind = NodeKind::range;
  node->args.push_back(parse_expression());
  if (at_comparison()) unexpected("the end of the comparison");
  return node;
}

NodePtr ExpressionParser::parse_expression() {
  const Depth guard(*this);
  NodePtr left = parse_product();
  bool open = false;
  while (at_symbol("+") || at_symbol("-")) {
    const Token op = take();
    NodePtr next = parse_product();
    if (op.text == "-") next = around(NodeKind::negate, op.at, std::move(next));
    append(NodeKind::add, op.at, left, open, std::move(next));
  }
  return left;
}

NodePtr ExpressionParser::parse_product() {
  NodePtr left = parse_sign();
  bool open = false;
  while (at_symbol("*") || at_symbol("/")) {
    const Token op = take();
    NodePtr next = parse_sign();
    if (op.text == "/") next = around(NodeKind::divide, op.at, std::move(next));
    append(NodeKind::multiply, op.at, left, open, std::move(next));
  }
  return left;
}

NodePtr ExpressionParser::parse_sign() {
  const Depth guard(*this);
  if (take_symbol("+")) return parse_sign();
  if (!at_symbol("-")) return parse_power();
  const Position at = take().at;
  return around(NodeKind::negate, at, parse_sign());
}

// Of a chain the last power comes first; its exponent may have a sign.
NodePtr ExpressionParser::parse_power() {
  NodePtr base = parse_operand();
  if (!at_symbol("^")) return base;
  const Position at = take().at;
  return joined(NodeKind::power, at, std::move(base), parse_sign());
}

NodePtr ExpressionParser::parse_operand() {
  const Token t = peek();
  if (t.kind == TokenKind::number) {
    ++next_;
    NodePtr node = make(NodeKind::number, t.at);
    node->value = t.value;
    return node;
  }
  if (t.kind == TokenKind::text) {
    ++next_;
    NodePtr node = make(NodeKind::text, t.at);
    node->text = t.text;
    return node;
  }
  if (take_symbol("(")) {
    NodePtr inside = parse_condition();
    need_symbol(")");
    return inside;
  }
  if (take_word("inf")) return make(NodeKind::infinity, t.at);
  if (take_word("if")) return parse_choice(t.at);
  const bool bracket = peek(1).kind == TokenKind::symbol && peek(1).text == "(";
  if (t.kind == TokenKind::word && function(t.text) && !bracket) return parse_reference();
  if (take_word("total")) return parse_total(t.at, NodeKind::total);
  if (take_word("count")) return parse_number_of(t.at);
  if (at_word("largest") || at_word("smallest")) {
    ++next_;
    NodePtr node = parse_total(t.at, NodeKind::extreme);
    node->text = t.text;
    return node;
  }
  static constexpr std::string_view kFunctions[] = {"min", "max",   "abs",   "sqrt", "exp",
                                                    "log", "round", "floor", "ceil"};
  if (t.kind == TokenKind::word &&
      std::find(std::begin(kFunctions), std::end(kFunctions), t.text) != std::end(kFunctions)) {
    ++next_;
    NodePtr node = make(NodeKind::apply, t.at);
    node->text = t.text;
    need_symbol("(");
    do node->args.push_back(parse_expression());
    while (take_symbol(","));
    need_symbol(")");
    return node;
  }
  if (t.kind != TokenKind::word || reserved(t.text)) unexpected("an expression");
  return parse_reference();
}

// total(e over r in T, ... where c), and largest and smallest alike
NodePtr ExpressionParser::parse_total(Position at, NodeKind kind) {
  NodePtr node = make(kind, at);
  need_symbol("(");
  node->args.push_back(parse_expression());
  if (!take_word("over"))
    unexpected(
        fmt::format("'over' and the rows of the {}", kind == NodeKind::total ? "total" : "choice"));
  node->rows = parse_rows();
  if (take_word("where")) node->args.push_back(parse_condition());
  need_symbol(")");
  return node;
}

NodePtr ExpressionParser::parse_number_of(Position at) {
  NodePtr node = make(NodeKind::number_of, at);
  need_symbol("(");
  need_the_word("over");
  node->rows = parse_rows();
  if (take_word("where")) node->args.push_back(parse_condition());
  need_symbol(")");
  return node;
}

NodePtr ExpressionParser::parse_choice(Position at) {
  const Depth guard(*this);
  NodePtr node = make(NodeKind::choice, at);
  node->args.push_back(parse_condition());
  need_the_word("then");
  node->args.push_back(parse_expression());
  need_the_word("else");
  node->args.push_back(parse_expression());
  return node;
}

// name, name[...], name(...), name.column.column, before(name).column, first(name)
NodePtr ExpressionParser::parse_reference() {
  if (peek(1).kind == TokenKind::symbol && peek(1).text == "(") return parse_row_function();
  const Token name = take();
  NodePtr node = make(NodeKind::name, name.at);
  node->text = name.text;
  if (take_symbol("[")) {
    node->kind = NodeKind::member;
    do node->args.push_back(parse_expression());
    while (take_symbol(","));
    need_symbol("]");
  }
  return parse_cells(std::move(node));
}

NodePtr ExpressionParser::parse_cells(NodePtr node) {
  for (int steps = 0; at_symbol("."); ++steps) {
    if (steps >= kDeepest) fail(peek().at, messages::nested_too_deep(kDeepest));
    ++next_;
    const Token column = need_column();
    NodePtr outer = make(NodeKind::cell, column.at);
    outer->text = column.text;
    outer->args.push_back(std::move(node));
    node = std::move(outer);
  }
  return node;
}

// before(w), after(w), first(w), last(w), or a curve
NodePtr ExpressionParser::parse_row_function() {
  const Token name = take();
  need_symbol("(");
  const bool beside = name.text == "before" || name.text == "after";
  const bool end = name.text == "first" || name.text == "last";
  NodePtr node =
      make(beside ? NodeKind::beside : (end ? NodeKind::at_end : NodeKind::apply), name.at);
  node->text = name.text;
  node->args.push_back(parse_expression());
  if (!beside && !end && at_word("over"))
    fail(name.at,
         fmt::format("{} is not taken over rows{}", name.text, messages::said_here_as(name.text)));
  while (!beside && !end && take_symbol(",")) node->args.push_back(parse_expression());
  need_symbol(")");
  if (node->text == "distance" && node->args.size() == 3) return distance(std::move(node));
  return beside ? parse_cells(std::move(node)) : std::move(node);
}

namespace {

NodePtr copy_of(const SyntaxNode& node) {
  auto copy = std::make_unique<SyntaxNode>();
  copy->kind = node.kind;
  copy->at = node.at;
  copy->text = node.text;
  copy->value = node.value;
  copy->rows = node.rows;
  for (const NodePtr& arg : node.args) copy->args.push_back(copy_of(*arg));
  return copy;
}

}  // namespace

// distance(a, b, plane) reads a.x, b.x, a.y and b.y; distance(a, b, earth) lat and lon.
NodePtr ExpressionParser::distance(NodePtr node) {
  const SyntaxNode& how = *node->args[2];
  const bool plane = how.kind == NodeKind::name && how.text == "plane";
  if (!plane && (how.kind != NodeKind::name || how.text != "earth"))
    fail(how.at,
         "a distance is taken on the plane (x, y) or on the earth (lat, lon): "
         "distance(a, b, plane)");
  NodePtr made = make(NodeKind::apply, node->at);
  made->text = plane ? "distance on the plane" : "distance on the earth";
  for (const char* column : plane ? std::array{"x", "y"} : std::array{"lat", "lon"})
    for (const std::size_t row : {0u, 1u}) {
      NodePtr cell = make(NodeKind::cell, node->args[row]->at);
      cell->text = column;
      cell->args.push_back(copy_of(*node->args[row]));
      made->args.push_back(std::move(cell));
    }
  return made;
}

}  // namespace kiteknot::formats::knot
