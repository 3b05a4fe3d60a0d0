#include "formats/plans/workbook.hpp"

#include <algorithm>
#include <cstdlib>
#include <filesystem>

#include <fmt/format.h>
#include <xlsxwriter.h>

#include "base/text.hpp"
#include "data/files.hpp"
#include "kiteknot/errors.hpp"

namespace kiteknot::formats {
namespace {

// A file of its own for a while.
struct Scratch {
  std::string folder = (std::filesystem::temp_directory_path() / "kiteknot-XXXXXX").string();
  std::string file;
  Scratch() {
    if (mkdtemp(folder.data()) == nullptr)
      throw OutputError(folder + ": no folder could be made for a workbook");
    file = folder + "/book.xlsx";
  }
  ~Scratch() {
    std::error_code ignored;
    std::filesystem::remove_all(folder, ignored);
  }
  Scratch(const Scratch&) = delete;
  Scratch& operator=(const Scratch&) = delete;
};

std::string lower(std::string text) {
  for (char& c : text)
    if (c >= 'A' && c <= 'Z') c = static_cast<char>(c - 'A' + 'a');
  return text;
}

// The first so many letters of a UTF-8 text.
std::string first_letters(const std::string& text, std::size_t most) {
  std::size_t letters = 0, end = 0;
  for (; end < text.size(); ++end)
    if ((static_cast<unsigned char>(text[end]) & 0xC0) != 0x80 && ++letters > most) break;
  return text.substr(0, end);
}

// A figure as a workbook holds it, which is to 15 digits; longer whole ones, as numbers of things
// are, stay texts.
std::optional<double> as_double(const std::string& cell) {
  constexpr std::ptrdiff_t kDigits = 15;
  const auto digits =
      std::count_if(cell.begin(), cell.end(), [](char c) { return c >= '0' && c <= '9'; });
  const std::optional<Rational> value = Rational::parse(cell);
  if (!value || !value->is_finite() || (digits > kDigits && value->is_integer()))
    return std::nullopt;
  return value->to_double();
}

void fill(lxw_workbook* book, const std::string& name, const Sheet& of) {
  const PlanTable& table = of.table;
  lxw_worksheet* sheet = workbook_add_worksheet(book, name.c_str());
  lxw_format* bold = workbook_add_format(book);
  format_set_bold(bold);
  const auto value = static_cast<std::size_t>(std::find(table[0].begin(), table[0].end(), "value") -
                                              table[0].begin());
  const std::size_t keys = value < table[0].size() ? value : 1;  // of a grid: the rows' names
  constexpr double kWidest = 40.0;
  std::vector<lxw_format*> formats(table[0].size(), nullptr);
  for (std::size_t c = 0; c < of.formats.size() && c < formats.size(); ++c) {
    if (of.formats[c].empty()) continue;
    formats[c] = workbook_add_format(book);
    format_set_num_format(formats[c], of.formats[c].c_str());
  }
  std::vector<double> widths(table[0].size(), 0.0);
  for (std::size_t r = 0; r < table.size(); ++r)
    for (std::size_t c = 0; c < table[r].size(); ++c) {
      const std::string& cell = table[r][c];
      widths[c] = std::max(widths[c], std::min(kWidest, static_cast<double>(cell.size()) + 2.0));
      if (cell.empty()) continue;
      const auto row = static_cast<lxw_row_t>(r);
      const auto column = static_cast<lxw_col_t>(c);
      const std::optional<double> number = r > 0 && c >= keys ? as_double(cell) : std::nullopt;
      if (number)
        worksheet_write_number(sheet, row, column, *number, formats[c]);
      else
        worksheet_write_string(sheet, row, column, cell.c_str(), r == 0 ? bold : nullptr);
    }
  for (std::size_t c = 0; c < widths.size(); ++c)
    worksheet_set_column(sheet, static_cast<lxw_col_t>(c), static_cast<lxw_col_t>(c), widths[c],
                         nullptr);
  worksheet_freeze_panes(sheet, 1, 0);
}

}  // namespace

std::string sheet_name(const std::string& name, const std::vector<std::string>& taken) {
  constexpr std::size_t kMostLetters = 31;
  std::string plain = name;
  for (char& c : plain)
    if (std::string_view("[]:*?/\\'").find(c) != std::string_view::npos) c = ' ';
  plain = first_letters(plain, kMostLetters);
  const auto is_taken = [&](const std::string& wanted) {
    return std::any_of(taken.begin(), taken.end(),
                       [&](const std::string& t) { return lower(t) == lower(wanted); });
  };
  std::string own = plain;
  for (int k = 2; is_taken(own); ++k) {
    const std::string number = fmt::format(" {}", k);
    own = first_letters(plain, kMostLetters - number.size()) + number;
  }
  return own;
}

void write_workbook(const std::string& path, const std::vector<Sheet>& sheets) {
  for (const auto& [name, table, formats] : sheets)
    if (table.size() > LXW_ROW_MAX || table[0].size() > LXW_COL_MAX)
      throw OutputError(
          fmt::format("{}: a sheet holds {} rows and {} columns, {} has more; "
                      "write CSV or a database",
                      path, LXW_ROW_MAX, LXW_COL_MAX, name));
  // The library writes files only; what it wrote goes to its place at once.
  const Scratch scratch;
  lxw_workbook* book = workbook_new(scratch.file.c_str());
  if (book == nullptr) throw OutputError(path + ": a workbook could not be made");
  std::vector<std::string> names;
  for (const Sheet& sheet : sheets) {
    names.push_back(sheet_name(sheet.name, names));
    fill(book, names.back(), sheet);
  }
  const lxw_error error = workbook_close(book);
  if (error != LXW_NO_ERROR)
    throw OutputError(path + ": a workbook could not be made (" + lxw_strerror(error) + ")");
  data::write_file(path, data::read_file(scratch.file));
}

}  // namespace kiteknot::formats
