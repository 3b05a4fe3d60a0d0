#pragma once
// What can go wrong, by boundary. Outcomes of a search (infeasible, unbounded, a limit) are values
// and never errors; see result.hpp. Text that a person wrote is answered with Diagnostics; wrong
// use of this interface throws UsageError; a file that cannot be opened or written throws IoError;
// a mistake of the library's own throws InternalError and leaves the host alive.

#include <cstddef>
#include <optional>
#include <stdexcept>
#include <string>
#include <utility>
#include <vector>

#pragma GCC visibility push(default)
namespace kiteknot {

/// One line about a piece of input: where, what was found, what was expected, what may have been
/// meant.
struct Diagnostic {
  std::string file;     ///< as the user named it; empty where there is no file
  int line = 0;         ///< from 1; 0 where there is none
  int column = 0;       ///< from 1, in characters; 0 where there is none
  std::string message;  ///< one sentence without a full stop
  bool warning = false;

  /// "depots.knot:12:9: no column 'capacty' in table depots; nearest is 'capacity'"
  [[nodiscard]] std::string text() const;
};

/// "; nearest is 'capacity'", or "" where nothing is near.
std::string nearest_to(const std::string& wanted, const std::vector<std::string>& known);

/// A list of diagnostics in the order found; it keeps at most kMostErrors errors of one run.
class Diagnostics {
 public:
  static constexpr std::size_t kMostErrors = 20;

  /// Notes an error, the same one at one place once; beyond kMostErrors none is kept.
  void error(Diagnostic d);
  /// Notes a warning.
  void warn(Diagnostic d);
  /// Takes over all of another list, in its order.
  void append(const Diagnostics& other);
  /// Whether anything was refused.
  [[nodiscard]] bool has_errors() const noexcept { return num_errors_ > 0; }
  /// Whether no further error would be kept.
  [[nodiscard]] bool full() const noexcept { return num_errors_ >= kMostErrors; }
  /// Errors and warnings as found.
  [[nodiscard]] const std::vector<Diagnostic>& items() const noexcept { return items_; }
  /// One line each, errors and warnings as found.
  [[nodiscard]] std::string text() const;

 private:
  std::vector<Diagnostic> items_;
  std::size_t num_errors_ = 0;
};

/// The interface was used wrongly: a row of another table, a decision of another model, NaN as a
/// figure.
class UsageError : public std::logic_error {
 public:
  using std::logic_error::logic_error;
};

/// The library is wrong, not its user: something that always holds does not. What was asked has no
/// answer; models and tables can be gone on with.
class InternalError : public std::logic_error {
 public:
  using std::logic_error::logic_error;
};

/// A file could not be opened, read or written.
class IoError : public std::runtime_error {
 public:
  using std::runtime_error::runtime_error;
};

/// What was written could not be: the disk is full, the place is closed or forbidden.
class OutputError : public IoError {
 public:
  using IoError::IoError;
};

/// Input text was refused, in a call that promises a value (for instance Table::read).
class InputError : public std::runtime_error {
 public:
  /// what() is the list as text.
  explicit InputError(Diagnostics diagnostics);
  /// The list itself, with places.
  [[nodiscard]] const Diagnostics& diagnostics() const noexcept { return diagnostics_; }

 private:
  Diagnostics diagnostics_;
};

/// The value read from a text, or the reasons why there is none; warnings come with either.
template <class T>
class [[nodiscard]] Reading {
 public:
  /// A value, perhaps with warnings.
  Reading(T value, Diagnostics notes = {}) : value_(std::move(value)), notes_(std::move(notes)) {}
  /// No value: the list says why.
  Reading(Diagnostics errors) : notes_(std::move(errors)) {}

  /// Whether there is a value.
  [[nodiscard]] bool ok() const noexcept { return value_.has_value(); }
  /// The value; throws InputError where there is none.
  [[nodiscard]] const T& value() const& {
    if (!value_) throw InputError(notes_);
    return *value_;
  }
  /// The same, moved out.
  [[nodiscard]] T value() && {
    if (!value_) throw InputError(notes_);
    return std::move(*value_);
  }
  /// Warnings, or the reasons why there is no value.
  [[nodiscard]] const Diagnostics& notes() const noexcept { return notes_; }

 private:
  std::optional<T> value_;
  Diagnostics notes_;
};

}  // namespace kiteknot
#pragma GCC visibility pop
