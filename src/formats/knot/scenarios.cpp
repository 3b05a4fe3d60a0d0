#include "formats/knot/scenarios.hpp"

#include <algorithm>
#include <set>

#include <fmt/format.h>

#include "base/text.hpp"

namespace kiteknot::formats::knot {

void Scenarios::enter(const Statement& st) {
  const auto [it, fresh] = by_name_.emplace(st.heading.name, &st);
  if (!fresh)
    fail(st.heading.at, fmt::format("there is a scenario \"{}\" already, on line {}",
                                    st.heading.name, it->second->at.line));
  std::set<std::string> things;
  const auto clash = [&](const Change& c, const std::string& thing) {
    fail(c.at, fmt::format("the scenario changes {} twice", thing));
  };
  for (const Change& c : st.changes) {
    const std::string thing = c.thing();
    if (!things.insert(thing).second) clash(c, thing);
    // A column that is scaled keeps no cell of its own, whichever is said first.
    const std::string column = c.name + "." + c.column;
    if (c.kind == ChangeKind::cell && !things.insert("cells of " + column).second) continue;
    if (c.kind == ChangeKind::cell && things.contains(column)) clash(c, column);
    if (c.kind == ChangeKind::scale && things.contains("cells of " + column)) clash(c, column);
  }
}

std::vector<const Change*> Scenarios::changes(const std::string& name, Position at) const {
  std::vector<const Change*> all;
  std::set<std::string> seen, things;
  std::string next = name;
  while (!next.empty()) {
    const auto it = by_name_.find(next);
    if (it == by_name_.end())
      fail(at, fmt::format("there is no scenario \"{}\"{}", next, nearest_hint(next, names())));
    if (!seen.insert(next).second)
      fail(at, fmt::format("a circle of scenarios through \"{}\"", next));
    const Statement& st = *it->second;
    // Nearest first; what it changes, the ones further off do not.
    for (const Change& c : st.changes)
      if (things.insert(c.thing()).second) all.push_back(&c);
    next = st.like;
    at = st.like_at;
  }
  std::reverse(all.begin(), all.end());
  return all;
}

std::vector<std::string> Scenarios::names() const {
  std::vector<std::string> all;
  for (const auto& [name, st] : by_name_) all.push_back(name);
  return all;
}

}  // namespace kiteknot::formats::knot
