// What families are indexed by, and the names that come from there.

#include <algorithm>

#include <fmt/format.h>

#include "base/at.hpp"
#include "base/text.hpp"
#include "model/model_data.hpp"

namespace kiteknot {
namespace {
constexpr std::int64_t kMostMembers = 2'000'000;
}  // namespace

IndexSet::IndexSet(const Over& over) : tables(over.tables) {
  std::int64_t all = 1;
  for (const Table& t : tables) {
    all *= t.size();
    if (all > kMostMembers)
      throw UsageError(fmt::format("a family over {} would have more than {} members",
                                   tables.size() > 1 ? "these tables" : t.name(), kMostMembers));
  }
  count = static_cast<Index>(all);
  if (!over.where) return;
  std::vector<Row> rows;
  for (const Table& t : tables) rows.emplace_back(&t.data(), 0);
  Index kept = 0;
  std::vector<Index> digits(tables.size(), 0);
  for (std::int64_t k = 0; k < all; ++k) {
    std::int64_t rest = k;
    for (std::size_t t = tables.size(); t-- > 0;) {
      digits[t] = static_cast<Index>(rest % tables[t].size());
      rest /= tables[t].size();
      rows[t] = Row(&tables[t].data(), digits[t]);
    }
    if (!over.where(rows)) continue;
    tuples.insert(tuples.end(), digits.begin(), digits.end());
    member_of.emplace(static_cast<std::uint64_t>(k), kept++);
  }
  count = kept;
}

std::uint64_t IndexSet::place(std::span<const Row> rows) const {
  std::uint64_t k = 0;
  for (std::size_t t = 0; t < tables.size(); ++t)
    k = k * static_cast<std::uint64_t>(tables[t].size()) +
        static_cast<std::uint64_t>(rows[t].index());
  return k;
}

std::vector<Row> IndexSet::rows(Index member) const {
  std::vector<Row> rows;
  for (const Table& t : tables) rows.emplace_back(&t.data(), 0);
  Index rest = member;
  for (std::size_t t = tables.size(); t-- > 0;) {
    const Index row =
        tuples.empty() ? rest % tables[t].size() : tuples[at(member) * tables.size() + t];
    rest /= std::max<Index>(1, tables[t].size());
    rows[t] = Row(&tables[t].data(), row);
  }
  return rows;
}

Index IndexSet::member(std::span<const Row> rows) const {
  const std::uint64_t k = place(rows);
  if (tuples.empty()) return count > 0 ? static_cast<Index>(k) : -1;
  const auto it = member_of.find(k);
  return it == member_of.end() ? -1 : it->second;
}

std::vector<std::string> IndexSet::keys(Index member) const {
  std::vector<std::string> all;
  for (const Row row : rows(member))
    for (std::string& k : row.keys()) all.push_back(std::move(k));
  return all;
}

Index IndexSet::named(const std::vector<std::string>& keys) const {
  std::vector<Row> rows;
  std::size_t next = 0;
  for (const Table& t : tables) {
    std::vector<std::string_view> own;
    for (std::size_t k = 0; k < t.data().key.size() && next < keys.size(); ++k)
      own.emplace_back(keys[next++]);
    const Index row = t.data().find(own);
    if (row < 0) return -1;
    rows.emplace_back(&t.data(), row);
  }
  return next == keys.size() ? member(rows) : -1;
}

std::string IndexSet::why_not(const std::vector<std::string>& keys) const {
  std::vector<std::string> columns;
  std::vector<std::vector<std::string>> known;  // texts, by key
  for (const Table& t : tables) {
    const std::size_t first = columns.size();
    for (const Index c : t.data().key) columns.push_back(t.data().columns[at(c)]);
    known.resize(columns.size());
    for (const Row row : t) {
      const std::vector<std::string> own = row.keys();
      for (std::size_t k = 0; k < own.size(); ++k) known[first + k].push_back(own[k]);
    }
  }
  if (keys.size() != columns.size())
    return fmt::format(": its {} {}", columns.size() == 1 ? "key is" : "keys are", listed(columns));
  constexpr std::size_t kMostOrders = 4;
  if (keys.size() > 1 && keys.size() <= kMostOrders) {
    std::vector<std::string> order = keys;
    std::sort(order.begin(), order.end());
    do
      if (named(order) >= 0)
        return fmt::format(": its keys are in the wrong order; they are {}", listed(columns));
    while (std::next_permutation(order.begin(), order.end()));
  }
  for (std::size_t k = 0; k < keys.size(); ++k)
    if (std::find(known[k].begin(), known[k].end(), keys[k]) == known[k].end())
      return fmt::format(": no {} '{}'{}", columns[k], keys[k], nearest_hint(keys[k], known[k]));
  return keys.size() > 1 ? ": these do not go together" : "";
}

std::string full_name(const std::string& name, const std::vector<std::string>& keys) {
  if (keys.empty()) return name;
  std::string out = name + "[";
  for (std::size_t k = 0; k < keys.size(); ++k) {
    if (k > 0) out += ", ";
    const std::string& key = keys[k];
    if (key.find_first_of(",[]\"") == std::string::npos && !key.starts_with(' ') &&
        !key.ends_with(' ')) {
      out += key;
      continue;
    }
    out += '"';
    for (const char c : key) out += c == '"' ? std::string("\"\"") : std::string(1, c);
    out += '"';
  }
  return out + "]";
}

}  // namespace kiteknot
