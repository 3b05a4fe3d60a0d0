#include "formats/knot/parser.hpp"

#include <fmt/format.h>

#include "formats/knot/expression_parser.hpp"
#include "formats/knot/messages.hpp"

namespace kiteknot::formats::knot {
namespace {

class StatementParser final : ExpressionParser {
 public:
  using ExpressionParser::ExpressionParser;

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
    else if (first.text == "curve")
      parse_curve(s);
    else if (first.text == "scenario")
      parse_scenario(s);
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
  void parse_model(Statement& s) {
    s.text.emplace<ModelText>();
    if (peek().kind != TokenKind::text) unexpected("the model's title in quotes");
    const Token title = take();
    s.heading.name = title.text;
    s.heading.at = title.at;
  }

  void parse_table(Statement& s) {
    auto& t = s.text.emplace<TableText>();
    const Token name = need_name("a table");
    s.heading.name = name.text;
    s.heading.at = name.at;
    if (at_word("pairs") || at_word("product")) return parse_combined(s, t);
    if (take_word("from")) {
      if (peek().kind != TokenKind::text) unexpected("a file name in quotes");
      t.file_at = peek().at;
      t.file = take().text;
      if (t.file.empty()) fail(t.file_at, "the file name is empty");
      if (take_word("query")) {
        if (peek().kind != TokenKind::text) unexpected("a query in quotes");
        t.query = take().text;
      }
    }
    if (!take_word("key"))
      unexpected(t.file.empty() ? "'from \"file.csv\"' or 'key'" : "'key' and the key columns");
    parse_keys(t.keys);
    if (take_word("across")) {
      t.across = parse_key();
      need_the_word("as");
      t.across_as = need_column().text;
    }
    if (take_word("refers")) parse_keys(t.refers);
    t.ordered = take_word("ordered");
    if (take_word("decimal")) {
      const bool comma = take_word("comma");
      if (!comma && !take_word("point")) unexpected("'comma' or 'point'");
      t.decimal = comma ? DecimalMark::comma : DecimalMark::point;
    }
    const bool rows = take_word("rows");
    if (rows != t.file.empty())
      fail(peek().at, rows ? "a table comes from a file or from rows here, not from both"
                           : "a table needs 'from \"file.csv\"', or 'rows' with its lines below");
    t.block = std::move(raw_.block);
    t.block_line = raw_.block_line;
  }

  // pairs of TABLE, product of T1, T2, each with an optional where
  void parse_combined(Statement& s, TableText& t) {
    t.combined = take().text;
    need_the_word("of");
    do {
      const Token table = need_name("a table");
      t.of.push_back({table.text, table.text, table.at, table.at});
    } while (take_symbol(","));
    const bool pairs = t.combined == "pairs";
    if (pairs != (t.of.size() == 1))
      fail(t.of[0].at,
           pairs ? "pairs are made of one table" : "a product is made of two tables or more");
    if (pairs) {
      t.of.push_back(t.of[0]);
      t.of[0].row = "a";
      t.of[1].row = "b";
    }
    if (take_word("where")) s.heading.where = parse_condition();
  }

  // COLUMN [in TABLE]
  KeyName parse_key() {
    const Token column = need_column();
    KeyName key{column.text, "", column.at, {}};
    if (take_word("in")) {
      const Token table = need_name("a table");
      key.table = table.text;
      key.table_at = table.at;
    }
    return key;
  }

  void parse_keys(std::vector<KeyName>& keys) {
    do keys.push_back(parse_key());
    while (take_symbol(","));
  }

  void parse_column(Statement& s) {
    auto& c = s.text.emplace<ColumnText>();
    const Token table = need_name("a table");
    c.table = table.text;
    need_symbol(".");
    const Token name = need_column();
    s.heading.name = name.text;
    s.heading.at = name.at;
    need_symbol("=");
    s.body = parse_expression();
  }

  void parse_number(Statement& s) {
    s.text.emplace<NumberText>();
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
    if (take_word("where")) h.where = parse_condition();
    need_symbol("]");
  }

  void parse_decide(Statement& s) {
    auto& d = s.text.emplace<DecideText>();
    parse_heading(s.heading, "decisions");
    if (take_word("binary")) return;
    if (take_word("one")) {
      need_the_word("of");
      do d.values.push_back(parse_expression());
      while (take_symbol(","));
      return;
    }
    if (!at_word("integer") && !at_word("real"))
      unexpected("'binary', 'integer LO .. HI', 'real LO .. HI' or 'one of V1, V2'");
    d.integer = take().text == "integer";
    d.bounded = true;
    if (peek().kind == TokenKind::end)
      fail(peek().at, fmt::format("the bounds of {} are missing: {} LO .. HI (inf is allowed)",
                                  s.heading.name, d.integer ? "integer" : "real"));
    d.low = parse_expression();
    if (take_word("or")) {
      if (d.low->kind != NodeKind::number || !d.low->value.is_zero())
        fail(d.low->at, "only 0 can stand before 'or': 0 or LO .. HI");
      d.or_zero = true;
      d.low = parse_expression();
    }
    need_symbol("..");
    if (peek().kind == TokenKind::end)
      fail(peek().at,
           fmt::format("the greatest value of {} is missing; inf stands for none", s.heading.name));
    d.high = parse_expression();
  }

  void parse_curve(Statement& s) {
    auto& c = s.text.emplace<CurveText>();
    if (peek().kind == TokenKind::word && function(peek().text))
      fail(peek().at, messages::reserved_word(peek().text, "a curve"));
    const Token name = need_name("a curve");
    s.heading.name = name.text;
    s.heading.at = name.at;
    if (take_word("tiers")) return parse_tiers(c);
    if (take_word("all")) {
      need_the_word("units");
      need_symbol(":");
      return parse_all_units(c);
    }
    if (take_word("through")) {
      c.shape = CurveShape::through;
      do {
        need_symbol("(");
        c.widths.push_back(parse_expression());
        need_symbol(",");
        c.rates.push_back(parse_expression());
        need_symbol(")");
      } while (take_symbol(","));
      return;
    }
    if (!take_word("from")) unexpected("'tiers', 'all units', 'through' or 'from'");
    c.shape = CurveShape::table;
    const Token table = need_name("a table");
    c.of.push_back({table.text, table.text, table.at, table.at});
    need_the_word("at");
    c.at_column = need_column().text;
    need_the_word("value");
    c.value_column = need_column().text;
  }

  // [50 once,] 120 each for first 4, 95 each for next 6, 80 each after
  void parse_tiers(CurveText& c) {
    need_symbol(":");
    for (bool begun = false, open = true; open; begun = true) {
      NodePtr figure = parse_expression();
      if (!begun && take_word("once")) {
        c.once = std::move(figure);
        need_symbol(",");
        figure = parse_expression();
      }
      need_the_word("each");
      c.rates.push_back(std::move(figure));
      if (take_word("for")) {
        if (!take_word(c.widths.empty() ? "first" : "next"))
          unexpected(c.widths.empty() ? "'first' and the width of the tier"
                                      : "'next' and the width of the tier");
        c.widths.push_back(parse_expression());
        open = take_symbol(",");
      } else {
        // "80 each after", or one rate for everything
        if (!c.widths.empty()) need_the_word("after");
        open = false;
      }
    }
  }

  // 120 below 10, 100 from 10, 80 from 25
  void parse_all_units(CurveText& c) {
    c.shape = CurveShape::all_units;
    c.rates.push_back(parse_expression());
    need_the_word("below");
    NodePtr below = parse_expression();
    need_symbol(",");
    do {
      c.rates.push_back(parse_expression());
      need_the_word("from");
      c.widths.push_back(parse_expression());
    } while (take_symbol(","));
    c.once = std::move(below);  // must be the first "from"
  }

  // scenario "name" [like "other"]: change, ...
  void parse_scenario(Statement& s) {
    auto& t = s.text.emplace<ScenarioText>();
    if (peek().kind != TokenKind::text) unexpected("the scenario's name in quotes");
    s.heading.at = peek().at;
    s.heading.name = take().text;
    if (s.heading.name.empty()) fail(s.heading.at, "the scenario's name is empty");
    if (take_word("like")) {
      if (peek().kind != TokenKind::text) unexpected("the other scenario's name in quotes");
      t.like_at = peek().at;
      t.like = take().text;
    }
    need_symbol(":");
    do t.changes.push_back(parse_change());
    while (take_symbol(","));
  }

  ScenarioChange parse_change() {
    ScenarioChange c;
    c.at = peek().at;
    if (take_word("set")) {
      c.name = need_name("a number or a table").text;
      if (take_symbol("[")) {
        c.kind = ChangeKind::cell;
        do {
          if (peek().kind != TokenKind::text) unexpected("a key in quotes");
          c.keys.push_back(take().text);
        } while (take_symbol(","));
        need_symbol("]");
        need_symbol(".");
        c.column = need_column().text;
      }
      need_symbol("=");
      c.value = parse_expression();
    } else if (take_word("scale")) {
      c.kind = ChangeKind::scale;
      c.name = need_name("a table").text;
      need_symbol(".");
      c.column = need_column().text;
      need_the_word("by");
      c.value = parse_expression();
    } else if (at_word("with") || at_word("without")) {
      c.kind = take().text == "with" ? ChangeKind::with : ChangeKind::without;
      c.name = need_name("a rule").text;
    } else if (take_word("hold")) {
      c.kind = ChangeKind::hold;
      c.decision = parse_expression();
      need_symbol("=");
      c.value = parse_expression();
    } else if (take_word("table")) {
      c.kind = ChangeKind::table;
      c.name = need_name("a table").text;
      need_the_word("from");
      if (peek().kind != TokenKind::text) unexpected("a file name in quotes");
      c.file = take().text;
    } else {
      unexpected("'set', 'scale', 'with', 'without', 'hold' or 'table'");
    }
    return c;
  }

  void parse_let(Statement& s) {
    s.text.emplace<LetText>();
    parse_heading(s.heading, "an expression");
    need_symbol("=");
    s.body = parse_expression();
  }

  void parse_goal(Statement& s, bool maximize) {
    auto& g = s.text.emplace<GoalText>();
    g.sense = maximize ? Sense::maximize : Sense::minimize;
    const Token name = need_name("the goal");
    s.heading.name = name.text;
    s.heading.at = name.at;
    if (take_word("yielding")) {
      if (peek().kind != TokenKind::number) unexpected("a share, such as 2 %");
      g.yields = take().value / Rational(100);
      need_symbol("%");
    }
    need_symbol(":");
    s.body = parse_expression();
  }

  void parse_rule(Statement& s) {
    auto& r = s.text.emplace<RuleText>();
    parse_heading(s.heading, "a rule");
    r.off = take_word("off");
    need_symbol(":");
    if (at_word("forms", 1)) return parse_tour(r);
    s.body = parse_condition();
    if (at_word("or")) {  // the parser of conditions stops only before 'or pay'
      take();
      need_the_word("pay");
      r.price = parse_expression();
      need_the_word("each");
    }
  }

  // LEGS forms tour | at most N tours, then in any order: over STOPS, visiting FAMILY,
  // from "Gate", carrying COLUMN at most CAPACITY, with "A" ahead of "B"
  void parse_tour(RuleText& r) {
    TourText tour;
    tour.legs = told(need_name("the family of legs"));
    tour.at = take().at;  // forms
    if (at_word("at")) {
      take();
      need_the_word("most");
      tour.at_most = parse_expression();
      if (!at_word("tours") && !at_word("tour")) unexpected("'tours'");
      take();
    } else if (!take_word("tour")) {
      unexpected("'tour', or 'at most N tours'");
    }
    for (bool more = true; more;) more = parse_tour_term(tour);
    if (tour.stops.text.empty()) unexpected("'over' and the table of stops");
    if (at_word("or")) fail(peek().at, "a tour is one or none: it cannot be missed at a price");
    r.tour = std::move(tour);
  }

  bool parse_tour_term(TourText& tour) {
    const Position at = peek().at;
    const auto once = [&](bool said, const char* what) {
      if (said) fail(at, fmt::format("'{}' is said twice", what));
    };
    if (take_word("over")) {
      once(!tour.stops.text.empty(), "over");
      tour.stops = told(need_name("the table of stops"));
    } else if (take_word("visiting")) {
      once(tour.visiting.has_value(), "visiting");
      tour.visiting = told(need_name("a family over the stops"));
    } else if (take_word("from")) {
      once(tour.from.has_value(), "from");
      tour.from = need_stop();
    } else if (take_word("carrying")) {
      once(tour.carrying.has_value(), "carrying");
      tour.carrying = told(need_column());
      need_the_word("at");
      need_the_word("most");
      tour.capacity = parse_expression();
    } else if (take_word("with")) {
      do {
        Told first = need_stop();
        need_the_word("ahead");
        need_the_word("of");
        tour.ahead.emplace_back(std::move(first), need_stop());
      } while (take_symbol(","));
    } else {
      return false;
    }
    return true;
  }

  static Told told(const Token& token) { return {token.text, token.at}; }

  Told need_stop() {
    if (peek().kind != TokenKind::text) unexpected("the key of a stop in quotes");
    return told(take());
  }

  Statement statement_;
};

class QuestionParser final : ExpressionParser {
 public:
  using ExpressionParser::ExpressionParser;
  NodePtr run() {
    NodePtr condition = parse_condition();
    if (peek().kind != TokenKind::end) unexpected("the end of the condition");
    return condition;
  }
};

}  // namespace

std::string ScenarioChange::thing() const {
  switch (kind) {
    case ChangeKind::number:
      return "number " + name;
    case ChangeKind::cell:
      return fmt::format("{}[{}].{}", name, fmt::join(keys, ", "), column);
    case ChangeKind::scale:
      return name + "." + column;
    case ChangeKind::with:
    case ChangeKind::without:
      return "rule " + name;
    case ChangeKind::hold: {
      std::string what = "decision " + decision->text;
      for (const NodePtr& arg : decision->args) what += " " + arg->text;
      return what;
    }
    case ChangeKind::table:
      return "table " + name;
  }
  return {};
}

std::vector<Statement> parse(std::vector<RawStatement> statements, const std::string& file,
                             Diagnostics& notes) {
  std::vector<Statement> parsed;
  for (RawStatement& raw : statements) {
    StatementParser parser(std::move(raw));
    try {
      parsed.push_back(parser.run());
    } catch (const ParseFailure& f) {
      notes.error({file, f.at.line, f.at.column, f.message, false});
      Statement rest = parser.rest();
      if (!rest.heading.name.empty()) parsed.push_back(std::move(rest));
    }
  }
  return parsed;
}

NodePtr parse_question(const std::string& text, const std::string& named, Diagnostics& notes) {
  std::vector<RawStatement> raw = lex(text, named, notes);
  if (notes.has_errors()) return nullptr;
  if (raw.size() != 1) {
    notes.error({named, 1, 1,
                 raw.empty() ? "there is no condition, such as open[\"North Mole\"] = 1"
                             : "one condition is asked at a time",
                 false});
    return nullptr;
  }
  try {
    return QuestionParser(std::move(raw[0])).run();
  } catch (const ParseFailure& f) {
    notes.error({named, f.at.line, f.at.column, f.message, false});
  }
  return nullptr;
}

}  // namespace kiteknot::formats::knot
