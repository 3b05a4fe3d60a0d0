#include "mip/tree/overflow.hpp"

#include <algorithm>

namespace kiteknot::mip {
namespace {

constexpr std::size_t kBlock = 1'000;  // nodes

struct Fixed {  // what every node has
  std::int64_t number = 0;
  double bound = 0.0;
  Branched branched;
  std::int64_t changes = 0;
};

template <class T>
bool put_all(std::FILE* file, const T* items, std::size_t count) {
  return count == 0 || std::fwrite(items, sizeof(T), count, file) == count;
}

template <class T>
bool get_all(std::FILE* file, T* items, std::size_t count) {
  return count == 0 || std::fread(items, sizeof(T), count, file) == count;
}

}  // namespace

bool Overflow::write(const Node& node) {
  const Fixed fixed{node.number, node.bound, node.branched,
                    static_cast<std::int64_t>(node.changes.size())};
  return put_all(file_.get(), &fixed, 1) &&
         put_all(file_.get(), node.changes.data(), node.changes.size());
}

bool Overflow::read(Node& node) {
  Fixed fixed;
  if (!get_all(file_.get(), &fixed, 1)) return false;
  node.number = fixed.number;
  node.bound = fixed.bound;
  node.branched = fixed.branched;
  node.changes.resize(static_cast<std::size_t>(fixed.changes));
  return get_all(file_.get(), node.changes.data(), node.changes.size());
}

bool Overflow::put(std::vector<Node> nodes) {
  if (!file_) file_.reset(std::tmpfile());
  if (!file_ || std::fseek(file_.get(), 0, SEEK_END) != 0) return false;
  std::sort(nodes.begin(), nodes.end(), [](const Node& a, const Node& b) {
    return a.bound != b.bound ? a.bound < b.bound : a.number < b.number;
  });
  const std::size_t before = blocks_.size();
  bool written = true;
  for (std::size_t first = 0; first < nodes.size() && written; first += kBlock) {
    const std::size_t count = std::min(kBlock, nodes.size() - first);
    blocks_.push_back({nodes[first].bound, std::ftell(file_.get()), count});
    written = blocks_.back().place >= 0;
    for (std::size_t k = first; k < first + count && written; ++k) written = write(nodes[k]);
  }
  written = written && std::fflush(file_.get()) == 0;
  if (!written) {
    blocks_.resize(before);
    return false;
  }
  size_ += static_cast<std::int64_t>(nodes.size());
  ever_ += static_cast<std::int64_t>(nodes.size());
  return true;
}

std::size_t Overflow::best() const {
  std::size_t best = 0;
  for (std::size_t k = 1; k < blocks_.size(); ++k)
    if (blocks_[k].bound < blocks_[best].bound) best = k;
  return best;
}

double Overflow::best_bound() const {
  return blocks_.empty() ? std::numeric_limits<double>::infinity() : blocks_[best()].bound;
}

std::vector<Node> Overflow::take() {
  const std::size_t k = best();
  const Block block = blocks_[k];
  blocks_.erase(blocks_.begin() + static_cast<std::ptrdiff_t>(k));
  size_ -= static_cast<std::int64_t>(block.nodes);
  std::vector<Node> nodes(block.nodes);
  bool read_all = std::fseek(file_.get(), block.place, SEEK_SET) == 0;
  for (Node& node : nodes) read_all = read_all && read(node);
  if (!read_all) nodes.clear();
  if (blocks_.empty()) file_.reset();  // its room is free again
  return nodes;
}

std::optional<std::vector<Node>> Overflow::all() {
  std::vector<Node> nodes;
  for (const Block& block : blocks_) {
    if (std::fseek(file_.get(), block.place, SEEK_SET) != 0) return std::nullopt;
    for (std::size_t k = 0; k < block.nodes; ++k)
      if (!read(nodes.emplace_back())) return std::nullopt;
  }
  return nodes;
}

void Overflow::clear() {
  blocks_.clear();
  size_ = 0;
  file_.reset();
}

}  // namespace kiteknot::mip
