#include "workbench/step_reader.hpp"

#include <algorithm>
#include <array>
#include <map>

#include <fmt/format.h>

#include "base/text.hpp"

namespace kiteknot::workbench {
namespace {

using Column = Tableau::Column;

bool is_word(char c) {
  return (c >= 'a' && c <= 'z') || (c >= 'A' && c <= 'Z') || (c >= '0' && c <= '9') || c == '_' ||
         (static_cast<unsigned char>(c) & 0x80U) != 0;
}

// A text with a place in it. Names are those of the tableau, whatever signs they have.
class Words {
 public:
  Words(const Tableau& tableau, const std::string& text) : t_(tableau), text_(text) { skip(); }

  [[nodiscard]] bool at_end() const { return at_ >= text_.size(); }
  [[nodiscard]] std::size_t column() const {
    return 1 + static_cast<std::size_t>(std::count_if(
                   text_.begin(), text_.begin() + static_cast<std::ptrdiff_t>(at_),
                   [](char c) { return (static_cast<unsigned char>(c) & 0xC0U) != 0x80U; }));
  }
  [[noreturn]] void fail(const std::string& message) const { throw StepError{column(), message}; }

  // These words stand here, with any blanks between them.
  bool take(std::string_view words) {
    const std::size_t before = at_;
    while (!words.empty()) {
      const std::size_t end = std::min(words.find(' '), words.size());
      const std::string_view word = words.substr(0, end);
      if (text_.compare(at_, word.size(), word) != 0 ||
          (at_ + word.size() < text_.size() && is_word(word.back()) &&
           is_word(text_[at_ + word.size()]))) {
        at_ = before;
        return false;
      }
      at_ += word.size();
      skip();
      words.remove_prefix(std::min(words.size(), end + 1));
    }
    return true;
  }

  // The longest name that stands here; a rule's name stands for its room.
  std::optional<Column> take_name() {
    std::size_t longest = 0;
    std::optional<Column> found;
    for (std::size_t j = 0; j < t_.columns().size(); ++j) {
      const TableauColumn& c = t_.columns()[j];
      if (c.gone) continue;
      look(c.name, static_cast<Column>(j), longest, found);
      if (c.row >= 0)
        look(t_.stated()[static_cast<std::size_t>(c.row)].name, static_cast<Column>(j), longest,
             found);
    }
    if (!found) return std::nullopt;
    at_ += longest;
    skip();
    return found;
  }

  Column name(const std::string& what) {
    const std::optional<Column> found = take_name();
    if (!found) fail(missing(what));
    return *found;
  }

  // Any of these, the longest first.
  std::optional<std::string> take_one_of(const std::vector<std::string>& known) {
    std::size_t longest = 0;
    std::optional<std::string> found;
    for (const std::string& name : known)
      if (std::optional<Column> here; name.size() > longest) {
        look(name, 0, longest, here);
        if (here) found = name;
      }
    if (!found) return std::nullopt;
    at_ += longest;
    skip();
    return found;
  }

  [[nodiscard]] std::string missing(const std::string& what) const {
    if (at_end()) return fmt::format("expected {} here", what);
    const std::string found = rest_word();
    std::vector<std::string> known = t_.names();
    for (const TableauRow& row : t_.stated()) known.push_back(row.name);
    return fmt::format("expected {}, found '{}'{}", what, visible(found),
                       nearest_hint(found, known));
  }

  // 3, -2.5, 7/2
  std::optional<Rational> take_number() {
    std::size_t end = at_;
    if (end < text_.size() && (text_[end] == '-' || text_[end] == '+')) ++end;
    const std::size_t digits = end;
    while (end < text_.size() && ((text_[end] >= '0' && text_[end] <= '9') || text_[end] == '.'))
      ++end;
    if (end == digits) return std::nullopt;
    const std::size_t from = text_[at_] == '+' ? at_ + 1 : at_;
    std::optional<Rational> value =
        Rational::parse(std::string_view(text_).substr(from, end - from));
    if (!value) return std::nullopt;
    if (end < text_.size() && text_[end] == '/') {
      std::size_t last = end + 1;
      while (last < text_.size() && text_[last] >= '0' && text_[last] <= '9') ++last;
      const auto over = Rational::parse(std::string_view(text_).substr(end + 1, last - end - 1));
      if (!over || over->is_zero())
        fail("a fraction has a whole number other than 0 below the line");
      *value /= *over;
      end = last;
    }
    at_ = end;
    skip();
    return value;
  }

  Rational number(const std::string& what) {
    const auto value = take_number();
    if (!value)
      fail(at_end() ? fmt::format("expected {} here", what)
                    : fmt::format("expected {}, found '{}'", what, visible(rest_word())));
    return *value;
  }

  std::int32_t count(const std::string& what) {
    const std::size_t before = at_;
    const Rational value = number(what);
    if (!value.is_integer() || value.sign() < 0 || value > Rational(1'000'000)) {
      at_ = before;
      fail(fmt::format("expected {}, found '{}'", what, visible(rest_word())));
    }
    return static_cast<std::int32_t>(value.to_double());
  }

  void end(std::string_view after) const {
    if (!at_end())
      fail(fmt::format("nothing more is expected after {}, found '{}'", after,
                       visible(rest_word())));
  }

  [[nodiscard]] std::string rest() const {
    std::string out = text_.substr(at_);
    while (!out.empty() && out.back() == ' ') out.pop_back();
    return out;
  }
  std::string take_rest() {
    std::string out = rest();
    at_ = text_.size();
    return out;
  }

  [[nodiscard]] std::string rest_word() const {
    std::size_t end = at_;
    while (end < text_.size() && text_[end] != ' ' && text_[end] != '\t') ++end;
    return text_.substr(at_, end - at_);
  }
  [[nodiscard]] std::size_t place() const { return at_; }
  void go_back(std::size_t place) { at_ = place; }

 private:
  void look(const std::string& name, Column column, std::size_t& longest,
            std::optional<Column>& found) const {
    if (name.size() <= longest || text_.compare(at_, name.size(), name) != 0) return;
    const std::size_t end = at_ + name.size();
    if (end < text_.size() && is_word(name.back()) && (is_word(text_[end]) || text_[end] == '['))
      return;
    longest = name.size();
    found = column;
  }
  void skip() {
    while (at_ < text_.size() && (text_[at_] == ' ' || text_[at_] == '\t' || text_[at_] == '\r'))
      ++at_;
  }

  const Tableau& t_;
  const std::string& text_;
  std::size_t at_ = 0;
};

class Reader {
 public:
  Reader(const Tableau& tableau, const std::string& words) : t_(tableau), w_(tableau, words) {}

  Step run() {
    if (w_.at_end()) w_.fail("expected a step; 'help' lists them");
    if (branch()) return step_;
    struct Form {
      const char* words;
      void (Reader::*read)();
    };
    static constexpr std::array<Form, 23> kForms = {{{"bring in", &Reader::bring_in},
                                                     {"take out", &Reader::take_out},
                                                     {"next", &Reader::next},
                                                     {"to the end", &Reader::to_the_end},
                                                     {"first phase", &Reader::first_phase},
                                                     {"ratios of", &Reader::ratios},
                                                     {"fractions", &Reader::fractions},
                                                     {"cut on", &Reader::cut},
                                                     {"mixed cut on", &Reader::mixed_cut},
                                                     {"all the way", &Reader::all_the_way},
                                                     {"add", &Reader::add},
                                                     {"drop", &Reader::drop},
                                                     {"copies", &Reader::copies},
                                                     {"copy", &Reader::copy},
                                                     {"close", &Reader::close},
                                                     {"undo", &Reader::undo},
                                                     {"redo", &Reader::redo},
                                                     {"back to", &Reader::back_to},
                                                     {"history", &Reader::history},
                                                     {"prices", &Reader::prices},
                                                     {"show", &Reader::show},
                                                     {"help", &Reader::help},
                                                     {"branch on", &Reader::branch_on}}};
    for (const Form& form : kForms)
      if (w_.take(form.words)) {
        said_ = form.words;
        (this->*form.read)();
        w_.end(fmt::format("'{}'", said_));
        return step_;
      }
    unknown(kForms);
  }

 private:
  // No form begins like this: the one that is meant, as far as that can be told.
  [[noreturn]] void unknown(const auto& forms) const {
    const std::string found = w_.rest_word();
    if (w_.rest().find("<=") != std::string::npos || w_.rest().find(">=") != std::string::npos)
      w_.fail(
          "a rule of your own begins with 'add', a branch is a decision and its limit, as in 'x <= "
          "2'");
    std::vector<std::string> first;
    for (const auto& form : forms) {
      const std::string words = form.words;
      first.push_back(words.substr(0, words.find(' ')));
      if (first.back() == found)
        w_.fail(fmt::format("expected '{}', found '{}'; 'help' lists the steps", words,
                            visible(w_.rest())));
    }
    w_.fail(fmt::format("no step begins with '{}'{}; 'help' lists them", visible(found),
                        nearest_hint(found, first)));
  }

  void kind(StepKind k) { step_.kind = k; }

  void name(const std::string& what) {
    step_.name_at = w_.column();
    step_.name = w_.name(what);
    said_ += " NAME";
  }
  void for_other(const std::string& what) {
    if (!w_.take("for")) return;
    step_.other_at = w_.column();
    step_.other = w_.name(what);
  }
  void by_rule() {
    if (!w_.take("by")) return;
    for (const StepRule rule :
         {StepRule::largest, StepRule::first, StepRule::steepest, StepRule::best})
      if (w_.take(word(rule))) {
        step_.rule = rule;
        return;
      }
    const std::vector<std::string> known = {"largest", "first", "steepest", "best"};
    w_.fail(fmt::format(
        "expected a rule for choosing steps: largest, first, steepest or best, found '{}'{}",
        visible(w_.rest_word()), nearest_hint(w_.rest_word(), known)));
  }

  void bring_in() {
    kind(StepKind::bring_in);
    name("what comes in: a decision or a room that is not basic");
    for_other("the basic one that it comes in for");
    step_.anyway = w_.take("anyway");
  }
  void take_out() {
    kind(StepKind::take_out);
    name("what goes out: a basic one beyond its limit");
    for_other("what comes in for it");
    step_.anyway = w_.take("anyway");
  }
  void next() {
    kind(StepKind::next);
    by_rule();
  }
  void to_the_end() {
    kind(StepKind::to_the_end);
    by_rule();
  }
  void first_phase() { kind(StepKind::first_phase); }
  void ratios() {
    kind(StepKind::ratios);
    name("a name of the tableau");
  }
  void fractions() { kind(StepKind::fractions); }
  void cut() {
    kind(StepKind::cut);
    step_.name_at = w_.column();
    if (w_.take_one_of({t_.goal_name()})) {
      step_.goal_row = true;
      return;
    }
    name("the basic one whose row is cut, or the goal");
  }
  void mixed_cut() {
    cut();
    step_.mixed = true;
  }
  void all_the_way() {
    kind(StepKind::all_the_way);
    const bool first = w_.take("anyway");
    step_.mixed = w_.take("mixed");
    step_.anyway = w_.take("anyway") || first;
  }
  void drop() {
    kind(StepKind::drop);
    std::vector<std::string> rows;
    for (const TableauRow& r : t_.stated())
      if (!t_.column(r.room).gone && r.from != TableauRow::From::rule) rows.push_back(r.name);
    step_.name_at = w_.column();
    const auto row = w_.take_one_of(rows);
    if (!row)
      w_.fail(rows.empty() ? "there is no cut nor anything else added that could be dropped"
                           : fmt::format("expected what was added: {}", listed(rows)));
    step_.row = *row;
  }
  void copies() { kind(StepKind::copies); }
  void copy() {
    kind(StepKind::copy);
    step_.name_at = w_.column();
    step_.number = w_.count("the number of a copy");
  }
  void close() {
    kind(StepKind::close);
    if (!w_.take("copy")) return;
    step_.name_at = w_.column();
    step_.number = w_.count("the number of a copy");
  }
  void undo() { kind(StepKind::undo); }
  void redo() { kind(StepKind::redo); }
  void back_to() {
    kind(StepKind::back_to);
    step_.name_at = w_.column();
    step_.number = w_.count("the number of a step in the history");
  }
  void history() { kind(StepKind::history); }
  void prices() { kind(StepKind::prices); }
  void show() { kind(StepKind::show); }
  void help() { kind(StepKind::help); }

  void branch_on() {
    if (!branch()) w_.fail("expected a decision and its limit, as in 'branch on x <= 2'");
  }

  // "x <= 2": a name, a sign, a figure, and nothing else.
  bool branch() {
    const std::size_t before = w_.place();
    const std::size_t name_at = w_.column();
    const std::optional<Column> column = w_.take_name();
    if (!column) return false;
    const bool at_most = w_.take("<=");
    if (!at_most && !w_.take(">=")) {
      w_.go_back(before);
      return false;
    }
    kind(StepKind::branch);
    step_.name = column;
    step_.name_at = name_at;
    const std::size_t limit_at = w_.place();
    const auto limit = w_.take_number();
    if (!limit || !w_.at_end()) {
      w_.go_back(limit_at);
      w_.fail(
          "a branch is a decision and one figure, as in 'x <= 2'; with 'add' in front it is a "
          "rule");
    }
    step_.sum.terms = {{*column, 1}};
    step_.sum.at_least = !at_most;
    step_.sum.limit = *limit;
    return true;
  }

  // "add 2 kites + lanterns <= 5 as handy"
  void add() {
    kind(StepKind::add);
    step_.name_at = w_.column();
    std::map<Column, Rational> terms;
    Rational constant;
    side(terms, constant, 1);
    if (w_.take("<=")) {
      step_.sum.at_least = false;
    } else if (w_.take(">=")) {
      step_.sum.at_least = true;
    } else {
      w_.fail(w_.at_end() ? "expected <= or >= and the other side of the rule"
                          : fmt::format("expected + or -, or <= or >=, found '{}'",
                                        visible(w_.rest_word())));
    }
    side(terms, constant, -1);
    for (const auto& [column, c] : terms)
      if (!c.is_zero()) step_.sum.terms.emplace_back(column, c);
    step_.sum.limit = -constant;
    if (step_.sum.terms.empty()) throw StepError{step_.name_at, "a rule needs a decision in it"};
    if (w_.take("as")) {
      step_.title = w_.take_rest();
      if (step_.title.empty()) w_.fail("expected a name for the rule");
    }
    said_ += " SUM";
  }

  void side(std::map<Column, Rational>& terms, Rational& constant, int sign) {
    bool first = true;
    while (true) {
      Rational by = sign;
      if (w_.take("-")) {
        by = -by;
      } else if (!w_.take("+") && !first) {
        return;
      }
      first = false;
      const auto figure = w_.take_number();
      if (figure) by *= *figure;
      const bool times = figure && w_.take("*");
      const std::size_t at = w_.column();
      const auto column = w_.take_name();
      if (!column && (times || !figure)) w_.fail(w_.missing("a decision or a figure"));
      if (!column) {
        constant += by;
      } else if (t_.column(*column).kind == TableauColumn::Kind::room) {
        throw StepError{at,
                        "a rule is said in decisions, and " + t_.column(*column).name + " is none"};
      } else {
        terms[*column] += by;
      }
    }
  }

  const Tableau& t_;
  Words w_;
  Step step_;
  std::string said_;
};

}  // namespace

Step read_step(const Tableau& tableau, const std::string& words) {
  return Reader(tableau, words).run();
}

}  // namespace kiteknot::workbench
