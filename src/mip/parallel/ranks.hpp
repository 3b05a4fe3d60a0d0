#pragma once
// What a search sees of the other ranks that search the same tree. A thread of its own carries the
// letters, and at rank 0 supervises, so that nobody waits while a node is worked on; the search
// looks into its mail between nodes.

#include <condition_variable>
#include <mutex>
#include <thread>

#include "kiteknot/ranks.hpp"
#include "mip/parallel/kept_tree.hpp"
#include "mip/parallel/supervisor.hpp"

namespace kiteknot::mip {

/// A plan, for everybody: of the problem that is searched.
struct ToldPlan {
  std::vector<Rational> values;
  std::string by;
};

/// What may help another rank; it holds everywhere.
struct RankNews {
  std::vector<PooledRow> rows;
  std::vector<Conflict> conflicts;
};

/// What a rank has, as it is kept: its tree, and what it gave away that may not be part of another
/// one's yet.
struct RankState {
  std::int64_t taken = 0;
  std::optional<ToldPlan> plan;  ///< the best that it knows: it may have closed nodes for that
  std::optional<KeptTree> tree;  ///< none: it has nothing
  struct Given {
    std::int64_t parcel = 0;
    std::int32_t to = 0;
    KeptTree tree;
  };
  std::vector<Given> given;
};

class Ranks {
 public:
  /// `stopped`: called once where the whole search ends before this rank's does, on another thread.
  /// `silent`: seconds without a word after which a rank counts as gone.
  Ranks(std::unique_ptr<Transport> transport, std::function<void()> stopped, double silent = 30.0);
  Ranks(const Ranks&) = delete;
  Ranks& operator=(const Ranks&) = delete;
  ~Ranks();

  [[nodiscard]] int rank() const noexcept { return rank_; }
  [[nodiscard]] int size() const noexcept { return size_; }
  [[nodiscard]] bool leads() const noexcept { return rank_ == 0; }
  /// A search has joined.
  [[nodiscard]] bool used() const {
    const std::scoped_lock lock(mutex_);
    return joined_;
  }

  /// What came since it was last asked.
  struct Mail {
    std::vector<ToldPlan> plans;
    struct Parcel {
      std::int64_t number = 0;
      KeptTree tree;
      bool first = false;
    };
    std::vector<Parcel> parcels;
    std::vector<Supervisor::Give> gives;
    std::vector<RankNews> news;
    bool state_asked = false;
    std::vector<std::int64_t> known;  ///< by rank: parcels up to there are part of what was kept
    bool ended = false;               ///< the whole search
    std::string trouble;              ///< why it cannot go on
  };

  // By the search, on its thread.
  /// The problem that is searched, by its mark: all ranks have the same. `keeps`, at rank 0: the
  /// search is kept, so that givers note what they give.
  void join(std::uint64_t mark, bool keeps);
  [[nodiscard]] Mail exchange(const RankStanding& standing);
  /// Until something came, or that long.
  void wait(double seconds);
  void give(const Supervisor::Give& give, const KeptTree& tree);
  void refuse(std::int64_t parcel);
  void tell(const ToldPlan& plan);
  void tell(const RankNews& news);
  void tell(const RankState& state);
  /// This one's search is over, as it told last.
  void leave();

  // At rank 0.
  [[nodiscard]] bool all_done() const;
  /// On what the others have, or is on its way.
  [[nodiscard]] double bound_of_others() const;
  [[nodiscard]] Supervisor::Sums sums_of_others() const;
  /// All are asked what they have; `known`: as Mail.
  void ask_states(const std::vector<std::int64_t>& known);
  /// The best plan that anybody told to know; rank 0 has it a little later.
  [[nodiscard]] double best_of_all() const;
  /// The last that each told, as of the last exchange: whatever plan they rest on has been handed
  /// out. Empty before it told any.
  [[nodiscard]] std::vector<std::optional<RankState>> states() const;
  /// The search is over: the others stop, and what they did is waited for, a second at most.
  void end();

 private:
  void carry();
  bool carry_on();
  void handle(const Letter& letter);
  void supervise();
  void post(int to, std::string bytes);
  void post_all(const std::string& bytes);
  void stop_search(const std::string& trouble);

  std::unique_ptr<Transport> transport_;
  std::function<void()> stopped_;
  int rank_, size_;
  double silent_;
  mutable std::mutex mutex_;
  std::condition_variable came_;
  Mail mail_;
  RankStanding standing_;
  bool joined_ = false, told_ = false, ended_ = false, left_ = false, closing_ = false;
  bool keeps_ = false;
  double last_sign_ = 0.0;
  std::uint64_t mark_ = 0;
  std::vector<std::pair<int, std::string>> out_;
  // at rank 0
  Supervisor supervisor_;
  std::vector<std::optional<std::uint64_t>> marks_;
  std::vector<std::optional<RankState>> states_, settled_;  // settled: their plans were handed out
  std::vector<double> heard_;                               // when
  std::vector<char> over_;                                  // it said its last
  Stopwatch clock_;
  std::thread carrier_;
};

}  // namespace kiteknot::mip
