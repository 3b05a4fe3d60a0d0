#pragma once
// Letters between ranks that are threads of one process (kiteknot/ranks.hpp).

#include <condition_variable>
#include <deque>
#include <functional>
#include <memory>
#include <mutex>
#include <optional>
#include <string>
#include <vector>

#include "kiteknot/ranks.hpp"

namespace kiteknot::mip {

/// Ranks that are threads of one process.
class PostOffice {
 public:
  explicit PostOffice(int ranks) : boxes_(static_cast<std::size_t>(ranks)) {}
  /// The office outlives it.
  [[nodiscard]] std::unique_ptr<Transport> of(int rank);
  /// For tests: how long a letter is on its way, asked for each; none of a pair overtakes another.
  /// Below 0: it is lost, as are all of a rank that is gone.
  void on_the_way(std::function<double(int from, int to)> seconds) { way_ = std::move(seconds); }

 private:
  class Window;
  struct Waiting {
    double at = 0.0;  // when it is there
    Letter letter;
  };
  struct Box {
    std::mutex mutex;
    std::condition_variable came;
    std::deque<Waiting> letters;
  };
  void put(int from, int to, std::string bytes);
  std::optional<Letter> take(int rank, double seconds);

  std::vector<Box> boxes_;
  std::function<double(int from, int to)> way_;
};

}  // namespace kiteknot::mip
