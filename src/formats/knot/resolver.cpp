#include "formats/knot/resolver.hpp"

#include <algorithm>

#include <fmt/format.h>

#include "formats/knot/messages.hpp"

namespace kiteknot::formats::knot {
namespace {

// Greatest slot that it reads, or -1.
int last_slot(const CellPath& path) {
  int last = path.slot;
  for (const Key& k : path.keys)
    if (k.kind != Key::Kind::literal) last = std::max(last, last_slot(k.path));
  return last;
}

int last_slot(const Meaning& m) {
  int last = -1;
  const auto see_key = [&](const Key& k) {
    if (k.kind != Key::Kind::literal) last = std::max(last, last_slot(k.path));
  };
  if (m.op == Op::cell || m.op == Op::at_end) last = last_slot(m.path);
  for (const MemberPart& part : m.member) {
    last = std::max(last, part.slot);
    for (const Key& k : part.keys) see_key(k);
  }
  if (m.op == Op::compare_text) {
    see_key(m.left);
    see_key(m.right);
  }
  for (const MeaningPtr& arg : m.args) last = std::max(last, last_slot(*arg));
  if (m.where) last = std::max(last, last_slot(*m.where));
  return last;
}

}  // namespace

int Resolver::slot_of(const std::string& row) const {
  for (std::size_t s = scope_.size(); s-- > 0;)
    if (scope_[s].row == row) return static_cast<int>(s);
  return -1;
}

void Resolver::open(const std::vector<RowName>& rows) {
  for (const RowName& r : rows) {
    if (slot_of(r.row) >= 0)
      fail(r.at, fmt::format("the row name '{}' hides another one of the same name", r.row));
    scope_.push_back({r.row, &names_.need_table(r.table, r.table_at).data()});
  }
}

std::string Resolver::row_with_column(const std::string& column) const {
  for (const Slot& slot : scope_)
    if (slot.table->column(column) >= 0 || slot.table->computed.contains(column)) return slot.row;
  return {};
}

MeaningPtr Resolver::expression(const SyntaxNode& node) {
  switch (node.kind) {
    case NodeKind::number: {
      MeaningPtr m = make_meaning(Op::constant, node.at);
      m->value = node.value;
      return m;
    }
    case NodeKind::text:
      fail(node.at, messages::text_for_figure(node.text, row_with_column(node.text)));
    case NodeKind::infinity:
      fail(node.at, "'inf' is allowed only as a bound of a decision");
    case NodeKind::name:
      return name(node);
    case NodeKind::cell:
      return figure_cell(node);
    case NodeKind::member:
      return member(node);
    case NodeKind::total:
      return total(node);
    case NodeKind::apply:
      return apply(node);
    case NodeKind::extreme:
      return total(node);
    case NodeKind::number_of:
      return number_of(node);
    case NodeKind::choice:
      return choice(node);
    case NodeKind::beside:
      fail(node.at, fmt::format("{}(...) is a row; one of its columns, or a family's member, was "
                                "expected",
                                node.text));
    case NodeKind::negate:
    case NodeKind::add:
    case NodeKind::multiply:
    case NodeKind::divide:
    case NodeKind::power:
      return arithmetic(node);
    default:
      fail(node.at, "a condition stands where an expression belongs");
  }
}

MeaningPtr Resolver::name(const SyntaxNode& node) {
  if (const int slot = slot_of(node.text); slot >= 0) {
    fail(node.at,
         messages::row_as_figure(node.text, *scope_[static_cast<std::size_t>(slot)].table));
  }
  const Named named = names_.find(node.text, node.at);
  if (named.number) {
    MeaningPtr m = make_meaning(Op::number, node.at);
    m->number = *named.number;
    m->has_numbers = true;
    return m;
  }
  if (named.table != nullptr) fail(node.at, messages::table_as_figure(node.text));
  if (named.curve)
    fail(node.at, fmt::format("{} is a curve; it is used as {}(expression)", node.text, node.text));
  if (!named.family && !named.let)
    fail(node.at, messages::no_value(node.text, names_.known_values()));
  return member(node);
}

MeaningPtr Resolver::member(const SyntaxNode& node) {
  const Named named = names_.find(node.text, node.at);
  if (named.number) fail(node.at, fmt::format("{} is a number and has no rows", node.text));
  if (!named.family && !named.let)
    fail(node.at, messages::no_family(node.text, names_.known_values()));
  MeaningPtr m = make_meaning(named.family ? Op::decision : Op::named, node.at);
  m->text = node.text;
  m->family = named.family;
  m->named = named.let;
  m->has_decisions = named.family != nullptr;
  if (named.let)
    for (const Expression& e : named.let->values) {
      m->has_decisions = m->has_decisions || e.has_decisions();
      m->has_numbers = m->has_numbers || !e.factored().empty() || !e.is_linear();
    }
  m->member =
      parts(node, node.text, named.family ? named.family->index.tables : named.let->index.tables);
  return m;
}

bool Resolver::is_row(const SyntaxNode& node) const {
  const SyntaxNode* at = &node;
  bool beside = false;  // before(j.start), a row through a column that refers to one
  for (; at->kind == NodeKind::beside || (beside && at->kind == NodeKind::cell);
       at = at->args[0].get())
    beside = true;
  return at->kind == NodeKind::name && slot_of(at->text) >= 0;
}

// A row name, before(...) and after(...) one, or the row that a column of one refers to.
CellPath Resolver::row(const SyntaxNode& node) {
  if (node.kind == NodeKind::beside) {
    CellPath p = row(*node.args[0]);
    const std::vector<Index>& step = node.text == "before" ? p.table->before : p.table->after;
    if (step.empty() && p.table->num_rows() > 0)
      fail(node.at,
           fmt::format("table {} is not ordered; say 'ordered' behind its key", p.table->name));
    p.steps.push_back(&step);
    p.at = node.at;
    return p;
  }
  if (node.kind == NodeKind::cell) {
    CellPath p = row(*node.args[0]);
    names_.need_column(*p.table, node.text);
    names_.note_use(*p.table, node.text);
    refer(p, node);
    return p;
  }
  CellPath p;
  p.at = node.at;
  if (node.kind == NodeKind::member) {
    const Table table = names_.need_table(node.text, node.at);
    if (node.args.size() != table.data().key.size())
      fail(node.at, messages::wrong_key_count(node.text, {&table, 1}, node.args.size()));
    for (const NodePtr& arg : node.args) p.keys.push_back(key(*arg));
    p.start = p.table = &table.data();
    return p;
  }
  p.slot = node.kind == NodeKind::name ? slot_of(node.text) : -1;
  if (p.slot < 0) {
    std::vector<std::string> rows;
    for (const Slot& s : scope_) rows.push_back(s.row);
    if (node.kind != NodeKind::name) fail(node.at, "a row was expected");
    fail(node.at, messages::no_row_name(node.text, rows));
  }
  p.table = scope_[static_cast<std::size_t>(p.slot)].table;
  return p;
}

// Matches what stands in the brackets with the tables of the index: a row of the table itself, or
// one text (or referring row) for each of its key columns.
std::vector<MemberPart> Resolver::parts(const SyntaxNode& node, const std::string& name,
                                        std::span<const Table> tables) {
  std::vector<MemberPart> parts;
  std::size_t next = 0;
  const auto wrong_count = [&] {
    fail(node.at, messages::wrong_key_count(name, tables, node.args.size()));
  };
  for (const Table& table : tables) {
    if (next >= node.args.size()) wrong_count();
    MemberPart part;
    const SyntaxNode& first = *node.args[next];
    CellPath own;
    if (is_row(first)) own = row(first);
    if (own.table == &table.data()) {
      part.slot = own.slot;
      part.path = std::move(own);
      ++next;
    } else {
      for (const Index c : table.data().key) {
        if (next >= node.args.size()) wrong_count();
        const SyntaxNode& arg = *node.args[next++];
        Key k = key(arg);
        const auto reference = table.data().tables.find(c);
        if (k.kind == Key::Kind::row &&
            (reference == table.data().tables.end() || reference->second.get() != k.path.table))
          fail(arg.at,
               messages::wrong_key_table(name, tables, arg.text, *k.path.table,
                                         table.data().columns[static_cast<std::size_t>(c)]));
        part.keys.push_back(std::move(k));
      }
    }
    parts.push_back(std::move(part));
  }
  if (next != node.args.size()) wrong_count();
  return parts;
}

Key Resolver::key(const SyntaxNode& node) {
  Key k;
  k.at = node.at;
  if (node.kind == NodeKind::text) {
    k.text = node.text;
    return k;
  }
  if (node.kind == NodeKind::name && slot_of(node.text) < 0)
    fail(node.at, messages::key_without_quotes(node.text));
  if (node.kind == NodeKind::name || node.kind == NodeKind::beside) {
    k.kind = Key::Kind::row;
    k.path = row(node);
    if (k.path.table->key.size() != 1)
      fail(node.at, messages::key_of_several(node.text, *k.path.table));
    return k;
  }
  if (node.kind != NodeKind::cell)
    fail(node.at, "a row, a column of a row, or a key in quotes was expected");
  k.kind = Key::Kind::cell;
  k.path = path(node);
  if (k.path.column < 0)
    fail(node.at, fmt::format("column '{}' is computed and holds figures, not keys", node.text));
  return k;
}

// On to the row that its column refers to.
void Resolver::refer(CellPath& p, const SyntaxNode& cell) {
  const Index column = p.table->column(cell.text);
  if (column < 0) fail(cell.at, messages::no_column(cell.text, *p.table));
  const auto next = p.table->tables.find(column);
  if (next == p.table->tables.end()) fail(cell.at, messages::no_reference(cell.text, *p.table));
  p.steps.push_back(&p.table->references.at(column));
  p.table = next->second.get();
  p.at = cell.at;
}

CellPath Resolver::path(const SyntaxNode& node) {
  std::vector<const SyntaxNode*> cells;
  const SyntaxNode* at = &node;
  for (; at->kind == NodeKind::cell; at = at->args[0].get()) cells.push_back(at);
  if (at->kind != NodeKind::name && at->kind != NodeKind::beside && at->kind != NodeKind::member)
    fail(at->at, "only a row has columns");
  CellPath p = row(*at);
  for (std::size_t k = cells.size(); k-- > 0;) {
    const SyntaxNode& cell = *cells[k];
    names_.need_column(*p.table, cell.text);
    names_.note_use(*p.table, cell.text);
    const Index column = p.table->column(cell.text);
    if (k > 0) {
      refer(p, cell);
      continue;
    }
    const auto computed = p.table->computed.find(cell.text);
    if (computed != p.table->computed.end())
      p.figures = &computed->second;
    else if (column < 0)
      fail(cell.at, messages::no_column(cell.text, *p.table));
    p.column = column;
  }
  return p;
}

void Resolver::use_as_figure(CellPath& p, Position at) {
  if (p.figures != nullptr) return;
  Diagnostics wrong;
  const TableData::Given given = p.table->figures_given(p.column, wrong);
  p.figures = given.figures;
  p.some_special = given.some_special;
  if (!wrong.has_errors()) return;
  notes_.append(wrong);
  throw Failure{at, ""};  // told already, at the cells
}

MeaningPtr Resolver::figure_cell(const SyntaxNode& node) {
  MeaningPtr m = make_meaning(Op::cell, node.at);
  m->path = path(node);
  use_as_figure(m->path, node.at);
  return m;
}

MeaningPtr Resolver::arithmetic(const SyntaxNode& node) {
  static constexpr std::pair<NodeKind, Op> kOps[] = {{NodeKind::negate, Op::negate},
                                                     {NodeKind::add, Op::add},
                                                     {NodeKind::multiply, Op::multiply},
                                                     {NodeKind::divide, Op::divide},
                                                     {NodeKind::power, Op::power}};
  Op op = Op::add;
  for (const auto& [kind, meaning] : kOps)
    if (kind == node.kind) op = meaning;
  MeaningPtr m = make_meaning(op, node.at);
  for (const NodePtr& arg : node.args) {
    m->args.push_back(expression(*arg));
    m->has_decisions = m->has_decisions || m->args.back()->has_decisions;
    m->has_numbers = m->has_numbers || m->args.back()->has_numbers;
  }
  if (op == Op::power && m->args[1]->has_decisions)
    fail(node.args[1]->at,
         "an exponent holds no decisions; x ^ y for x above 0 is written exp(y * log(x))");
  return m;
}

MeaningPtr Resolver::data_expression(const SyntaxNode& node, const char* what) {
  MeaningPtr m = expression(node);
  if (m->has_decisions)
    fail(node.at, fmt::format("{} is computed from data, not from decisions", what));
  return m;
}

MeaningPtr Resolver::total(const SyntaxNode& node) {
  MeaningPtr m = make_meaning(node.kind == NodeKind::total ? Op::total : Op::extreme, node.at);
  m->text = node.text;
  const std::size_t first = scope_.size();
  open(node.rows);
  m->args.push_back(expression(*node.args[0]));
  if (node.args.size() > 1) m->where = data_condition(*node.args[1]);
  m->has_decisions = m->args[0]->has_decisions;
  m->has_numbers = m->args[0]->has_numbers;
  plan_levels(*m, first);
  close(node.rows.size());
  return m;
}

MeaningPtr Resolver::number_of(const SyntaxNode& node) {
  MeaningPtr m = make_meaning(Op::number_of, node.at);
  const std::size_t first = scope_.size();
  open(node.rows);
  if (!node.args.empty()) m->where = data_condition(*node.args[0]);
  plan_levels(*m, first);
  close(node.rows.size());
  return m;
}

// A function of figures or expressions, or a curve.
MeaningPtr Resolver::apply(const SyntaxNode& node) {
  MeaningPtr m = make_meaning(Op::apply, node.at);
  m->text = node.text;
  if (node.text == "distance" && node.args.size() != 1)
    fail(node.at, "a distance has three parts: distance(a, b, plane), or earth");
  for (const NodePtr& arg : node.args) {
    m->args.push_back(expression(*arg));
    m->has_decisions = m->has_decisions || m->args.back()->has_decisions;
    m->has_numbers = m->has_numbers || m->args.back()->has_numbers;
  }
  const auto need_one = [&] {
    if (m->args.size() != 1)
      fail(node.at, fmt::format("{} takes one expression, not {}", node.text, m->args.size()));
  };
  if (node.text == "min" || node.text == "max") return m;
  if (node.text == "abs" || node.text == "sqrt" || node.text == "exp" || node.text == "log") {
    need_one();
    return m;
  }
  if (node.text == "round" || node.text == "floor" || node.text == "ceil") {
    need_one();
    if (!m->is_figure())
      fail(node.at,
           fmt::format("{} is taken of data only, not of {}", node.text,
                       m->has_decisions ? "decisions" : "numbers, which may be set again"));
    return m;
  }
  if (node.text.starts_with("distance ")) {
    if (!m->is_figure()) fail(node.at, "a distance is taken between rows of data");
    return m;
  }
  const Named named = names_.find(node.text, node.at);
  if (!named.curve) fail(node.at, messages::no_curve(node.text, names_.known_curves()));
  need_one();
  m->curve = named.curve;
  return m;
}

MeaningPtr Resolver::choice(const SyntaxNode& node) {
  MeaningPtr m = make_meaning(Op::choice, node.at);
  m->args.push_back(data_condition(*node.args[0], "if"));
  for (const std::size_t k : {1u, 2u}) {
    m->args.push_back(expression(*node.args[k]));
    m->has_decisions = m->has_decisions || m->args[k]->has_decisions;
    m->has_numbers = m->has_numbers || m->args[k]->has_numbers;
  }
  return m;
}

// Every part of the where condition is tested as soon as its rows are known; an equation between a
// column of the row looked for and something known before becomes a look-up.
void Resolver::plan_levels(Meaning& total, std::size_t first_slot) {
  for (std::size_t s = first_slot; s < scope_.size(); ++s) {
    Level level;
    level.slot = static_cast<int>(s);
    level.table = scope_[s].table;
    total.levels.push_back(std::move(level));
  }
  if (!total.where) return;
  const int deepest = static_cast<int>(scope_.size()) - 1;
  std::vector<const Meaning*> parts = {total.where.get()};
  for (std::size_t k = 0; k < parts.size(); ++k) {
    const Meaning& part = *parts[k];
    if (part.op == Op::both) {
      for (const MeaningPtr& arg : part.args) parts.push_back(arg.get());
      continue;
    }
    // Totals inside the part have slots of their own beyond these.
    const int reads = last_slot(part),
              last = std::clamp(reads, static_cast<int>(first_slot), deepest);
    if (reads < static_cast<int>(first_slot)) {
      total.levels.front().guards.push_back(&part);
      continue;
    }
    Level& level = total.levels[static_cast<std::size_t>(last) - first_slot];
    bool looked_up = false;
    if (part.op == Op::compare_text && part.text == "=" && level.lookup_column < 0) {
      for (const auto& [own, other] :
           {std::pair(&part.left, &part.right), std::pair(&part.right, &part.left)}) {
        if (looked_up || own->kind != Key::Kind::cell || own->path.slot != level.slot ||
            !own->path.steps.empty())
          continue;
        if (other->kind != Key::Kind::literal && last_slot(other->path) >= level.slot) continue;
        level.lookup_column = own->path.column;
        level.lookup = *other;
        looked_up = true;
      }
    }
    if (!looked_up) level.tests.push_back(&part);
  }
}

}  // namespace kiteknot::formats::knot
