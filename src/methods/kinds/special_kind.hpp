#pragma once
// A model that is a classic problem from end to end: what it is, and the ways that such problems
// have of their own. A kind is one file: it finds itself in a plain problem, exactly, says what it
// is, and hands plain arrays to an algorithm of structures/. Nothing else names a kind.

#include <functional>
#include <memory>
#include <string>

#include "base/random.hpp"
#include "base/work.hpp"
#include "methods/kinds/plain_problem.hpp"

namespace kiteknot::methods {

class SpecialKind {
 public:
  SpecialKind() = default;
  SpecialKind(const SpecialKind&) = delete;
  SpecialKind& operator=(const SpecialKind&) = delete;
  virtual ~SpecialKind() = default;
  /// "a cover of 200 needs by 2,000 sets".
  [[nodiscard]] virtual std::string told() const = 0;
};

/// What a way of a kind is given, and where it says what it found. Costs are those of the plain
/// problem.
class KindRun {
 public:
  /// `better`: of every plan better than those before, with what it costs; true: that is enough.
  using Better = std::function<bool(double cost, const std::vector<double>& values)>;
  /// `work`: entries that it may look at; infinite: as `looks` of over() say.
  KindRun(Index num_decisions, std::uint64_t seed, const Interrupt& interrupt, double work,
          bool timed, Better better)
      : random(seed),
        num_decisions_(num_decisions),
        interrupt_(interrupt),
        work_(work),
        timed_(timed),
        better_(std::move(better)) {}

  Random random;
  std::string note;  ///< why there is no plan, or why none is better

  /// Once a look, which goes over so many entries. Without a clock and without a limit on work it
  /// ends after that many looks.
  [[nodiscard]] bool over(std::int64_t looks, double entries);
  /// For algorithms that count their work themselves.
  [[nodiscard]] const Interrupt& interrupt() const noexcept { return interrupt_; }
  [[nodiscard]] double work_left() const noexcept { return work_; }

  /// All 0, to be filled in.
  [[nodiscard]] std::vector<double> nothing() const {
    return std::vector<double>(at(num_decisions_), 0.0);
  }
  void take(double cost, std::vector<double> values);
  /// No plan costs less: exact, of whole figures.
  void bound(double cost) { bound_ = std::max(bound_, cost); }

  [[nodiscard]] const std::vector<double>& best() const noexcept { return best_; }
  [[nodiscard]] double cost() const noexcept { return cost_; }
  [[nodiscard]] double proven() const noexcept { return bound_; }

 private:
  Index num_decisions_;
  const Interrupt& interrupt_;
  double work_;
  bool timed_;
  Better better_;
  std::vector<double> best_;
  double cost_ = HUGE_VAL, bound_ = -HUGE_VAL;
  bool enough_ = false;
  std::int64_t looks_ = 0;
};

struct KindWay {
  std::string name, about, source;
  void (*run)(KindRun&, const SpecialKind&) = nullptr;
  bool draws_lots = false;
};

/// How a kind is found, and what it offers.
struct KindEntry {
  std::string word;  ///< "cover"
  std::unique_ptr<SpecialKind> (*find)(const PlainProblem&) = nullptr;
  std::vector<KindWay> ways;
  /// A plan for the exact search to begin with, and who is told to have found it.
  void (*start)(KindRun&, const SpecialKind&) = nullptr;
  std::string start_by;
};

// Each in its file.
KindEntry cover_kind();
KindEntry box_kind();
KindEntry room_kind();
KindEntry place_kind();
KindEntry choice_kind();
KindEntry sack_kind();
KindEntry pairing_kind();
KindEntry tree_kind();
KindEntry cut_kind();

/// All of them, in the order in which they are looked for and told.
const std::vector<KindEntry>& special_kinds();

/// What a problem is; nothing where it is none of them.
struct FoundKind {
  const KindEntry* entry = nullptr;
  std::unique_ptr<SpecialKind> kind;
  explicit operator bool() const noexcept { return entry != nullptr; }
};
FoundKind find_kind(const PlainProblem& problem);

}  // namespace kiteknot::methods
