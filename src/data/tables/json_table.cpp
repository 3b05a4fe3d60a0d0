// A JSON array of objects as a table (RFC 8259). Read event by event: nothing but the cells is
// kept.

#include <optional>

#include <fmt/format.h>
#include <nlohmann/json.hpp>

#include "data/tables/csv.hpp"
#include "data/tables/table_source.hpp"

namespace kiteknot::data {
namespace {

// Characters of a text, and how many lines were passed.
class CountingText {
 public:
  using iterator_category = std::input_iterator_tag;
  using value_type = char;
  using difference_type = std::ptrdiff_t;
  using pointer = const char*;
  using reference = const char&;
  CountingText(const char* at, int* line) : at_(at), line_(line) {}
  reference operator*() const { return *at_; }
  CountingText& operator++() {
    if (*at_ == '\n') ++*line_;
    ++at_;
    return *this;
  }
  CountingText operator++(int) {
    const CountingText before = *this;
    ++*this;
    return before;
  }
  bool operator==(const CountingText& other) const { return at_ == other.at_; }
  bool operator!=(const CountingText& other) const { return at_ != other.at_; }

 private:
  const char* at_;
  int* line_;
};

class JsonRows final : public nlohmann::json_sax<nlohmann::json> {
 public:
  JsonRows(TableBuilder& table, const std::string& file, const int& line, Diagnostics& notes)
      : table_(table), file_(file), line_(line), notes_(notes) {}

  bool null() override { return value(""); }
  bool boolean(bool v) override { return value(v ? "1" : "0"); }
  bool number_integer(number_integer_t v) override { return value(std::to_string(v)); }
  bool number_unsigned(number_unsigned_t v) override { return value(std::to_string(v)); }
  // As it is written: a figure does not lose digits on its way.
  bool number_float(number_float_t, const string_t& written) override { return value(written); }
  bool string(string_t& v) override { return value(v); }
  bool binary(binary_t&) override { return refuse("bytes are no cell"); }
  bool start_object(std::size_t) override {
    if (depth_ != 1)
      return refuse(where("a cell holds a text, a figure or nothing, not an object"));
    ++depth_;
    table_.start_row(line_);
    return true;
  }
  bool key(string_t& v) override {
    if (v.empty()) return refuse("a value has no name");
    title_ = v;
    column_ = table_.column(v);
    return true;
  }
  bool end_object() override {
    --depth_;
    return true;
  }
  bool start_array(std::size_t) override {
    if (depth_ != 0) return refuse(where("a cell holds a text, a figure or nothing, not a list"));
    ++depth_;
    return true;
  }
  bool end_array() override {
    --depth_;
    return true;
  }
  bool parse_error(std::size_t, const std::string& last,
                   const nlohmann::detail::exception&) override {
    return refuse(last.empty() ? "the text ends too early"
                               : fmt::format("this is no JSON at '{}'", last));
  }

 private:
  bool value(std::string_view text) {
    if (depth_ != 2)
      return refuse("a table is a list of objects, each a row: [{\"name\": 1}, ...]");
    if (!table_.set(column_, text)) return refuse(fmt::format("'{}' is there twice", title_));
    return true;
  }
  std::string where(const char* message) const {
    return depth_ == 2 ? fmt::format("{}: {}", title_, message) : message;
  }
  bool refuse(std::string message) {
    notes_.error({file_, line_, 0, std::move(message), false});
    return false;
  }

  TableBuilder& table_;
  const std::string& file_;
  const int& line_;
  Diagnostics& notes_;
  std::string title_;
  Index column_ = -1;
  int depth_ = 0;  // 1: in the list, 2: in a row
};

}  // namespace

std::shared_ptr<TableData> parse_json_table(const std::string& name, const std::string& file,
                                            const std::string& text, Diagnostics& notes) {
  TableBuilder table(name, file);
  need_utf8(text, file, 1, notes);
  if (notes.has_errors()) return table.finished();
  int line = 1;
  JsonRows rows(table, file, line, notes);
  (void)nlohmann::json::sax_parse(CountingText(text.data(), &line),
                                  CountingText(text.data() + text.size(), &line), &rows);
  const auto data = table.finished();
  if (!notes.has_errors() && data->columns.empty())
    notes.error({file, 1, 0, "the list is empty: there are no names of columns", false});
  return data;
}

}  // namespace kiteknot::data
