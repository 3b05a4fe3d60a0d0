#include "data/tables/csv.hpp"

#include <algorithm>
#include <array>
#include <filesystem>

#include <fmt/format.h>

#include "base/text.hpp"
#include "data/tables/table_source.hpp"
#include "data/tables/wide_table.hpp"

namespace kiteknot::data {
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
    if (!find_separator()) return data_;
    std::vector<Cell> row;
    while (at_ < end_ && !notes_.full()) {
      const int line = line_;
      line_start_ = at_;
      row.clear();
      if (!read_row(row)) continue;
      if (data_->columns.empty()) {
        take_header(row, line);
        if (notes_.has_errors()) return data_;
        continue;
      }
      // Spreadsheets write columns that nobody named.
      while (row.size() > data_->columns.size() && row.back().length == 0) row.pop_back();
      if (row.size() > 1 && data_->columns.size() == 1) {
        complain(line, 0,
                 fmt::format("{} where the first line, '{}', has 1: if that is a title, take the "
                             "lines above the names of the columns away",
                             counted(row.size(), "cell"), data_->columns[0]));
        return data_;
      }
      if (row.size() != data_->columns.size()) {
        complain(line, 0,
                 fmt::format("{} where the header has {}", counted(row.size(), "cell"),
                             data_->columns.size()));
      } else {
        data_->cells.insert(data_->cells.end(), row.begin(), row.end());
        data_->lines.push_back(line);
        if (data_->lines.size() == kSample) make_room();
      }
    }
    if (data_->columns.empty())
      complain(line_, 0, "the table is empty; its first line should name the columns");
    drop_empty_rows();
    // Giving back little would copy all.
    if (data_->cells.capacity() > data_->cells.size() + data_->cells.size() / 8) {
      data_->cells.shrink_to_fit();
      data_->lines.shrink_to_fit();
    }
    return data_;
  }

 private:
  static constexpr std::size_t kSample = 1000;

  // As the rows so far are long, so the others will be.
  void make_room() {
    const double share =
        static_cast<double>(end_) / static_cast<double>(std::max<std::size_t>(at_, 1));
    constexpr double kMore = 1.03;
    const auto rows = static_cast<std::size_t>(kMore * share * static_cast<double>(kSample));
    data_->lines.reserve(rows);
    data_->cells.reserve(rows * data_->columns.size());
  }

  void complain(int line, std::size_t column, std::string message) {
    notes_.error({data_->file.empty() ? data_->name : data_->file, line, static_cast<int>(column),
                  std::move(message), false});
  }

  // Signs that may separate columns, outside quotes, in a line; `place` moves behind its end.
  struct Signs {
    std::size_t commas = 0, semicolons = 0, tabs = 0, bars = 0;
    bool empty = true;
  };
  Signs signs_in_line(std::size_t& place) const {
    Signs signs;
    bool quoted = false, starts = true;
    for (; place < end_; ++place) {
      const char c = data_->text[place];
      if (c == '"' && (quoted || starts)) quoted = !quoted;
      if (quoted) continue;
      starts = c == ',' || c == ';' || c == '\t' || (starts && c == ' ');
      if (c == '\n') break;
      signs.commas += c == ',' ? 1 : 0;
      signs.semicolons += c == ';' ? 1 : 0;
      signs.tabs += c == '\t' ? 1 : 0;
      signs.bars += c == '|' ? 1 : 0;
      signs.empty = signs.empty && (c == ' ' || c == '\r' || c == '\t');
    }
    place = std::min(place + 1, end_);
    return signs;
  }

  // Said in a line of its own, or what the heading has; where that is more than one sign, the one
  // of which the next lines have as many. False: it stays open, and that was told.
  bool find_separator() {
    constexpr std::string_view kSaid = "sep=";
    const std::string& text = data_->text;
    const std::size_t said = at_ + kSaid.size();
    if (text.compare(at_, kSaid.size(), kSaid) == 0 && said < end_ && text[said] != '\n' &&
        text[said] != '\r') {
      separator_ = text[said];
      at_ = std::min(text.find('\n', said), end_ - 1) + 1;
      ++line_;
      if (separator_ != ',' && separator_ != ';' && separator_ != '\t') {
        complain(line_ - 1, 5,
                 fmt::format("columns are separated by a comma, a semicolon or a tab, not by '{}'",
                             separator_));
        return false;
      }
    } else {
      std::size_t place = at_;
      int line = line_;
      Signs heading;
      for (; heading.empty && place < end_; ++line) heading = signs_in_line(place);
      const auto choice = {std::pair(',', &Signs::commas), std::pair(';', &Signs::semicolons),
                           std::pair('\t', &Signs::tabs)};
      std::vector<std::pair<char, std::size_t Signs::*>> open;
      for (const auto& [sign, count] : choice)
        if (heading.*count > 0) open.emplace_back(sign, count);
      if (open.empty() && heading.bars > 0) {
        complain(line - 1, 0,
                 "columns are separated by a comma, a semicolon or a tab; this heading has '|'");
        return false;
      }
      constexpr int kLook = 20;
      for (int k = 0; k < kLook && open.size() > 1 && place < end_; ++k) {
        const Signs next = signs_in_line(place);
        if (next.empty) continue;
        const auto differs = [&](const auto& o) { return next.*o.second != heading.*o.second; };
        if (!std::all_of(open.begin(), open.end(), differs)) std::erase_if(open, differs);
      }
      if (open.size() > 1) {
        complain(line - 1, 0,
                 "columns may be separated by more than one sign here; say which in a line before, "
                 "as in 'sep=;'");
        return false;
      }
      if (!open.empty()) separator_ = open.front().first;
    }
    data_->separator = separator_;
    for (const char c : {separator_, '\n', '\r', '\0'})
      stops_[static_cast<unsigned char>(c)] = true;
    return true;
  }

  // At the end, where a spreadsheet had cells once.
  void drop_empty_rows() {
    const std::size_t width = data_->columns.size();
    const auto empty = [&] {
      return std::all_of(data_->cells.end() - static_cast<std::ptrdiff_t>(width),
                         data_->cells.end(), [](const Cell& c) { return c.length == 0; });
    };
    while (width > 1 && !data_->lines.empty() && empty()) {
      data_->cells.resize(data_->cells.size() - width);
      data_->lines.pop_back();
    }
  }

  // False for a blank line.
  bool read_row(std::vector<Cell>& row) {
    const std::string& text = data_->text;
    while (true) {
      row.push_back(read_cell());
      if (at_ < end_ && data_->text[at_] == separator_) {
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

  bool blank(char c) const { return c != separator_ && (c == ' ' || c == '\t'); }

  Cell read_cell() {
    quoted_ = false;
    std::size_t begin = at_;
    while (begin < end_ && blank(data_->text[begin])) ++begin;
    if (begin < end_ && data_->text[begin] == '"') return read_quoted(begin + 1);
    // The byte behind the text is 0, which stops too; one inside goes on.
    const char* text = data_->text.data();
    std::size_t stop = begin;
    for (;; ++stop) {
      while (!stops_[static_cast<unsigned char>(text[stop])]) ++stop;
      if (stop >= end_ || text[stop] != '\0') break;
    }
    stop = std::min(stop, end_);
    at_ = stop;
    while (stop > begin && blank(text[stop - 1])) --stop;
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
    if (at_ < end_ && data_->text[at_] != separator_ && data_->text[at_] != '\n' &&
        data_->text[at_] != '\r') {
      complain(line_, at_ - line_start_ + 1, "text goes on behind a closing quote");
      while (at_ < end_ && data_->text[at_] != separator_ && data_->text[at_] != '\n') ++at_;
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

  void take_header(std::vector<Cell>& row, int line) {
    data_->first_line = line;
    while (row.size() > 1 && row.back().length == 0) row.pop_back();
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
  bool quoted_ = false;            // the last cell read was
  std::array<bool, 256> stops_{};  // bytes that may end a cell without quotes
  char separator_ = ',';
};

}  // namespace

void need_utf8(std::string_view text, const std::string& file, int first_line, Diagnostics& notes) {
  const std::size_t at = not_utf8(text);
  if (at == std::string_view::npos) return;
  if (text.starts_with("\xff\xfe") || text.starts_with("\xfe\xff")) {
    notes.error({file, first_line, 1, "the file is UTF-16; save it as UTF-8", false});
    return;
  }
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

}  // namespace kiteknot::data

namespace kiteknot {
namespace {

Table finished(const std::shared_ptr<TableData>& data, TableOptions options, Diagnostics notes) {
  if (!notes.has_errors()) data::make_long(*data, options, notes);
  if (!notes.has_errors()) data->set_keys(options, notes);
  if (notes.has_errors()) throw InputError(notes);
  if (options.ordered) data->set_ordered();
  data->decimal = options.decimal;
  return Table(data);
}

}  // namespace

// Declared with Table; defined here because reading files is this layer's work.
Table Table::read(const std::string& path, const TableOptions& options) {
  Diagnostics notes;
  const std::string name = std::filesystem::path(path).stem().string();
  const auto data = data::read_table({name, path, options.query}, notes);
  return finished(data, options, std::move(notes));
}

Table Table::parse(std::string name, std::string csv, const TableOptions& options) {
  Diagnostics notes;
  const auto data = data::parse_csv({std::move(name), "", std::move(csv), 1}, notes);
  return finished(data, options, std::move(notes));
}

}  // namespace kiteknot
