#include "formats/csv.hpp"

#include <algorithm>
#include <filesystem>

#include <fmt/format.h>

#include "base/text.hpp"
#include "formats/files.hpp"

namespace kiteknot::formats {
namespace {

class CsvParser {
 public:
  CsvParser(CsvSource source, Diagnostics& notes)
      : notes_(notes), data_(std::make_shared<TableData>()), line_(source.first_line) {
    data_->name = std::move(source.name);
    data_->file = std::move(source.file);
    data_->text = std::move(source.text);
    data_->source_length = static_cast<std::uint32_t>(data_->text.size());
    end_ = data_->text.size();
  }

  std::shared_ptr<TableData> run() {
    constexpr std::size_t kMostBytes = 0xf0000000;
    if (end_ > kMostBytes) {
      complain(line_, 0, "the table is larger than 4 GB");
      return data_;
    }
    need_utf8(data_->text, data_->file.empty() ? data_->name : data_->file, line_, notes_);
    if (notes_.has_errors()) return data_;
    if (data_->text.starts_with("\xef\xbb\xbf")) at_ = 3;
    std::vector<Cell> row;
    while (at_ < end_ && !notes_.full()) {
      const int line = line_;
      line_start_ = at_;
      row.clear();
      if (!read_row(row)) continue;
      if (data_->columns.empty()) {
        take_header(row, line);
        if (notes_.has_errors()) return data_;
      } else if (row.size() != data_->columns.size()) {
        complain(line, 0,
                 fmt::format("{} where the header has {}", counted(row.size(), "cell"),
                             data_->columns.size()));
      } else {
        data_->cells.insert(data_->cells.end(), row.begin(), row.end());
        data_->lines.push_back(line);
      }
    }
    if (data_->columns.empty())
      complain(line_, 0, "the table is empty; its first line should name the columns");
    data_->cells.shrink_to_fit();
    data_->lines.shrink_to_fit();
    return data_;
  }

 private:
  void complain(int line, std::size_t column, std::string message) {
    notes_.error({data_->file.empty() ? data_->name : data_->file, line, static_cast<int>(column),
                  std::move(message), false});
  }

  // False for a blank line.
  bool read_row(std::vector<Cell>& row) {
    const std::string& text = data_->text;
    while (true) {
      row.push_back(read_cell());
      if (at_ < end_ && data_->text[at_] == ',') {
        ++at_;
        continue;
      }
      break;
    }
    if (at_ < end_ && text[at_] == '\r') ++at_;
    if (at_ < end_ && text[at_] == '\n') ++at_;
    ++line_;
    return row.size() > 1 || row[0].length > 0 || quoted_;
  }

  static bool blank(char c) { return c == ' ' || c == '\t'; }

  Cell read_cell() {
    quoted_ = false;
    std::size_t begin = at_;
    while (begin < end_ && blank(data_->text[begin])) ++begin;
    if (begin < end_ && data_->text[begin] == '"') return read_quoted(begin + 1);
    std::size_t stop = begin;
    while (stop < end_ && data_->text[stop] != ',' && data_->text[stop] != '\n' &&
           data_->text[stop] != '\r')
      ++stop;
    at_ = stop;
    while (stop > begin && blank(data_->text[stop - 1])) --stop;
    return {static_cast<std::uint32_t>(begin), static_cast<std::uint32_t>(stop - begin)};
  }

  Cell read_quoted(std::size_t begin) {
    quoted_ = true;
    const int line = line_;
    std::size_t stop = begin;
    bool doubled = false;
    while (stop < end_) {
      if (data_->text[stop] == '\n' ||
          (data_->text[stop] == '\r' && (stop + 1 >= end_ || data_->text[stop + 1] != '\n')))
        ++line_;
      if (data_->text[stop] == '"') {
        if (stop + 1 >= end_ || data_->text[stop + 1] != '"') break;
        doubled = true;
        ++stop;
      }
      ++stop;
    }
    if (stop >= end_) {
      complain(line, begin - line_start_, "a quote is opened and never closed");
      at_ = end_;
      return {};
    }
    at_ = stop + 1;
    while (at_ < end_ && blank(data_->text[at_])) ++at_;
    if (at_ < end_ && data_->text[at_] != ',' && data_->text[at_] != '\n' &&
        data_->text[at_] != '\r') {
      complain(line_, at_ - line_start_ + 1, "text goes on behind a closing quote");
      while (at_ < end_ && data_->text[at_] != ',' && data_->text[at_] != '\n') ++at_;
    }
    if (!doubled)
      return {static_cast<std::uint32_t>(begin), static_cast<std::uint32_t>(stop - begin)};
    const auto place = static_cast<std::uint32_t>(data_->text.size());
    std::string plain;
    for (std::size_t k = begin; k < stop; ++k) {
      plain += data_->text[k];
      if (data_->text[k] == '"') ++k;
    }
    data_->text += plain;
    return {place, static_cast<std::uint32_t>(plain.size())};
  }

  void take_header(const std::vector<Cell>& row, int line) {
    data_->first_line = line;
    for (const Cell& c : row) {
      std::string title = data_->text.substr(c.begin, c.length);
      if (title.empty())
        complain(line, 0, fmt::format("column {} has no name", data_->columns.size() + 1));
      else if (std::find(data_->columns.begin(), data_->columns.end(), title) !=
               data_->columns.end())
        complain(line, 0, fmt::format("there are two columns with the name '{}'", title));
      data_->columns.push_back(std::move(title));
    }
  }

  Diagnostics& notes_;
  std::shared_ptr<TableData> data_;
  std::size_t at_ = 0, end_ = 0, line_start_ = 0;
  int line_ = 1;
  bool quoted_ = false;  // the last cell read was
};

}  // namespace

void need_utf8(std::string_view text, const std::string& file, int first_line, Diagnostics& notes) {
  const std::size_t at = not_utf8(text);
  if (at == std::string_view::npos) return;
  const std::string_view before = text.substr(0, at);
  const std::size_t start = before.rfind('\n') + 1;  // 0 where there is none
  notes.error({file, first_line + static_cast<int>(std::count(before.begin(), before.end(), '\n')),
               static_cast<int>(at - start) + 1,
               fmt::format("byte 0x{:02X} is not UTF-8; save the file as UTF-8",
                           static_cast<unsigned char>(text[at])),
               false});
}

std::shared_ptr<TableData> parse_csv(CsvSource source, Diagnostics& notes) {
  return CsvParser(std::move(source), notes).run();
}

std::string csv_cell(const std::string& text) {
  if (text.find_first_of(",\"\r\n") == std::string::npos && !text.starts_with(' ') &&
      !text.ends_with(' '))
    return text;
  std::string out = "\"";
  for (const char c : text) out += c == '"' ? std::string("\"\"") : std::string(1, c);
  return out + "\"";
}

}  // namespace kiteknot::formats

namespace kiteknot {
namespace {

Table finished(formats::CsvSource source, const TableOptions& options) {
  Diagnostics notes;
  const auto data = formats::parse_csv(std::move(source), notes);
  if (!notes.has_errors()) data->set_keys(options, notes);
  if (notes.has_errors()) throw InputError(notes);
  if (options.ordered) data->set_ordered();
  return Table(data);
}

}  // namespace

// Declared with Table; defined here because reading files is this layer's work.
Table Table::read(const std::string& path, const TableOptions& options) {
  return finished({std::filesystem::path(path).stem().string(), path, formats::read_file(path), 1},
                  options);
}

Table Table::parse(std::string name, std::string csv, const TableOptions& options) {
  return finished({std::move(name), "", std::move(csv), 1}, options);
}

}  // namespace kiteknot
