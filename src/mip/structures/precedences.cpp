#include "mip/structures/precedences.hpp"

#include <algorithm>
#include <cmath>
#include <map>

#include "base/interval.hpp"

namespace kiteknot::mip {
namespace {

// A column that may be when something begins.
bool may_begin(const Problem& p, Index j) {
  return p.upper(j) - p.lower(j) > 1.0;
}
bool is_binary(const Problem& p, Index j) {
  return p.integer(j) && p.lower(j) == 0.0 && p.upper(j) == 1.0;
}

class PrecedenceFinder {
 public:
  PrecedenceFinder(const Problem& problem, WorkCounter& work) : p_(problem), work_(work) {}

  Precedences run() {
    read_rows();
    pair_up();
    find_cliques();
    return std::move(found_);
  }

 private:
  struct Both {
    Precedence there, back;
    bool in_machine = false;
  };
  using Key = std::pair<Index, Index>;  // the lower column first

  // a (to - from) + b z >= limit: with z at either value one limit of the difference.
  void read(const RowView& row, const Choice& when) {
    if (!row.exact || row.index.size() < 2 || row.index.size() > 3) return;
    if (row.index.size() == 3 && when.column >= 0) return;
    std::size_t from = 3, to = 3, z = 3;
    for (std::size_t k = 0; k < row.index.size(); ++k) {
      if (may_begin(p_, row.index[k]))
        (row.value[k] > 0.0 ? to : from) = k;
      else
        z = k;
    }
    if (from == 3 || to == 3 || (row.index.size() == 3) != (z < 3)) return;
    if (z < 3 && !is_binary(p_, row.index[z])) return;
    if (row.value[from] != -row.value[to]) return;
    const double a = row.value[to];
    const auto note = [&](Index earlier, Index later, double limit, const Choice& choice) {
      double gap = divide_down(limit, a);
      if (p_.integer(earlier) && p_.integer(later)) gap = std::ceil(gap);
      if (gap > 0.0) all_.push_back({earlier, later, gap, choice});
    };
    for (const bool upper : {false, true}) {
      const double limit = upper ? -row.upper : row.lower;
      if (std::isinf(limit)) continue;
      const Index earlier = row.index[upper ? to : from], later = row.index[upper ? from : to];
      if (z == 3) {
        note(earlier, later, limit, when);
        continue;
      }
      const double b = upper ? -row.value[z] : row.value[z];
      note(earlier, later, limit, {row.index[z], false});
      note(earlier, later, add_down(limit, -b), {row.index[z], true});
    }
  }

  void read_rows() {
    for (Index i = 0; i < p_.num_rows(); ++i)
      if (p_.known_row(i) == nullptr) read(p_.row(i), {});
    for (const auto& kind : p_.kinds().all())
      kind->visit_guarded_rows(p_, [&](const RowView& row, Index column, double value) {
        if (is_binary(p_, column)) read(row, {column, value == 1.0});
      });
    work_.add(p_.num_rows());
    for (const Precedence& p : all_)
      if (p.when.column < 0) found_.always.push_back(p);
  }

  // Precedences one way and the other under opposite choices; or one that always holds.
  void pair_up() {
    std::map<Key, std::vector<Precedence>> by_pair;
    for (const Precedence& p : all_) by_pair[std::minmax(p.from, p.to)].push_back(p);
    work_.add(20 * static_cast<std::int64_t>(all_.size()));
    for (const auto& [key, list] : by_pair) {
      Both best;
      for (const Precedence& p : list) {
        if (p.when.column < 0) {
          best = {p, {}, false};
          break;
        }
        for (const Precedence& q : list)
          if (p.from == key.first && q.from == key.second && p.when.column == q.when.column &&
              p.when.one != q.when.one)
            best = {p, q, false};
      }
      if (best.there.from < 0) continue;
      pairs_.emplace(key, best);
      near_[key.first].push_back(key.second);
      near_[key.second].push_back(key.first);
    }
  }

  [[nodiscard]] bool apart(Index a, Index b) {
    work_.add(10);
    return pairs_.contains(std::minmax(a, b));
  }

  // From every pair that is in no machine yet, all that is apart from all so far.
  void find_cliques() {
    constexpr std::size_t kMostTasks = 500;
    const std::int64_t until = work_.units() + 50'000'000;
    for (auto& [key, both] : pairs_) {
      if (both.in_machine || both.there.when.column < 0) continue;
      if (work_.units() > until || work_.interrupted()) return;
      std::vector<Index> clique{key.first, key.second};
      for (const Index c : near_[key.first]) {
        if (c == key.second || clique.size() >= kMostTasks) continue;
        if (std::ranges::all_of(clique, [&](Index b) { return b != c && apart(c, b); }))
          clique.push_back(c);
      }
      if (clique.size() > 2) add_machine(std::move(clique));
    }
  }

  void add_machine(std::vector<Index> begin) {
    std::ranges::sort(begin);
    MachineTasks m;
    const std::size_t n = begin.size();
    m.begin = std::move(begin);
    m.before.resize(n * n);
    m.takes.assign(n, kInf);
    for (std::size_t a = 0; a < n; ++a)
      for (std::size_t b = 0; b < a; ++b) {
        Both& both = pairs_.at(std::minmax(m.begin[a], m.begin[b]));
        both.in_machine = true;
        for (const Precedence& p : {both.there, both.back}) {
          if (p.from < 0) continue;
          const bool a_first = p.from == m.begin[a];
          m.before[a_first ? a * n + b : b * n + a] = p;
          double& takes = m.takes[a_first ? a : b];
          takes = std::min(takes, p.gap);
        }
      }
    // One that always comes last keeps nothing waiting.
    for (double& takes : m.takes)
      if (takes == kInf) takes = 0.0;
    found_.machines.push_back(std::move(m));
  }

  const Problem& p_;
  WorkCounter& work_;
  std::vector<Precedence> all_;
  std::map<Key, Both> pairs_;
  std::map<Index, std::vector<Index>> near_;
  Precedences found_;
};

}  // namespace

const Precedences* precedences_of(const Problem& problem) {
  for (const auto& kind : problem.kinds().all())
    if (const Precedences* found = kind->precedences()) return found;
  return nullptr;
}

Precedences find_precedences(const Problem& problem, WorkCounter& work) {
  return PrecedenceFinder(problem, work).run();
}

}  // namespace kiteknot::mip
