#include "formats/knot/resolver.hpp"

#include <algorithm>

#include <fmt/format.h>

#include "formats/knot/messages.hpp"

namespace kiteknot::formats::knot {
namespace {

[[noreturn]] void fail(Position at, std::string message) {
  throw Failure{at, std::move(message)};
}

MeaningPtr make(Op op, Position at) {
  auto m = std::make_unique<Meaning>();
  m->op = op;
  m->at = at;
  return m;
}

// Greatest slot that a meaning reads, or -1.
int last_slot(const Meaning& m) {
  int last = -1;
  const auto see_key = [&](const Key& k) {
    if (k.kind != Key::Kind::literal) last = std::max(last, k.path.slot);
  };
  if (m.op == Op::cell) last = m.path.slot;
  if (m.op == Op::compare_text) {
    see_key(m.left);
    see_key(m.right);
  }
  for (const MeaningPtr& arg : m.args) last = std::max(last, last_slot(*arg));
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

MeaningPtr Resolver::expression(const Node& node) {
  switch (node.kind) {
    case NodeKind::number: {
      MeaningPtr m = make(Op::constant, node.at);
      m->value = node.value;
      return m;
    }
    case NodeKind::text:
      fail(node.at, fmt::format("the text \"{}\" stands where a figure belongs", node.text));
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
    case NodeKind::negate:
    case NodeKind::add:
    case NodeKind::subtract:
    case NodeKind::multiply:
    case NodeKind::divide:
      return arithmetic(node);
    default:
      fail(node.at, "a condition stands where an expression belongs");
  }
}

MeaningPtr Resolver::name(const Node& node) {
  if (const int slot = slot_of(node.text); slot >= 0) {
    fail(node.at,
         messages::row_as_figure(node.text, *scope_[static_cast<std::size_t>(slot)].table));
  }
  const Named named = names_.find(node.text, node.at);
  if (named.number) {
    MeaningPtr m = make(Op::number, node.at);
    m->number = *named.number;
    m->has_numbers = true;
    return m;
  }
  if (named.table != nullptr) fail(node.at, messages::table_as_figure(node.text));
  if (!named.family && !named.let)
    fail(node.at, messages::no_value(node.text, names_.known_values()));
  return member(node);
}

MeaningPtr Resolver::member(const Node& node) {
  const Named named = names_.find(node.text, node.at);
  if (named.number) fail(node.at, fmt::format("{} is a number and has no rows", node.text));
  if (!named.family && !named.let)
    fail(node.at, messages::no_family(node.text, names_.known_values()));
  MeaningPtr m = make(named.family ? Op::decision : Op::named, node.at);
  m->text = node.text;
  m->family = named.family;
  m->named = named.let;
  m->has_decisions = named.family != nullptr;
  if (named.let)
    for (const Expression& e : named.let->values) {
      m->has_decisions = m->has_decisions || e.has_decisions();
      m->has_numbers = m->has_numbers || !e.factored().empty();
    }
  m->member = parts(node, node.text, named.family ? named.family->index : named.let->index);
  return m;
}

// Matches what stands in the brackets with the tables of the index: a row of the table itself, or
// one text (or referring row) for each of its key columns.
std::vector<MemberPart> Resolver::parts(const Node& node, const std::string& name,
                                        const IndexSet& index) {
  std::vector<MemberPart> parts;
  std::size_t next = 0;
  const auto wrong_count = [&] {
    fail(node.at, messages::wrong_key_count(name, index, node.args.size()));
  };
  for (const Table& table : index.tables) {
    if (next >= node.args.size()) wrong_count();
    MemberPart part;
    const Node& first = *node.args[next];
    const int slot = first.kind == NodeKind::name ? slot_of(first.text) : -1;
    if (slot >= 0 && scope_[static_cast<std::size_t>(slot)].table == &table.data()) {
      part.slot = slot;
      ++next;
    } else {
      for (const Index c : table.data().key) {
        if (next >= node.args.size()) wrong_count();
        const Node& arg = *node.args[next++];
        Key k = key(arg);
        const auto reference = table.data().tables.find(c);
        if (k.kind == Key::Kind::row &&
            (reference == table.data().tables.end() || reference->second.get() != k.path.table))
          fail(arg.at,
               messages::wrong_key_table(name, index, arg.text, *k.path.table,
                                         table.data().columns[static_cast<std::size_t>(c)]));
        part.keys.push_back(std::move(k));
      }
    }
    parts.push_back(std::move(part));
  }
  if (next != node.args.size()) wrong_count();
  return parts;
}

Key Resolver::key(const Node& node) {
  Key k;
  k.at = node.at;
  if (node.kind == NodeKind::text) {
    k.text = node.text;
    return k;
  }
  if (node.kind == NodeKind::name) {
    const int slot = slot_of(node.text);
    if (slot < 0) fail(node.at, messages::key_without_quotes(node.text));
    k.kind = Key::Kind::row;
    k.path.slot = slot;
    k.path.table = scope_[static_cast<std::size_t>(slot)].table;
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

CellPath Resolver::path(const Node& node) {
  std::vector<const Node*> cells;
  const Node* at = &node;
  for (; at->kind == NodeKind::cell; at = at->args[0].get()) cells.push_back(at);
  if (at->kind != NodeKind::name) fail(at->at, "only a row has columns");
  CellPath p;
  p.slot = slot_of(at->text);
  if (p.slot < 0) {
    std::vector<std::string> rows;
    for (const Slot& s : scope_) rows.push_back(s.row);
    fail(at->at, messages::no_row_name(at->text, rows));
  }
  p.table = scope_[static_cast<std::size_t>(p.slot)].table;
  for (std::size_t k = cells.size(); k-- > 0;) {
    const Node& cell = *cells[k];
    names_.need_column(*p.table, cell.text);
    const Index column = p.table->column(cell.text);
    if (k > 0) {
      const auto next = column < 0 ? p.table->tables.end() : p.table->tables.find(column);
      if (column < 0) fail(cell.at, messages::no_column(cell.text, *p.table));
      if (next == p.table->tables.end()) fail(cell.at, messages::no_reference(cell.text, *p.table));
      p.steps.push_back(&p.table->references.at(column));
      p.table = next->second.get();
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
  p.figures = &p.table->figures(p.column, wrong);
  if (!wrong.has_errors()) return;
  notes_.append(wrong);
  throw Failure{at, ""};  // told already, at the cells
}

MeaningPtr Resolver::figure_cell(const Node& node) {
  MeaningPtr m = make(Op::cell, node.at);
  m->path = path(node);
  use_as_figure(m->path, node.at);
  return m;
}

MeaningPtr Resolver::arithmetic(const Node& node) {
  static constexpr std::pair<NodeKind, Op> kOps[] = {{NodeKind::negate, Op::negate},
                                                     {NodeKind::add, Op::add},
                                                     {NodeKind::subtract, Op::subtract},
                                                     {NodeKind::multiply, Op::multiply},
                                                     {NodeKind::divide, Op::divide}};
  Op op = Op::add;
  for (const auto& [kind, meaning] : kOps)
    if (kind == node.kind) op = meaning;
  MeaningPtr m = make(op, node.at);
  for (const NodePtr& arg : node.args) {
    m->args.push_back(expression(*arg));
    m->has_decisions = m->has_decisions || m->args.back()->has_decisions;
    m->has_numbers = m->has_numbers || m->args.back()->has_numbers;
  }
  if (op == Op::multiply && m->args[0]->has_decisions && m->args[1]->has_decisions)
    fail(node.at,
         "a product of decisions is not linear; this version reads only figures and numbers times "
         "decisions");
  if (op == Op::divide && m->args[1]->has_decisions)
    fail(node.at, "a division by a decision is not linear");
  return m;
}

MeaningPtr Resolver::data_expression(const Node& node, const char* what) {
  MeaningPtr m = expression(node);
  if (m->has_decisions)
    fail(node.at, fmt::format("{} is computed from data, not from decisions", what));
  return m;
}

MeaningPtr Resolver::total(const Node& node) {
  MeaningPtr m = make(Op::total, node.at);
  const std::size_t first = scope_.size();
  open(node.rows);
  m->args.push_back(expression(*node.args[0]));
  if (node.args.size() > 1) m->args.push_back(data_condition(*node.args[1]));
  m->has_decisions = m->args[0]->has_decisions;
  m->has_numbers = m->args[0]->has_numbers;
  plan_levels(*m, first);
  close(node.rows.size());
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
  if (total.args.size() < 2) return;
  std::vector<const Meaning*> parts = {total.args[1].get()};
  for (std::size_t k = 0; k < parts.size(); ++k) {
    const Meaning& part = *parts[k];
    if (part.op == Op::both) {
      for (const MeaningPtr& arg : part.args) parts.push_back(arg.get());
      continue;
    }
    const int last = std::max(last_slot(part), static_cast<int>(first_slot));
    Level& level = total.levels[static_cast<std::size_t>(last) - first_slot];
    bool looked_up = false;
    if (part.op == Op::compare_text && part.text == "=" && level.lookup_column < 0) {
      for (const auto& [own, other] :
           {std::pair(&part.left, &part.right), std::pair(&part.right, &part.left)}) {
        if (looked_up || own->kind != Key::Kind::cell || own->path.slot != level.slot ||
            !own->path.steps.empty())
          continue;
        if (other->kind != Key::Kind::literal && other->path.slot >= level.slot) continue;
        level.lookup_column = own->path.column;
        level.lookup = *other;
        looked_up = true;
      }
    }
    if (!looked_up) level.tests.push_back(&part);
  }
}

MeaningPtr Resolver::data_condition(const Node& node) {
  static constexpr std::pair<NodeKind, Op> kOps[] = {
      {NodeKind::both, Op::both}, {NodeKind::either, Op::either}, {NodeKind::inverse, Op::inverse}};
  for (const auto& [kind, op] : kOps) {
    if (kind != node.kind) continue;
    MeaningPtr m = make(op, node.at);
    for (const NodePtr& arg : node.args) m->args.push_back(data_condition(*arg));
    return m;
  }
  if (node.kind == NodeKind::compare) return compare(node);
  if (node.kind == NodeKind::range)
    fail(node.at, "write this 'where' as two comparisons with 'and'");
  fail(node.at, "'where' takes a condition on data, such as a.column = b.column");
}

MeaningPtr Resolver::compare(const Node& node) {
  const Node& l = *node.args[0];
  const Node& r = *node.args[1];
  const auto is_row = [&](const Node& n) {
    return n.kind == NodeKind::name && slot_of(n.text) >= 0;
  };
  const auto is_text = [&](const Node& n) { return n.kind == NodeKind::text || is_row(n); };
  bool as_text = is_text(l) || is_text(r);
  if (!as_text && l.kind == NodeKind::cell && r.kind == NodeKind::cell &&
      (node.text == "=" || node.text == "!=")) {
    // Two plain columns: keys and references are texts; otherwise figures if both are.
    for (const Node* n : {&l, &r}) {
      const CellPath p = path(*n);
      if (p.column < 0) continue;
      Diagnostics unread;
      (void)p.table->figures(p.column, unread);
      as_text = as_text || unread.has_errors() || p.table->tables.contains(p.column) ||
                std::find(p.table->key.begin(), p.table->key.end(), p.column) != p.table->key.end();
    }
  }
  if (as_text) {
    if (node.text != "=" && node.text != "!=")
      fail(node.at, "texts are compared with = or != only");
    MeaningPtr m = make(Op::compare_text, node.at);
    m->text = node.text;
    m->left = key(l);
    m->right = key(r);
    return m;
  }
  MeaningPtr m = make(Op::compare, node.at);
  m->text = node.text;
  for (const NodePtr& arg : node.args) {
    m->args.push_back(data_expression(*arg, "a 'where' condition"));
    if (m->args.back()->has_numbers)
      fail(arg->at, "'where' takes conditions on data only; a number may be set again later");
  }
  return m;
}

}  // namespace kiteknot::formats::knot
