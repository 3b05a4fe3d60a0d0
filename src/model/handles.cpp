// What programs hold of a model: families of decisions and of named expressions, and the rows that
// they are asked for.

#include <fmt/format.h>

#include "base/text.hpp"
#include "model/model_data.hpp"

namespace kiteknot {

namespace {

// Rows that such a family has, one for each of its tables.
void need_rows_of(const std::string& name, const IndexSet& index, std::span<const Row> rows) {
  if (rows.size() != index.tables.size())
    throw UsageError(fmt::format("{} is indexed by {}, not {}", name,
                                 counted(index.tables.size(), "row"), rows.size()));
  for (std::size_t t = 0; t < rows.size(); ++t) {
    const TableData* of = rows[t].table();
    if (of != &index.tables[t].data())
      throw UsageError(fmt::format("{} is indexed by rows of {}, not of {}", name,
                                   index.tables[t].name(), of == nullptr ? "none" : of->name));
    if (rows[t].index() < 0 || rows[t].index() >= of->num_rows())
      throw UsageError(fmt::format("table {} has no row at place {}", of->name, rows[t].index()));
  }
}

}  // namespace

const Family& Decisions::family() const {
  if (!family_) throw UsageError("decisions that no model has stated were asked for");
  return *family_;
}

Decision Decisions::at(std::span<const Row> rows) const {
  const IndexSet& index = family().index;
  need_rows_of(family_->name, index, rows);
  const Index place = index.member(rows);
  if (place < 0) {
    std::vector<std::string> keys;
    for (const Row r : rows)
      for (std::string& k : r.keys()) keys.push_back(std::move(k));
    throw UsageError(fmt::format("there is no {}", full_name(family_->name, keys)));
  }
  return member(place);
}

Decision Decisions::named(const std::vector<std::string>& keys) const {
  const Index place = family().index.named(keys);
  if (place >= 0) return member(place);
  throw UsageError(fmt::format("there is no {}{}", full_name(family_->name, keys),
                               family_->index.why_not(keys)));
}

std::int32_t Decisions::size() const noexcept {
  return family_ ? family_->index.count : 0;
}
Decision Decisions::member(std::int32_t i) const {
  if (i < 0 || i >= family().index.count)
    throw UsageError(fmt::format("{} has {}, not one at place {}", family_->name,
                                 counted(static_cast<std::size_t>(size()), "member"), i));
  return {model_, family_->first + i, family_->binary};
}
Decision Decisions::only() const {
  if (!family().index.tables.empty())
    throw UsageError(fmt::format("{} is a family over {}; name one of its rows", family_->name,
                                 family_->index.tables[0].name()));
  return member(0);
}

const Expression& Quantities::at(std::span<const Row> rows) const {
  if (!family_) throw UsageError("an expression that no model has named was asked for");
  need_rows_of(family_->name, family_->index, rows);
  const Index member = family_->index.member(rows);
  if (member < 0) throw UsageError(fmt::format("{} has no such row", family_->name));
  return family_->values[static_cast<std::size_t>(member)];
}

void need_rows(std::size_t wants, std::size_t given) {
  if (wants != given)
    throw UsageError(fmt::format("a function of {} was given for {}: it wants one row for each",
                                 counted(wants, "row"), counted(given, "table")));
}

}  // namespace kiteknot
