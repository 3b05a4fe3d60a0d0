#pragma once
// Evaluates meanings for given rows. Errors that depend on a row (a missing combination, a division
// by 0) are thrown as Failure with the place in the model file.

#include "formats/knot/meaning.hpp"

namespace kiteknot::formats::knot {

class Evaluator {
 public:
  explicit Evaluator(Tag model) : model_(std::move(model)) {}

  /// Puts rows into slots 0, 1, ...
  void set_rows(std::span<const Row> rows);
  Rational figure(const Meaning& m);
  bool holds(const Meaning& m);
  Expression expression(const Meaning& m);
  Condition condition(const Meaning& m);
  /// out += scale * m
  void add(const Meaning& m, const Rational& scale, Expression& out);

 private:
  [[nodiscard]] Index row_at(const CellPath& path) const;
  [[nodiscard]] Position unknown_key(std::span<const Key> keys, const TableData& table,
                                     Position otherwise) const;
  [[nodiscard]] Index named_row(const CellPath& path) const;
  [[nodiscard]] Rational cell(const Meaning& m) const;
  [[nodiscard]] std::string_view text(const Key& key) const;
  [[nodiscard]] Index member(const Meaning& m, const IndexSet& index);
  [[nodiscard]] std::vector<std::string> keys_of(const Meaning& m, const IndexSet& index);
  [[nodiscard]] Index row_of(const MemberPart& part, const TableData& table) const;
  Expression applied(const Meaning& m);
  Expression smooth(const Meaning& m);
  bool compares(const Meaning& m);
  bool counts(const Meaning& m);
  std::int32_t how_many(const Meaning& m);
  template <class Visit>
  void each_row(const Meaning& total, std::size_t level, const Visit& visit);
  [[nodiscard]] std::span<const Index> looked_up(const Level& level) const;
  [[nodiscard]] bool passes(const Level& level);

  Tag model_;
  std::vector<Index> slots_;
};

}  // namespace kiteknot::formats::knot
