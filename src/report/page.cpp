#include "report/page.hpp"

#include <algorithm>
#include <set>

#include <fmt/format.h>

#include "base/text.hpp"
#include "model/evaluation.hpp"

namespace kiteknot {
std::string shown(const std::string& text) {
  return visible(text);
}
}  // namespace kiteknot

namespace kiteknot::report {

namespace {

// Signs that Markdown would take for its own.
std::string for_markdown(const std::string& text) {
  std::string out;
  for (const char c : text) {
    if (c == '|' || c == '*' || c == '_' || c == '<' || c == '`') out += '\\';
    out += c == kTie ? ' ' : c;
  }
  return out;
}

}  // namespace

namespace {

int digits_of(const Rational& length) {
  const double size = std::abs(length.to_double());
  return length.is_integer() ? 0 : size < 100.0 ? 3 : size < 1000.0 ? 2 : 1;
}

}  // namespace

std::string measured(double length, const Rational& all) {
  return fmt::format("{:.{}f}", length, digits_of(all));
}

std::string measured(const Rational& length) {
  if (length.is_integer()) return figure(length);
  return figure(Rational::parse(measured(length.to_double(), length)).value_or(length));
}

std::size_t shown_width(const std::string& text) {
  return static_cast<std::size_t>(std::count_if(text.begin(), text.end(), [](char c) {
    return (static_cast<unsigned char>(c) & 0xC0) != 0x80;
  }));
}

std::string Page::toned(const std::string& text, Tone tone) const {
  if (!options_.colour || tone == Tone::plain) return text;
  const char* code =
      tone == Tone::good ? "\033[1;38;5;31m" : (tone == Tone::bad ? "\033[1;38;5;166m" : "\033[2m");
  return code + text + "\033[0m";
}

void Page::gap() {
  if (!text_.empty() && !text_.ends_with("\n\n")) text_ += '\n';
}

void Page::title(const std::string& raw, Tone tone) {
  const std::string text = visible(raw, kTie);
  if (options_.markdown)
    text_ += "# " + for_markdown(text) + "\n\n";
  else
    text_ += toned(text, tone) + "\n";
  if (!options_.under.empty()) say("With " + options_.under + ".");
}

void Page::heading(const std::string& raw) {
  const std::string text = visible(raw, kTie);
  gap();
  if (options_.markdown)
    text_ += "## " + for_markdown(text) + "\n\n";
  else
    text_ += (options_.colour ? "\033[1m" + text + "\033[0m" : text) + "\n";
}

// Appends words; a line break indents by `indent`. `used` columns of the present line are taken.
void Page::wrapped(const std::string& text, std::size_t used, std::size_t indent) {
  const auto width = static_cast<std::size_t>(std::max(options_.width, 40));
  std::size_t at = 0;
  bool first = true;
  while (at < text.size()) {
    // A break may fall on a space, but not inside a name's brackets.
    std::size_t end = at;
    for (int depth = 0; end < text.size() && (text[end] != ' ' || depth > 0); ++end)
      depth = std::max(0, depth + (text[end] == '[') - (text[end] == ']'));
    const std::string word = text.substr(at, end - at);
    const std::size_t size = shown_width(word);
    if (!first && used + 1 + size > width) {
      text_ += "\n" + std::string(indent, ' ');
      used = indent;
    } else if (!first) {
      text_ += ' ';
      ++used;
    }
    for (const char c : word) text_ += c == kTie ? ' ' : c;
    used += size;
    first = false;
    at = end + 1;
  }
  text_ += '\n';
}

void Page::say(const std::string& raw, std::size_t indent) {
  const std::string text = visible(raw, kTie);
  if (options_.markdown) {
    gap();
    text_ += for_markdown(text) + "\n";
    return;
  }
  text_ += std::string(indent, ' ');
  wrapped(text, indent, indent);
}

void Page::markdown_table(const std::vector<std::vector<std::string>>& rows) {
  std::size_t columns = 0;
  for (const auto& row : rows) columns = std::max(columns, row.size());
  gap();
  text_ += "|";
  for (std::size_t c = 0; c < columns; ++c) text_ += "  |";
  text_ += "\n|";
  for (std::size_t c = 0; c < columns; ++c) text_ += " --- |";
  text_ += "\n";
  for (const auto& row : rows) {
    text_ += "|";
    for (std::size_t c = 0; c < columns; ++c)
      text_ += " " + (c < row.size() ? for_markdown(row[c]) : "") + " |";
    text_ += "\n";
  }
}

void Page::table(const std::vector<std::vector<std::string>>& raw,
                 const std::vector<std::size_t>& right) {
  std::vector<std::vector<std::string>> rows = raw;
  for (auto& row : rows)
    for (std::string& cell : row) cell = visible(cell, kTie);
  if (options_.markdown) return markdown_table(rows);
  constexpr std::size_t kWidest = 44;  // of a column that is not the last
  std::vector<std::size_t> widths;
  for (const auto& row : rows)
    for (std::size_t c = 0; c + 1 < row.size(); ++c) {
      if (widths.size() <= c) widths.resize(c + 1, 0);
      widths[c] = std::max(widths[c], std::min(shown_width(row[c]), kWidest));
    }
  const auto is_right = [&](std::size_t c) {
    return std::find(right.begin(), right.end(), c) != right.end();
  };
  std::size_t last = 0;  // the widest of those at the end, where that is set flush right
  for (const auto& row : rows)
    if (is_right(row.size() - 1)) last = std::max(last, shown_width(row.back()));
  for (const auto& row : rows) {
    std::string line = "  ";
    for (std::size_t c = 0; c + 1 < row.size(); ++c) {
      const std::size_t own = shown_width(row[c]);
      const std::string pad(widths[c] > own ? widths[c] - own : 0, ' ');
      if (widths[c] == 0) continue;  // nothing stands in this column anywhere
      line += is_right(c) ? pad + row[c] : row[c] + pad;
      line += "   ";
    }
    const std::size_t own = shown_width(row.back());
    if (is_right(row.size() - 1) && own < last) line += std::string(last - own, ' ');
    const std::size_t used = shown_width(line);
    text_ += line;
    wrapped(row.back(), used, used);
    while (text_.size() > 1 && text_[text_.size() - 2] == ' ') text_.erase(text_.size() - 2, 1);
  }
}

std::string standing(const RuleValue& v) {
  const std::string charge =
      v.soft && !v.met ? fmt::format(", which costs {}", figure(v.charge)) : "";
  if (v.logical) return (v.met ? "holds" : "does not hold") + charge;
  const bool low = v.low.is_finite(), high = v.high.is_finite();
  const bool equal = low && high && v.low == v.high;
  std::string where;
  if (v.two_sided) {
    where = equal ? fmt::format("{} against exactly {}", figure(v.left), figure(v.right))
                  : fmt::format("{} against at {} {}", figure(v.left), high ? "most" : "least",
                                figure(v.right));
  } else if (equal) {
    where = v.met ? fmt::format("{} as it must be", figure(v.value))
                  : fmt::format("{} where exactly {} must be", figure(v.value), figure(v.low));
  } else if (low && high) {
    where = fmt::format("{}, between {} and {}", figure(v.value), figure(v.low), figure(v.high));
  } else if (high) {
    where = fmt::format("{} of {}{}", figure(v.value), v.met ? "" : "at most ", figure(v.high));
  } else if (low) {
    where = fmt::format("{}, at least {}", figure(v.value), figure(v.low));
  } else {
    return figure(v.value);
  }
  if (!v.met) {
    const bool above = high && v.value > v.high;
    return fmt::format("{}: {} too {}{}", where, figure(v.slack.abs()), above ? "much" : "little",
                       charge);
  }
  if (v.binding) return where;
  return fmt::format("{}, {} to spare", where, figure(v.slack));
}

std::vector<std::vector<std::string>> worked_out_rows(const ModelData& model, const Plan& plan) {
  const Evaluation at(model, plan.values(), true);
  // Nothing is told of what a curve does not state.
  const auto stated = [&](const Rational& value, std::size_t outside) {
    return at.outside().size() > outside ? "not stated: outside the range of a curve"
                                         : figure(value);
  };
  std::vector<std::vector<std::string>> rows;
  for (const auto& l : model.lets)
    for (Index i = 0; i < l->index.count; ++i) {
      const std::size_t outside = at.outside().size();
      const Rational value = at.value(l->values[static_cast<std::size_t>(i)]);
      if (l->index.count == 1 || !value.is_zero())
        rows.push_back({full_name(l->name, l->index.keys(i)), stated(value, outside)});
    }
  std::set<std::string> seen;
  const auto look = [&](const auto& self, const Expression& e) -> void {
    for (const Expression::DerivedTerm& t : e.derived()) {
      for (const Expression& arg : t.what->args) self(self, arg);
      if (t.what->kind != Derived::Kind::curve) continue;
      const std::string name =
          fmt::format("{}({})", t.what->curve->name, figure(at.value(t.what->args[0])));
      if (seen.insert(name).second) rows.push_back({name, figure(at.value(Expression(t.what)))});
    }
  };
  const auto look_at = [&](const auto& self, const Condition& c) -> void {
    for (const Expression* e : {&c.body, &c.low, &c.high}) look(look, *e);
    for (const Condition& part : c.parts) self(self, part);
  };
  for (const Goal& g : model.goals) look(look, g.expression);
  if (!model.curves.empty())
    for (const auto& r : model.rules)
      for (const Condition& c : r->conditions) look_at(look_at, c);
  return rows;
}

std::string told(const ModelData& model, const DecisionFault& fault) {
  if (fault.decision < 0) return fault.what;
  return fmt::format("{} is {} and {}", model.decision_name(fault.decision), figure(fault.value),
                     fault.what);
}

Differences differences(const ModelData& m, const Plan& before, const Plan& after,
                        bool told_instead) {
  Differences d;
  for (Index k = 0; k < m.num_decisions; ++k) {
    const Rational &was = before[k], &is = after[k];
    if (was == is) continue;
    std::string name = m.decision_name(k);
    if (is.is_zero())
      d.leaves.push_back(std::move(name));
    else if (was.is_zero() && is == Rational(1))
      d.takes.push_back(std::move(name));
    else
      d.others.push_back(told_instead && !was.is_zero()
                             ? fmt::format("{} {} instead of {}", name, figure(is), figure(was))
                             : fmt::format("{} {}", name, figure(is)));
  }
  return d;
}

std::string told(const Differences& d) {
  constexpr std::size_t kMost = 8;
  std::vector<std::string> parts;
  if (!d.takes.empty()) parts.push_back("takes " + listed(d.takes, kMost));
  if (!d.leaves.empty()) parts.push_back("leaves out " + listed(d.leaves, kMost));
  if (!d.others.empty()) parts.push_back("has " + listed(d.others, kMost));
  return fmt::format("{}", fmt::join(parts, "; "));
}

std::string first_goal_only(const std::string& first, const std::vector<std::string>& later) {
  if (later.empty()) return "";
  return fmt::format("Only {} is looked at, as if {} were not there.", first, listed(later));
}

}  // namespace kiteknot::report
