#include "formats/knot/parser.hpp"

#include <fmt/format.h>

#include "formats/knot/messages.hpp"

namespace kiteknot::formats::knot {
namespace {

struct Failure {
  Position at;
  std::string message;
};

constexpr int kMostTerms = 5000;  // in one written sum
constexpr int kDeepest = 200;     // levels of nesting

class StatementParser {
 public:
  explicit StatementParser(RawStatement raw) : raw_(std::move(raw)) {}

  Statement run() {
    Statement& s = statement_;
    s.at = peek().at;
    s.stated = raw_.stated;
    const Token first = need_word("a statement");
    if (first.text == "model")
      parse_model(s);
    else if (first.text == "table")
      parse_table(s);
    else if (first.text == "column")
      parse_column(s);
    else if (first.text == "number")
      parse_number(s);
    else if (first.text == "decide")
      parse_decide(s);
    else if (first.text == "let")
      parse_let(s);
    else if (first.text == "minimize" || first.text == "maximize")
      parse_goal(s, first.text == "maximize");
    else if (first.text == "rule")
      parse_rule(s);
    else if (first.text == "curve" || first.text == "scenario")
      fail(first.at, messages::not_read_yet(first.text));
    else
      fail(first.at, messages::unknown_statement(first.text));
    if (peek().kind != TokenKind::end) unexpected("the end of the statement");
    return std::move(s);
  }

  /// After a failure: what its name was, so that later uses of it are not complained about too.
  Statement rest() {
    statement_.broken = true;
    return std::move(statement_);
  }

 private:
  [[noreturn]] static void fail(Position at, std::string message) {
    throw Failure{at, std::move(message)};
  }
  [[noreturn]] void unexpected(std::string_view expected) const {
    fail(peek().at, messages::expected(expected, peek()));
  }
  [[nodiscard]] const Token& peek(std::size_t ahead = 0) const {
    return raw_.tokens[std::min(next_ + ahead, raw_.tokens.size() - 1)];
  }
  Token take() { return raw_.tokens[std::min(next_++, raw_.tokens.size() - 1)]; }
  [[nodiscard]] bool at_symbol(std::string_view s) const {
    return peek().kind == TokenKind::symbol && peek().text == s;
  }
  [[nodiscard]] bool at_word(std::string_view w) const {
    return peek().kind == TokenKind::word && peek().text == w;
  }
  bool take_symbol(std::string_view s) { return at_symbol(s) && (++next_, true); }
  bool take_word(std::string_view w) { return at_word(w) && (++next_, true); }
  void need_symbol(std::string_view s) {
    if (!take_symbol(s)) unexpected(fmt::format("'{}'", s));
  }
  Token need_word(std::string_view what) {
    if (peek().kind != TokenKind::word) unexpected(what);
    return take();
  }
  Token need_name(std::string_view what) {
    if (peek().kind == TokenKind::word && reserved(peek().text))
      fail(peek().at, messages::reserved_word(peek().text, what));
    return need_word(fmt::format("a name for {}", what));
  }
  Token need_column() {
    if (peek().kind != TokenKind::word && peek().kind != TokenKind::text)
      unexpected("a column name");
    return take();
  }

  void parse_model(Statement& s) {
    s.kind = StatementKind::model;
    if (peek().kind != TokenKind::text) unexpected("the model's title in quotes");
    const Token title = take();
    s.heading.name = title.text;
    s.heading.at = title.at;
  }

  void parse_table(Statement& s) {
    s.kind = StatementKind::table;
    const Token name = need_name("a table");
    s.heading.name = name.text;
    s.heading.at = name.at;
    if (at_word("pairs") || at_word("product"))
      fail(peek().at, messages::not_read_yet(peek().text));
    if (take_word("from")) {
      if (peek().kind != TokenKind::text) unexpected("a file name in quotes");
      s.file_at = peek().at;
      s.file = take().text;
      if (s.file.empty()) fail(s.file_at, "the file name is empty");
    }
    if (!take_word("key"))
      unexpected(s.file.empty() ? "'from \"file.csv\"' or 'key'" : "'key' and the key columns");
    parse_keys(s.keys);
    if (take_word("refers")) parse_keys(s.refers);
    if (at_word("ordered")) fail(peek().at, messages::not_read_yet("ordered"));
    const bool rows = take_word("rows");
    if (rows != s.file.empty())
      fail(peek().at, rows ? "a table comes from a file or from rows here, not from both"
                           : "a table needs 'from \"file.csv\"', or 'rows' with its lines below");
    s.block = std::move(raw_.block);
    s.block_line = raw_.block_line;
  }

  void parse_keys(std::vector<KeyName>& keys) {
    do {
      const Token column = need_column();
      KeyName key{column.text, "", column.at, {}};
      if (take_word("in")) {
        const Token table = need_name("a table");
        key.table = table.text;
        key.table_at = table.at;
      }
      keys.push_back(std::move(key));
    } while (take_symbol(","));
  }

  void parse_column(Statement& s) {
    s.kind = StatementKind::column;
    const Token table = need_name("a table");
    s.table = table.text;
    need_symbol(".");
    const Token name = need_column();
    s.heading.name = name.text;
    s.heading.at = name.at;
    need_symbol("=");
    s.body = parse_expression();
  }

  void parse_number(Statement& s) {
    s.kind = StatementKind::number;
    const Token name = need_name("a number");
    s.heading.name = name.text;
    s.heading.at = name.at;
    need_symbol("=");
    s.body = parse_expression();
  }

  void parse_heading(Heading& h, std::string_view what) {
    const Token name = need_name(what);
    h.name = name.text;
    h.at = name.at;
    if (!take_symbol("[")) return;
    h.rows = parse_rows();
    if (take_word("where")) h.where = parse_any();
    need_symbol("]");
  }

  std::vector<RowName> parse_rows() {
    std::vector<RowName> rows;
    do {
      const Token row = need_name("a row");
      if (!take_word("in")) unexpected(fmt::format("'in' and the table of {}", row.text));
      const Token table = need_name("a table");
      rows.push_back({row.text, table.text, row.at, table.at});
    } while (take_symbol(","));
    return rows;
  }

  void parse_decide(Statement& s) {
    s.kind = StatementKind::decide;
    parse_heading(s.heading, "decisions");
    if (take_word("binary")) return;
    if (at_word("one")) fail(peek().at, messages::not_read_yet("one of"));
    if (!at_word("integer") && !at_word("real"))
      unexpected("'binary', 'integer LO .. HI' or 'real LO .. HI'");
    s.integer = take().text == "integer";
    s.bounded = true;
    if (peek().kind == TokenKind::end)
      fail(peek().at, fmt::format("the bounds of {} are missing: {} LO .. HI (inf is allowed)",
                                  s.heading.name, s.integer ? "integer" : "real"));
    s.low = parse_expression();
    need_symbol("..");
    s.high = parse_expression();
    if (at_word("or")) fail(peek().at, messages::not_read_yet("0 or LO .. HI"));
  }

  void parse_let(Statement& s) {
    s.kind = StatementKind::let;
    parse_heading(s.heading, "an expression");
    need_symbol("=");
    s.body = parse_expression();
  }

  void parse_goal(Statement& s, bool maximize) {
    s.kind = StatementKind::goal;
    s.sense = maximize ? Sense::maximize : Sense::minimize;
    const Token name = need_name("the goal");
    s.heading.name = name.text;
    s.heading.at = name.at;
    if (at_word("yielding")) fail(peek().at, messages::not_read_yet("yielding"));
    need_symbol(":");
    s.body = parse_expression();
  }

  void parse_rule(Statement& s) {
    s.kind = StatementKind::rule;
    parse_heading(s.heading, "a rule");
    if (at_word("off")) fail(peek().at, messages::not_read_yet("off"));
    need_symbol(":");
    s.body = parse_any();
    if (at_word("or")) unexpected("the end of the rule");
  }

  // or < and < not < comparison < sum < product < sign < operand
  NodePtr parse_any() {
    const Depth guard(*this);
    NodePtr left = parse_and();
    while (at_word("or") || at_word("xor") || at_word("implies") || at_word("iff")) {
      if (!at_word("or")) fail(peek().at, messages::not_read_yet(peek().text));
      if (peek(1).kind == TokenKind::word && peek(1).text == "pay")
        fail(peek().at, messages::not_read_yet("or pay"));
      const Position at = take().at;
      left = joined(NodeKind::either, at, std::move(left), parse_and());
    }
    return left;
  }

  NodePtr parse_and() {
    NodePtr left = parse_not();
    while (at_word("and")) {
      const Position at = take().at;
      left = joined(NodeKind::both, at, std::move(left), parse_not());
    }
    return left;
  }

  NodePtr parse_not() {
    const Depth guard(*this);
    if (!at_word("not")) return parse_comparison();
    NodePtr node = make(NodeKind::inverse, take().at);
    node->args.push_back(parse_not());
    return node;
  }

  [[nodiscard]] bool at_comparison() const {
    if (peek().kind != TokenKind::symbol) return false;
    for (const std::string_view s : {"<=", ">=", "=", "!=", "<", ">"})
      if (peek().text == s) return true;
    return false;
  }

  NodePtr parse_comparison() {
    NodePtr left = parse_expression();
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

  NodePtr parse_expression() {
    const Depth guard(*this);
    NodePtr left = parse_product();
    for (int terms = 1; at_symbol("+") || at_symbol("-"); ++terms) {
      if (terms >= kMostTerms) fail(peek().at, messages::too_many_terms(kMostTerms));
      const Token op = take();
      left = joined(op.text == "+" ? NodeKind::add : NodeKind::subtract, op.at, std::move(left),
                    parse_product());
    }
    return left;
  }

  NodePtr parse_product() {
    NodePtr left = parse_sign();
    while (at_symbol("*") || at_symbol("/")) {
      const Token op = take();
      left = joined(op.text == "*" ? NodeKind::multiply : NodeKind::divide, op.at, std::move(left),
                    parse_sign());
    }
    return left;
  }

  NodePtr parse_sign() {
    const Depth guard(*this);
    if (take_symbol("+")) return parse_sign();
    if (!at_symbol("-")) return parse_operand();
    NodePtr node = make(NodeKind::negate, take().at);
    node->args.push_back(parse_sign());
    return node;
  }

  NodePtr parse_operand() {
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
      NodePtr inside = parse_any();
      need_symbol(")");
      return inside;
    }
    if (take_word("inf")) return make(NodeKind::infinity, t.at);
    if (take_word("total")) return parse_total(t.at);
    if (t.kind == TokenKind::word && reserved(t.text) && peek(1).text == "(")
      fail(t.at, messages::not_read_yet(t.text));
    if (t.kind != TokenKind::word || reserved(t.text)) unexpected("an expression");
    return parse_reference();
  }

  // total(e over r in T, ... where c)
  NodePtr parse_total(Position at) {
    NodePtr node = make(NodeKind::total, at);
    need_symbol("(");
    node->args.push_back(parse_expression());
    if (!take_word("over")) unexpected("'over' and the rows of the total");
    node->rows = parse_rows();
    if (take_word("where")) node->args.push_back(parse_any());
    need_symbol(")");
    return node;
  }

  // name, name[...], name.column.column
  NodePtr parse_reference() {
    const Token name = take();
    NodePtr node = make(NodeKind::name, name.at);
    node->text = name.text;
    if (take_symbol("[")) {
      node->kind = NodeKind::member;
      do node->args.push_back(parse_expression());
      while (take_symbol(","));
      need_symbol("]");
      return node;
    }
    while (at_symbol(".")) {
      ++next_;
      const Token column = need_column();
      NodePtr outer = make(NodeKind::cell, column.at);
      outer->text = column.text;
      outer->args.push_back(std::move(node));
      node = std::move(outer);
    }
    return node;
  }

  static NodePtr make(NodeKind kind, Position at) {
    auto node = std::make_unique<Node>();
    node->kind = kind;
    node->at = at;
    return node;
  }
  static NodePtr joined(NodeKind kind, Position at, NodePtr left, NodePtr right) {
    NodePtr node = make(kind, at);
    node->args.push_back(std::move(left));
    node->args.push_back(std::move(right));
    return node;
  }

  // Counts nested calls, so that deep text ends in a message and not in a full stack.
  struct Depth {
    explicit Depth(StatementParser& p) : parser(p) {
      if (++parser.depth_ > kDeepest) fail(parser.peek().at, messages::nested_too_deep(kDeepest));
    }
    ~Depth() { --parser.depth_; }
    Depth(const Depth&) = delete;
    Depth& operator=(const Depth&) = delete;
    StatementParser& parser;
  };

  RawStatement raw_;
  Statement statement_;
  std::size_t next_ = 0;
  int depth_ = 0;
};

}  // namespace

std::vector<Statement> parse(std::vector<RawStatement> statements, const std::string& file,
                             Diagnostics& notes) {
  std::vector<Statement> parsed;
  for (RawStatement& raw : statements) {
    StatementParser parser(std::move(raw));
    try {
      parsed.push_back(parser.run());
    } catch (const Failure& f) {
      notes.error({file, f.at.line, f.at.column, f.message, false});
      Statement rest = parser.rest();
      if (!rest.heading.name.empty()) parsed.push_back(std::move(rest));
    }
  }
  return parsed;
}

}  // namespace kiteknot::formats::knot
