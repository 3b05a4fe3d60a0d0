#include "mip/structures/network.hpp"

#include <algorithm>
#include <cmath>

#include "structures/matching.hpp"

namespace kiteknot::mip {
namespace {

using structures::Arc;
using structures::FlowTree;
using structures::Matching;
using structures::Pair;

// Rows in two colours, so that the two entries of every column have opposite signs once the rows of
// one colour are turned round. Empty where that cannot be.
std::vector<signed char> turned(const Problem& p) {
  std::vector<signed char> sign(at(p.num_rows()), 0);
  std::vector<Index> stack;
  for (Index start = 0; start < p.num_rows(); ++start) {
    if (sign[at(start)] != 0) continue;
    sign[at(start)] = 1;
    stack.assign(1, start);
    while (!stack.empty()) {
      const Index i = stack.back();
      stack.pop_back();
      const RowView row = p.row(i);
      for (std::size_t k = 0; k < row.index.size(); ++k) {
        const auto rows = p.columns().index(row.index[k]);
        const auto values = p.columns().value(row.index[k]);
        if (rows.size() < 2) continue;
        const std::size_t other = rows[0] == i ? 1 : 0;
        const bool same = (values[0] > 0.0) == (values[1] > 0.0);
        const auto wanted = static_cast<signed char>(same ? -sign[at(i)] : sign[at(i)]);
        signed char& there = sign[at(rows[other])];
        if (there == 0) {
          there = wanted;
          stack.push_back(rows[other]);
        } else if (there != wanted) {
          return {};
        }
      }
    }
  }
  return sign;
}

bool has_whole_ends(double lower, double upper) {
  return (std::isinf(lower) || whole(lower)) && (std::isinf(upper) || whole(upper));
}

// The pairs of an assignment: every row takes exactly one from its columns or sends exactly one, as
// many rows on either side, and every column stands for a pair of them. Nothing where it is none.
std::optional<std::vector<Pair>> as_assignment(const Problem& p, const std::vector<Arc>& arcs) {
  std::vector<Index> number;  // of a row among those of its side
  std::vector<char> takes;
  Index senders = 0, takers = 0;
  for (Index i = 0; i < p.num_rows(); ++i) {
    const Arc& logical = arcs[at(p.num_columns() + i)];
    if (logical.lower != logical.upper || std::abs(logical.lower) != 1.0) return std::nullopt;
    takes.push_back((logical.from == i) == (logical.lower > 0.0));
    number.push_back(takes.back() ? takers++ : senders++);
  }
  if (senders != takers) return std::nullopt;
  std::vector<Pair> pairs;
  for (Index j = 0; j < p.num_columns(); ++j) {
    const Arc& a = arcs[at(j)];
    const Index root = p.num_rows();
    if (a.lower != 0.0 || a.upper < 1.0 || a.from == root || a.to == root || takes[at(a.from)] ||
        !takes[at(a.to)])
      return std::nullopt;
    pairs.push_back({number[at(a.from)], number[at(a.to)], a.cost});
  }
  return pairs;
}

lp::Basis basis_of(const Problem& p, const std::vector<Arc>& arcs, const FlowTree& tree) {
  using lp::VariableStatus;
  lp::Basis basis;
  const auto place = [&](std::size_t k) {
    switch (tree.place[k]) {
      case FlowTree::Place::tree:
        return VariableStatus::basic;
      case FlowTree::Place::at_lower:
        return VariableStatus::at_lower;
      case FlowTree::Place::at_upper:
        return VariableStatus::at_upper;
      case FlowTree::Place::at_zero:
        break;
    }
    return VariableStatus::at_zero;
  };
  for (Index j = 0; j < p.num_columns(); ++j) basis.columns.push_back(place(at(j)));
  for (Index i = 0; i < p.num_rows(); ++i) {
    const std::size_t k = at(p.num_columns() + i);
    VariableStatus where = tree.outside[at(i)] ? VariableStatus::basic : place(k);
    // A row that was turned round has its ends the other way.
    if (arcs[k].from == i &&
        (where == VariableStatus::at_lower || where == VariableStatus::at_upper))
      where =
          where == VariableStatus::at_lower ? VariableStatus::at_upper : VariableStatus::at_lower;
    basis.rows.push_back(where);
  }
  return basis;
}

lp::Basis basis_of(const Problem& p, const Matching& matching) {
  lp::Basis basis;
  basis.columns.assign(at(p.num_columns()), lp::VariableStatus::at_lower);
  basis.rows.assign(at(p.num_rows()), lp::VariableStatus::at_lower);
  for (const Index k : matching.tree) basis.columns[at(k)] = lp::VariableStatus::basic;
  basis.rows.front() = lp::VariableStatus::basic;  // one of the equations follows from the others
  return basis;
}

}  // namespace

std::optional<std::vector<Arc>> as_network(const Problem& p) {
  if (!p.linear() || p.num_rows() == 0) return std::nullopt;
  for (Index j = 0; j < p.num_columns(); ++j)
    if (p.columns().size(j) > 2 || !has_whole_ends(p.lower(j), p.upper(j))) return std::nullopt;
  std::vector<double> size;  // of the entries of each row
  for (Index i = 0; i < p.num_rows(); ++i) {
    const RowView row = p.row(i);
    if (row.index.empty() || !row.exact) return std::nullopt;
    size.push_back(std::abs(row.value[0]));
    if (size.back() == 0.0) return std::nullopt;
    for (const double v : row.value)
      if (std::abs(v) != size.back()) return std::nullopt;
  }
  const std::vector<signed char> sign = turned(p);
  if (sign.empty()) return std::nullopt;
  const Index root = p.num_rows();
  std::vector<Arc> arcs;
  for (Index j = 0; j < p.num_columns(); ++j) {
    Arc arc{root, root, p.lower(j), p.upper(j), p.cost(j)};
    const auto rows = p.columns().index(j);
    const auto values = p.columns().value(j);
    for (std::size_t k = 0; k < rows.size(); ++k)
      (values[k] * sign[at(rows[k])] > 0.0 ? arc.from : arc.to) = rows[k];
    arcs.push_back(arc);
  }
  // What a row may take comes to it, or leaves it where it was turned round.
  for (Index i = 0; i < p.num_rows(); ++i) {
    double lower = p.row_lower(i) / size[at(i)], upper = p.row_upper(i) / size[at(i)];
    if (p.row_whole(i)) {
      lower = std::ceil(lower);
      upper = std::floor(upper);
    }
    if (!has_whole_ends(lower, upper)) return std::nullopt;
    arcs.push_back(sign[at(i)] > 0 ? Arc{root, i, lower, upper, 0.0}
                                   : Arc{i, root, lower, upper, 0.0});
  }
  return arcs;
}

std::optional<NetworkStart> network_start(const Problem& p, Index least_columns,
                                          WorkCounter& work) {
  constexpr std::int64_t kLooks = 2'000, kGrace = 100'000'000;
  if (p.num_columns() < least_columns) return std::nullopt;
  work.add(3 * p.rows().num_nonzeros());
  const auto arcs = as_network(p);
  if (!arcs) return std::nullopt;
  NetworkStart start;
  if (const auto pairs = as_assignment(p, *arcs)) {
    const auto matching = structures::cheapest_matching(p.num_rows() / 2, *pairs, work);
    if (!matching) return std::nullopt;
    start.structure = "assignment";
    start.method = "shortest augmenting paths";
    start.basis = basis_of(p, *matching);
    return start;
  }
  const auto tree = structures::cheapest_flow(p.num_rows() + 1, *arcs,
                                              kLooks * p.rows().num_nonzeros() + kGrace, work);
  if (!tree) return std::nullopt;
  start.structure = "network of flows";
  start.method = "the network simplex method";
  start.basis = basis_of(p, *arcs, *tree);
  return start;
}

}  // namespace kiteknot::mip
