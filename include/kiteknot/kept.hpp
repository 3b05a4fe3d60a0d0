#pragma once
// Searches that are kept in a file, to go on from there: after a limit, a power cut, on another
// machine, with other limits or more threads.

#include <memory>
#include <optional>
#include <string>
#include <utility>
#include <vector>

#include "kiteknot/result.hpp"

#pragma GCC visibility push(default)
namespace kiteknot {

/// Where a search is kept (SolveOptions::keep). The file is always whole: a new one takes the place
/// of the old. What cannot be written ends nothing: SearchCounts::keep_problem tells it.
struct Keeping {
  std::string file;
  double every = 60.0;  ///< seconds; longer where writing takes more than a hundredth of them
  /// What is to be in the file as well: names, and what belongs to them.
  std::vector<std::pair<std::string, std::string>> beside{};
};

/// A search as it was kept. Models of one goal; the plans of next_best are not kept.
class KeptSearch {
 public:
  /// Throws InputError where it is no such file, of another version of Kite Knot, or damaged, and
  /// IoError where it cannot be read.
  static std::shared_ptr<const KeptSearch> read(const std::string& file);
  /// Whether the file begins like one; false where it cannot be read.
  static bool is_one(const std::string& file);

  [[nodiscard]] const std::string& title() const noexcept;  ///< of the model
  [[nodiscard]] double seconds() const noexcept;            ///< that went into it so far
  [[nodiscard]] std::int64_t branches() const noexcept;     ///< looked at, ...
  [[nodiscard]] std::int64_t open() const noexcept;         ///< ... and still open
  /// Whether it was proven to its end.
  [[nodiscard]] bool finished() const noexcept;
  /// Of the goal, as the user states it.
  [[nodiscard]] std::optional<double> best() const noexcept;
  [[nodiscard]] std::optional<double> bound() const noexcept;
  /// As Keeping has it; nothing: there is none of this name.
  [[nodiscard]] std::optional<std::string> beside(const std::string& name) const;
  [[nodiscard]] const std::vector<std::pair<std::string, std::string>>& beside() const noexcept;

  struct Data;
  explicit KeptSearch(std::shared_ptr<const Data> data) : data_(std::move(data)) {}
  [[nodiscard]] const Data& data() const noexcept { return *data_; }

 private:
  std::shared_ptr<const Data> data_;
};

}  // namespace kiteknot
#pragma GCC visibility pop
