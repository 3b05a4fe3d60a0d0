#pragma once
// Several processes that search one tree together, called ranks from 0 on: each reads the same
// model and calls solve() with the same options; rank 0's answer is that of all. What carries
// letters between them is the user's: `kiteknot-mpi` is the tool with MPI for it.

#include <functional>
#include <memory>
#include <optional>
#include <string>

#pragma GCC visibility push(default)
namespace kiteknot {

namespace mip {
class Ranks;
}

struct Letter {
  int from = 0;
  std::string bytes;
};

/// Carries letters. Used by one thread at a time, of its own. Letters of one rank to another arrive
/// in the order in which they were sent, and are not changed; nothing is promised between different
/// pairs.
class Transport {
 public:
  Transport() = default;
  Transport(const Transport&) = delete;
  Transport& operator=(const Transport&) = delete;
  virtual ~Transport() = default;
  [[nodiscard]] virtual int rank() const = 0;
  [[nodiscard]] virtual int ranks() const = 0;
  /// Does not wait for whoever it goes to.
  virtual void send(int to, std::string bytes) = 0;
  /// Nothing where none came within so many seconds.
  virtual std::optional<Letter> receive(double seconds) = 0;
};

/// For SolveOptions::ranks, and for one solve. Limits, files and words are rank 0's: the others
/// stop when it does. Where a rank has another model, ends early, or says nothing for half a
/// minute, the search ends with what is proven by then, and says so.
class RankGroup {
 public:
  /// `stopped`: called once, on another thread, where the others are done before this one is; it
  /// presses the switch of this one's solve. Throws UsageError without a transport.
  RankGroup(std::unique_ptr<Transport> transport, std::function<void()> stopped);
  RankGroup(const RankGroup&) = delete;
  RankGroup& operator=(const RankGroup&) = delete;
  ~RankGroup();
  [[nodiscard]] int rank() const;
  [[nodiscard]] int size() const;
  [[nodiscard]] bool leads() const { return rank() == 0; }
  [[nodiscard]] const std::shared_ptr<mip::Ranks>& inside() const noexcept { return ranks_; }

 private:
  std::shared_ptr<mip::Ranks> ranks_;
};

}  // namespace kiteknot
#pragma GCC visibility pop
