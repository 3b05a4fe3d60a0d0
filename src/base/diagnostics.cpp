#include <fmt/format.h>

#include "base/text.hpp"
#include "kiteknot/errors.hpp"

namespace kiteknot {

std::string Diagnostic::text() const {
  std::string where = file;
  if (line > 0) where += fmt::format("{}{}", where.empty() ? "line " : ":", line);
  if (line > 0 && column > 0) where += fmt::format(":{}", column);
  std::string what = warning ? "worth a look: " + message : message;
  return visible(where.empty() ? what : where + ": " + what);  // one line, whatever the data hold
}

std::string nearest_to(const std::string& wanted, const std::vector<std::string>& known) {
  return nearest_hint(wanted, known);
}

void Diagnostics::error(Diagnostic d) {
  if (full()) return;
  d.warning = false;
  // What is found again at the same place is told once.
  for (const Diagnostic& known : items_)
    if (!known.warning && known.line == d.line && known.column == d.column &&
        known.file == d.file && known.message == d.message)
      return;
  items_.push_back(std::move(d));
  ++num_errors_;
}

void Diagnostics::warn(Diagnostic d) {
  constexpr std::size_t kMostItems = 1000;
  if (items_.size() >= kMostItems) return;
  d.warning = true;
  items_.push_back(std::move(d));
}

void Diagnostics::append(const Diagnostics& other) {
  for (const Diagnostic& d : other.items_) d.warning ? warn(d) : error(d);
}

std::string Diagnostics::text() const {
  std::string all;
  for (const Diagnostic& d : items_) {
    if (!all.empty()) all += '\n';
    all += d.text();
  }
  return all;
}

InputError::InputError(Diagnostics diagnostics)
    : std::runtime_error(diagnostics.text()), diagnostics_(std::move(diagnostics)) {}

}  // namespace kiteknot
