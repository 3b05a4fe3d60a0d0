#pragma once
// Made cases of the field's classic kinds, after published recipes: models in the Knot language
// with their tables, drawn by seed, to try ways on; also with a planted plan whose optimum is
// known.

#include <cstdint>
#include <optional>
#include <string>
#include <utility>
#include <vector>

#include "kiteknot/rational.hpp"

#pragma GCC visibility push(default)
namespace kiteknot {

struct MadeKind {
  std::string name;   ///< "cover"
  std::string about;  ///< one line
  std::string source;
  std::string hard;                  ///< where it is known to be hard
  std::vector<std::string> sizes;    ///< what is counted: "needs", "sets"
  std::vector<std::int32_t> usual;   ///< so many, where nothing is said
  std::vector<std::string> classes;  ///< the first one where nothing is said; empty: there is one
  bool planted = false;              ///< it can be made with a known optimum
};
const std::vector<MadeKind>& made_kinds();

struct MadeAsked {
  std::string kind;
  std::vector<std::int32_t> sizes{};  ///< as MadeKind::sizes; empty: the usual ones
  std::string variant{};              ///< one of MadeKind::classes
  std::uint64_t seed = 1;
  bool planted = false;
};

struct MadeCase {
  /// Files by name and what stands in them; the first one is the model, or a list of stops.
  std::vector<std::pair<std::string, std::string>> files;
  std::optional<Rational> optimum;  ///< of the first goal, where it was planted
};
/// The files of one case; their names begin with `name`. UsageError for a kind or class that is
/// none (with the nearest), a wrong number of sizes, sizes below 1 or beyond a million rows
/// together, and a planted case of a kind that has none.
MadeCase make_case(const MadeAsked& asked, const std::string& name);

}  // namespace kiteknot
#pragma GCC visibility pop
