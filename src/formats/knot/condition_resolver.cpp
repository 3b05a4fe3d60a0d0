// Conditions: comparisons, keys and texts, yes-or-no decisions, and what joins them.

#include <algorithm>
#include <unordered_set>

#include <fmt/format.h>

#include "base/text.hpp"
#include "formats/knot/messages.hpp"
#include "formats/knot/resolver.hpp"

namespace kiteknot::formats::knot {
namespace {

void take_flags(Meaning& m) {
  for (const MeaningPtr& arg : m.args) {
    m.has_decisions = m.has_decisions || arg->has_decisions;
    m.has_numbers = m.has_numbers || arg->has_numbers;
  }
}

}  // namespace

MeaningPtr Resolver::condition(const SyntaxNode& node) {
  switch (node.kind) {
    case NodeKind::both:
      return joined(Op::both, node);
    case NodeKind::either:
      return joined(Op::either, node);
    case NodeKind::inverse:
      return joined(Op::inverse, node);
    case NodeKind::exclusive:
      return joined(Op::exclusive, node);
    case NodeKind::implies:
      return joined(Op::implies, node);
    case NodeKind::same:
      return joined(Op::same, node);
    case NodeKind::compare:
    case NodeKind::range:
      return compare(node);
    case NodeKind::count_of:
      return count_of(node);
    case NodeKind::has:
      return has(node);
    case NodeKind::at_end: {
      MeaningPtr m = make_meaning(Op::at_end, node.at);
      m->text = node.text;
      m->path = row(*node.args[0]);
      if (m->path.table->before.empty() && m->path.table->num_rows() > 0)
        fail(node.at, fmt::format("table {} is not ordered; say 'ordered' behind its key",
                                  m->path.table->name));
      return m;
    }
    default:
      return truth(node);
  }
}

MeaningPtr Resolver::joined(Op op, const SyntaxNode& node) {
  MeaningPtr m = make_meaning(op, node.at);
  for (const NodePtr& arg : node.args) m->args.push_back(condition(*arg));
  take_flags(*m);
  return m;
}

MeaningPtr Resolver::truth(const SyntaxNode& node) {
  MeaningPtr m = make_meaning(Op::truth, node.at);
  m->args.push_back(expression(node));
  const Meaning& e = *m->args[0];
  if (e.op != Op::decision || !e.family->binary)
    fail(node.at,
         e.op == Op::decision
             ? fmt::format("{} is not a yes-or-no decision; compare it with something", node.text)
             : "a comparison or a yes-or-no decision was expected here");
  take_flags(*m);
  return m;
}

// at most N of (c over r in T where ...), or of (c1, c2, c3)
MeaningPtr Resolver::count_of(const SyntaxNode& node) {
  MeaningPtr m = make_meaning(Op::count_of, node.at);
  m->text = node.text;
  m->args.push_back(data_expression(*node.args[0], "how many"));
  if (m->args[0]->has_numbers)
    fail(node.args[0]->at,
         "how many of the conditions hold is a figure from data; for a number that "
         "can be set, compare a total with it");
  if (node.rows.empty()) {
    for (std::size_t k = 1; k < node.args.size(); ++k) m->args.push_back(condition(*node.args[k]));
  } else {
    const std::size_t first = scope_.size();
    open(node.rows);
    m->args.push_back(condition(*node.args[1]));
    if (node.args.size() > 2) m->where = data_condition(*node.args[2]);
    plan_levels(*m, first);
    close(node.rows.size());
  }
  take_flags(*m);
  return m;
}

MeaningPtr Resolver::has(const SyntaxNode& node) {
  MeaningPtr m = make_meaning(Op::has, node.at);
  m->text = node.text;
  const Table table = names_.need_table(node.text, node.at);
  m->table = &table.data();
  for (std::size_t k = 0; k < table.data().key.size(); ++k) {
    if (k >= node.args.size() || (k + 1 == table.data().key.size() && k + 1 < node.args.size()))
      fail(node.at, messages::wrong_key_count(node.text, {&table, 1}, node.args.size()));
  }
  MemberPart part;
  for (const NodePtr& arg : node.args) part.keys.push_back(key(*arg));
  m->member.push_back(std::move(part));
  return m;
}

MeaningPtr Resolver::data_condition(const SyntaxNode& node, const char* word) {
  MeaningPtr m = condition(node);
  if (m->has_decisions)
    fail(node.at, fmt::format("'{}' takes conditions on data, such as a.column = b.column", word));
  if (m->has_numbers)
    fail(node.at,
         fmt::format("'{}' takes conditions on data only; a number may be set again later{}", word,
                     std::string_view(word) == "if"
                         ? ": multiply by one that is 0 or 1, as in k * f(a) + (1 - k) * g(a)"
                         : ""));
  return m;
}

namespace {

// The column whose texts a key takes; null for a literal.
struct KeyColumnOf {
  const TableData* table = nullptr;
  Index column = -1;
};
KeyColumnOf column_of(const Key& k) {
  if (k.kind == Key::Kind::literal) return {};
  return {k.path.table, k.kind == Key::Kind::row ? k.path.table->key[0] : k.path.column};
}
// The table whose rows a key names, if any.
const TableData* named_by(const KeyColumnOf& of) {
  if (of.table == nullptr) return nullptr;
  const auto reference = of.table->tables.find(of.column);
  if (reference != of.table->tables.end()) return reference->second.get();
  return of.table->key.size() == 1 && of.table->key[0] == of.column ? of.table : nullptr;
}
std::string told(const Key& k, const KeyColumnOf& of) {
  if (k.kind == Key::Kind::literal) return "\"" + k.text + "\"";
  return k.kind == Key::Kind::row
             ? "a row of " + of.table->name
             : of.table->name + "." + of.table->columns[static_cast<std::size_t>(of.column)];
}

}  // namespace

// A comparison of texts that no row can meet: between rows of different tables it is a mistake,
// with a text that happens to be nowhere it is told.
void Resolver::look_for_matches(const Meaning& m) {
  const KeyColumnOf l = column_of(m.left), r = column_of(m.right);
  if (l.table == nullptr && r.table == nullptr) return;
  const KeyColumnOf& from = l.table != nullptr ? l : r;
  const KeyColumnOf& other = l.table != nullptr ? r : l;
  if (from.table->num_rows() == 0 || (other.table != nullptr && other.table->num_rows() == 0))
    return;
  if (from.table == other.table && from.column == other.column) return;
  const Key& literal = l.table == nullptr ? m.left : m.right;
  if (other.table == nullptr && literal.text.empty()) return;  // 'is empty' may never hold
  std::unordered_set<std::string_view> texts;
  if (other.table == nullptr)
    texts.insert(literal.text);
  else
    for (Index row = 0; row < other.table->num_rows(); ++row)
      texts.insert(other.table->cell(row, other.column));
  std::vector<std::string> known;
  std::unordered_set<std::string_view> seen;
  for (Index row = 0; row < from.table->num_rows(); ++row) {
    const std::string_view cell = from.table->cell(row, from.column);
    if (texts.contains(cell)) return;
    constexpr std::size_t kMostKnown = 2000;
    if (known.size() < kMostKnown && seen.insert(cell).second) known.emplace_back(cell);
  }
  const TableData *a = named_by(l), *b = named_by(r);
  const std::string both = told(m.left, l) + " and " + told(m.right, r);
  if (a != nullptr && b != nullptr && a != b)
    fail(m.at, fmt::format("{} are rows of different tables, {} and {}, and never the same", both,
                           a->name, b->name));
  names_.warn(m.at, fmt::format("{} are never the same{}", both,
                                other.table == nullptr ? nearest_hint(literal.text, known) : ""));
}

MeaningPtr Resolver::compare(const SyntaxNode& node) {
  const SyntaxNode& l = *node.args[0];
  const SyntaxNode& r = *node.args[1];
  const auto is_text = [&](const SyntaxNode& n) { return n.kind == NodeKind::text || is_row(n); };
  bool as_text = is_text(l) || is_text(r);
  if (!as_text && l.kind == NodeKind::cell && r.kind == NodeKind::cell &&
      (node.text == "=" || node.text == "!=")) {
    // Two plain columns: keys and references are texts; otherwise figures if both are.
    for (const SyntaxNode* n : {&l, &r}) {
      const CellPath p = path(*n);
      if (p.column < 0) continue;
      Diagnostics unread;
      (void)p.table->figures(p.column, unread);
      as_text = as_text || unread.has_errors() || p.table->tables.contains(p.column) ||
                std::find(p.table->key.begin(), p.table->key.end(), p.column) != p.table->key.end();
    }
  }
  if (as_text) {
    for (const SyntaxNode* n : {&l, &r})
      if (!is_text(*n) && n->kind != NodeKind::cell) {  // the other side is no figure
        const SyntaxNode& other = n == &l ? r : l;
        (void)expression(*n);
        (void)expression(other);
      }
    if (node.kind == NodeKind::range || (node.text != "=" && node.text != "!="))
      fail(node.at, "texts are compared with = or != only");
    MeaningPtr m = make_meaning(Op::compare_text, node.at);
    m->text = node.text;
    m->left = key(l);
    m->right = key(r);
    look_for_matches(*m);
    return m;
  }
  MeaningPtr m = make_meaning(node.kind == NodeKind::range ? Op::range : Op::compare, node.at);
  m->text = node.text;
  for (const NodePtr& arg : node.args) m->args.push_back(expression(*arg));
  take_flags(*m);
  if (!m->is_figure() && m->op == Op::compare && m->text != "<=" && m->text != ">=" &&
      m->text != "=")
    fail(node.at, fmt::format("a rule compares with <=, >= or =, not with {}", node.text));
  return m;
}

}  // namespace kiteknot::formats::knot
