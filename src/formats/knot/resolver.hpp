#pragma once
// From syntax to meaning: looks every name up and checks that figures, texts, rows and conditions
// stand where they belong.

#include <optional>

#include "formats/knot/meaning.hpp"

namespace kiteknot::formats::knot {

/// What a name outside of the row scope stands for; exactly one is set, or none.
struct Named {
  std::optional<Index> number;
  std::shared_ptr<const Family> family;
  std::shared_ptr<const LetFamily> let;
  std::shared_ptr<const CurveData> curve;
  const TableData* table = nullptr;
};

/// Where names come from; looking one up may bind its statement first.
class NameSource {
 public:
  virtual ~NameSource() = default;
  virtual Named find(const std::string& name, Position at) = 0;
  virtual Table need_table(const std::string& name, Position at) = 0;
  /// Makes sure that a computed column of the table is there, if one is stated.
  virtual void need_column(const TableData& table, const std::string& column) = 0;
  /// The statement at hand reads this column.
  virtual void note_use(const TableData& table, const std::string& column) = 0;
  /// Something at this place of the model file that its author should look at.
  virtual void warn(Position at, std::string message) = 0;
  virtual std::vector<std::string> known_values() const = 0;
  virtual std::vector<std::string> known_curves() const = 0;
};

class Resolver {
 public:
  Resolver(NameSource& names, Diagnostics& notes) : names_(names), notes_(notes) {}

  /// Opens row names; later calls see them. They stay until close().
  void open(const std::vector<RowName>& rows);
  void close(std::size_t count) { scope_.resize(scope_.size() - count); }

  MeaningPtr expression(const SyntaxNode& node);                         // figures and decisions
  MeaningPtr data_expression(const SyntaxNode& node, const char* what);  // figures from data only
  MeaningPtr condition(const SyntaxNode& node);                          // on decisions and data
  /// For "where" and "if", which a complaint names.
  MeaningPtr data_condition(const SyntaxNode& node, const char* word = "where");
  [[nodiscard]] const TableData* table_of_slot(std::size_t slot) const {
    return scope_[slot].table;
  }

 private:
  struct Slot {
    std::string row;
    const TableData* table;
  };
  [[nodiscard]] int slot_of(const std::string& row) const;
  /// The name of a row in view whose table has this column; empty: there is none.
  [[nodiscard]] std::string row_with_column(const std::string& column) const;
  MeaningPtr name(const SyntaxNode& node);
  MeaningPtr member(const SyntaxNode& node);
  MeaningPtr total(const SyntaxNode& node);
  MeaningPtr arithmetic(const SyntaxNode& node);
  MeaningPtr compare(const SyntaxNode& node);
  MeaningPtr figure_cell(const SyntaxNode& node);
  MeaningPtr apply(const SyntaxNode& node);
  MeaningPtr number_of(const SyntaxNode& node);
  MeaningPtr choice(const SyntaxNode& node);
  MeaningPtr count_of(const SyntaxNode& node);
  MeaningPtr has(const SyntaxNode& node);
  MeaningPtr truth(const SyntaxNode& node);
  MeaningPtr joined(Op op, const SyntaxNode& node);
  void look_for_matches(const Meaning& m);
  [[nodiscard]] bool is_row(const SyntaxNode& node) const;
  CellPath row(const SyntaxNode& node);
  CellPath path(const SyntaxNode& node);
  static void refer(CellPath& path, const SyntaxNode& cell);
  Key key(const SyntaxNode& node);
  void use_as_figure(CellPath& path, Position at);
  std::vector<MemberPart> parts(const SyntaxNode& node, const std::string& name,
                                std::span<const Table> tables);
  void plan_levels(Meaning& total, std::size_t first_slot);

  NameSource& names_;
  Diagnostics& notes_;
  std::vector<Slot> scope_;
};

}  // namespace kiteknot::formats::knot
