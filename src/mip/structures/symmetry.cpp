#include "mip/structures/symmetry.hpp"

#include <algorithm>
#include <bit>
#include <map>
#include <numeric>
#include <unordered_map>

#include "mip/problem/exact_sums.hpp"

namespace kiteknot::mip {
namespace {

using Colour = Index;

std::uint64_t mixed(std::uint64_t x) {  // Steele, Lea, Flood 2014
  x = (x ^ (x >> 30U)) * 0xBF58476D1CE4E5B9U;
  x = (x ^ (x >> 27U)) * 0x94D049BB133111EBU;
  return x ^ (x >> 31U);
}

// Columns and then rows, by colours 0 .. num_colours - 1.
struct Colouring {
  std::vector<Colour> of;
  Index num_colours = 0;
};

class Finder {
 public:
  Finder(const Problem& problem, std::int64_t most, WorkCounter& work)
      : p_(problem),
        n_(problem.num_columns()),
        size_(at(problem.num_columns() + problem.num_rows())),
        work_(work),
        until_(work.units() + most),
        hash_(size_),
        order_(size_) {}

  Symmetry run() {
    Colouring start = refined(first());
    // The way down on the left: at each level the first colour that several columns share.
    std::vector<Level> way;
    way.push_back({std::move(start), {}});
    while (!spent()) {
      Level& here = way.back();
      here.cell = first_cell(here.colouring);
      if (here.cell.empty()) break;
      way.push_back({refined(told_apart(here.colouring, here.cell.front())), {}});
    }
    const bool whole_way = way.back().cell.empty() && !spent();
    if (!whole_way) return std::move(found_);
    for (std::size_t level = way.size() - 1; level-- > 0;) search_level(way, level);
    return std::move(found_);
  }

 private:
  struct Level {
    Colouring colouring;
    std::vector<Index> cell;  // columns of one colour, of which the first is told apart next
  };
  [[nodiscard]] bool spent() { return work_.units() >= until_ || work_.interrupted(); }

  // By all that a column or a row is by itself.
  Colouring first() {
    std::map<std::vector<double>, Colour> kinds;
    Colouring c{std::vector<Colour>(size_), 0};
    const auto give = [&](std::size_t v, std::vector<double> kind) {
      c.of[v] = kinds.emplace(std::move(kind), static_cast<Colour>(kinds.size())).first->second;
    };
    for (Index j = 0; j < n_; ++j)
      give(at(j), {0.0, p_.integer(j) ? 1.0 : 0.0, p_.lower(j), p_.upper(j), p_.cost(j)});
    for (Index i = 0; i < p_.num_rows(); ++i)
      give(at(n_ + i), {1.0, p_.row_lower(i), p_.row_upper(i)});
    c.num_colours = static_cast<Index>(kinds.size());
    return c;
  }

  // Colours again by what the old one and the hashed neighbours are, until there are no more.
  Colouring refined(Colouring c) {
    while (!spent()) {
      for (std::size_t v = 0; v < size_; ++v) hash_[v] = 0;
      for (Index i = 0; i < p_.num_rows(); ++i) {
        const auto index = p_.rows().index(i);
        const auto value = p_.rows().value(i);
        const auto row = at(n_ + i);
        for (std::size_t k = 0; k < index.size(); ++k) {
          const std::uint64_t entry = mixed(std::bit_cast<std::uint64_t>(value[k]));
          hash_[row] += mixed(entry + static_cast<std::uint64_t>(c.of[at(index[k])]));
          hash_[at(index[k])] += mixed(entry + static_cast<std::uint64_t>(c.of[row]));
        }
      }
      std::iota(order_.begin(), order_.end(), 0);
      std::sort(order_.begin(), order_.end(), [&](std::size_t a, std::size_t b) {
        return c.of[a] != c.of[b] ? c.of[a] < c.of[b] : hash_[a] < hash_[b];
      });
      work_.add(3 * p_.rows().num_nonzeros() + 16 * static_cast<std::int64_t>(size_));
      Colouring next{std::vector<Colour>(size_), 0};
      for (std::size_t k = 0; k < size_; ++k) {
        const std::size_t v = order_[k];
        if (k > 0 && (c.of[v] != c.of[order_[k - 1]] || hash_[v] != hash_[order_[k - 1]]))
          ++next.num_colours;
        next.of[v] = next.num_colours;
      }
      next.num_colours += size_ > 0 ? 1 : 0;
      const bool stable = next.num_colours == c.num_colours;
      c = std::move(next);
      if (stable) break;
    }
    return c;
  }

  static Colouring told_apart(Colouring c, Index column) {
    for (Colour& colour : c.of) colour *= 2;
    --c.of[at(column)];
    c.num_colours += 1;  // the next refinement numbers them anew
    return c;
  }

  [[nodiscard]] std::vector<Index> first_cell(const Colouring& c) const {
    std::vector<Index> count(at(c.num_colours), 0);
    for (Index j = 0; j < n_; ++j) ++count[at(c.of[at(j)])];
    for (Index j = 0; j < n_; ++j) {
      if (count[at(c.of[at(j)])] < 2) continue;
      std::vector<Index> cell;
      for (Index k = j; k < n_; ++k)
        if (c.of[at(k)] == c.of[at(j)]) cell.push_back(k);
      return cell;
    }
    return {};
  }

  // Tries to bring the level's column to every other one of its cell that is not reached yet.
  void search_level(const std::vector<Level>& way, std::size_t level) {
    const std::vector<Index>& cell = way[level].cell;
    for (std::size_t k = 1; k < cell.size(); ++k) {
      if (spent()) return;
      if (reached(way, level, cell.front(), cell[k])) continue;
      try_image(way, level, cell[k]);
    }
  }

  // By what was found and leaves the columns told apart above this level where they are.
  bool reached(const std::vector<Level>& way, std::size_t level, Index from, Index to) {
    std::vector<Index> reach = {from};
    std::vector<const Symmetry::Permutation*> usable;
    for (const auto& g : found_.generators) {
      const bool stays = std::none_of(g.begin(), g.end(), [&](const Symmetry::Move& m) {
        return std::any_of(way.begin(), way.begin() + static_cast<std::ptrdiff_t>(level),
                           [&](const Level& l) { return l.cell.front() == m.from; });
      });
      work_.add(static_cast<std::int64_t>(g.size() * (level + 1)));
      if (stays) usable.push_back(&g);
    }
    for (std::size_t k = 0; k < reach.size(); ++k)
      for (const auto* g : usable) {
        const auto it =
            std::lower_bound(g->begin(), g->end(), reach[k],
                             [](const Symmetry::Move& m, Index j) { return m.from < j; });
        if (it == g->end() || it->from != reach[k]) continue;
        if (std::find(reach.begin(), reach.end(), it->to) == reach.end()) reach.push_back(it->to);
      }
    return std::find(reach.begin(), reach.end(), to) != reach.end();
  }

  // Down on the right, as on the left, one way only.
  void try_image(const std::vector<Level>& way, std::size_t level, Index image) {
    Colouring right = refined(told_apart(way[level].colouring, image));
    for (std::size_t l = level + 1; !spent(); ++l) {
      const Colouring& left = way[l].colouring;
      if (left.num_colours != right.num_colours) return;
      if (candidate(left, right) || way[l].cell.empty()) return;
      const Colour colour = left.of[at(way[l].cell.front())];
      const auto it = std::find(right.of.begin(), right.of.begin() + n_, colour);
      if (it == right.of.begin() + n_) return;
      const auto column = static_cast<Index>(it - right.of.begin());
      right = refined(told_apart(std::move(right), column));
    }
  }

  // Columns alone of their colour go to those of the same one; where the others are the same on
  // both sides they stay.
  bool candidate(const Colouring& left, const Colouring& right) {
    std::vector<Index> count(at(left.num_colours), 0), there(at(left.num_colours), -1);
    for (Index j = 0; j < n_; ++j) {
      ++count[at(left.of[at(j)])];
      there[at(right.of[at(j)])] = j;
    }
    work_.add(2 * n_);
    Symmetry::Permutation moves;
    for (Index j = 0; j < n_; ++j) {
      const Colour colour = left.of[at(j)];
      if (count[at(colour)] > 1) {
        if (right.of[at(j)] != colour) return false;
      } else if (there[at(colour)] < 0) {
        return false;
      } else if (there[at(colour)] != j) {
        moves.push_back({j, there[at(colour)]});
      }
    }
    work_.add(4 * p_.rows().num_nonzeros());
    if (moves.empty() || !is_symmetry(p_, moves)) return false;
    found_.generators.push_back(std::move(moves));
    return true;
  }

  const Problem& p_;
  Index n_;
  std::size_t size_;
  WorkCounter& work_;
  std::int64_t until_;
  std::vector<std::uint64_t> hash_;
  std::vector<std::size_t> order_;
  Symmetry found_;
};

// A row as what it says, to be looked up.
using Said = std::vector<std::pair<Index, double>>;

Said sorted_row(const Problem& p, Index i, const std::vector<Index>& image) {
  Said row;
  for (std::size_t k = 0; k < p.row(i).index.size(); ++k)
    if (p.row(i).value[k] != 0.0) row.emplace_back(image[at(p.row(i).index[k])], p.row(i).value[k]);
  std::sort(row.begin(), row.end());
  row.emplace_back(-1, p.row_lower(i));
  row.emplace_back(-2, p.row_upper(i));
  return row;
}

}  // namespace

// Rows that the moved columns stand in are the same rows again, each as often as before.
bool is_symmetry(const Problem& p, const Symmetry::Permutation& moves) {
  std::vector<Index> image(at(p.num_columns())), same(at(p.num_columns()));
  std::iota(same.begin(), same.end(), 0);
  image = same;
  std::vector<char> taken(image.size(), 0);
  for (const auto& [from, to] : moves) {
    if (p.integer(from) != p.integer(to) || p.lower(from) != p.lower(to) ||
        p.upper(from) != p.upper(to) || p.cost(from) != p.cost(to) || taken[at(to)]++ != 0)
      return false;
    image[at(from)] = to;
  }
  for (const auto& [from, to] : moves)
    if (!taken[at(from)]) return false;  // not onto
  std::vector<char> touched(at(p.num_rows()), 0);
  std::vector<Said> before, after;
  for (const auto& [from, to] : moves)
    for (const Index i : p.columns().index(from))
      if (touched[at(i)]++ == 0) {
        before.push_back(sorted_row(p, i, same));
        after.push_back(sorted_row(p, i, image));
      }
  std::sort(before.begin(), before.end());
  std::sort(after.begin(), after.end());
  return before == after;
}

Symmetry find_symmetry(const Problem& p, std::int64_t most, WorkCounter& work) {
  if (p.num_conditions() > 0 || !p.linear() || !said_by_doubles(p)) return {};
  return Finder(p, most, work).run();
}

}  // namespace kiteknot::mip
