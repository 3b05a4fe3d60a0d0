#pragma once
// Answers kept for later: one in a file, or every run in a history, and two of them side by side,
// also across versions of a model.

#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "kiteknot/errors.hpp"
#include "kiteknot/result.hpp"

#pragma GCC visibility push(default)
namespace kiteknot {

/// Where an answer came from.
struct Origin {
  std::string file, scenario;
  std::vector<std::string> settings;  ///< "grant=1300"
  std::string when;                   ///< "2026-05-01 09:30"
};

/// The result document with its origin; see docs/result.md.
std::string saved_answer(const Result& result, const Origin& origin);
/// Under a temporary name first; IoError where that cannot be.
void write_answer(const std::string& path, const Result& result, const Origin& origin);

/// An answer read back: names and figures, no model.
struct SavedAnswer {
  std::string named;  ///< the file, for the page
  Origin origin;
  std::string model, outcome;
  struct GoalLine {
    std::string name, sense;
    std::optional<double> value, bound, gap;
  };
  struct DecisionLine {
    std::string name;
    double value = 0.0;
    std::string exact{};  ///< where no double is the value: "1/3"
  };
  struct RuleLine {
    std::string name;
    std::optional<double> low, value, high;  ///< none for a logical rule
    bool met = true;
    std::optional<double> left{}, right{};  ///< where both sides hold decisions
  };
  std::vector<GoalLine> goals;
  std::vector<DecisionLine> decisions;
  std::vector<RuleLine> rules;
  double seconds = 0.0;
  std::vector<Progress> progress;  ///< as in SearchCounts
};
/// Errors name what is missing; any result document will do. Throws IoError where the file cannot
/// be read.
Reading<SavedAnswer> read_answer(const std::string& path);
/// Whether the file begins as a result document does.
bool is_saved_answer(const std::string& path);
/// `named`: what messages call it.
Reading<SavedAnswer> parse_answer(const std::string& text, const std::string& named);
/// One run of a history.
struct RunLine {
  std::int64_t number = 0;
  Origin origin;
  std::string model, outcome;  ///< outcome "" while it runs, and for ever where it was killed
  std::string goal;            ///< name of the first one
  std::optional<double> value, bound, gap;
  double seconds = 0.0;
};

/// Runs in an SQLite file. Each step is a transaction: a killed run leaves its last known plan and
/// everybody else's; a second writer waits up to a minute. Every call throws IoError where the file
/// is no history, or cannot be read or written.
class History {
 public:
  /// Opens the file, or makes it; with `must_exist` a missing one is an error.
  explicit History(const std::string& path, bool must_exist = false);
  ~History();
  History(History&&) noexcept;
  History& operator=(History&&) noexcept;

  /// A run begins; the number is its name from now on.
  std::int64_t begin(const Model& model, const Origin& origin);
  /// The best plan so far.
  void note(std::int64_t run, const Result& so_far, const Origin& origin);
  /// The run has ended with this answer.
  void finish(std::int64_t run, const Result& result, const Origin& origin);
  /// Newest first.
  [[nodiscard]] std::vector<RunLine> runs(std::size_t most = 50) const;
  /// Its saved answer; UsageError where there is no such run, or it left no answer.
  [[nodiscard]] std::string answer(std::int64_t run) const;

  struct Database;

 private:
  /// UsageError for a history that was moved from.
  [[nodiscard]] Database& database() const;
  std::unique_ptr<Database> database_;
};

}  // namespace kiteknot
#pragma GCC visibility pop
