#include "data/tables/database.hpp"

#include <filesystem>
#include <fstream>

#include <fmt/format.h>
#include <sqlite3.h>

#include "kiteknot/errors.hpp"

namespace kiteknot::data {
namespace {
constexpr int kPatience = 5000;  // milliseconds, where another program writes
}

void ClosesDatabase::operator()(sqlite3* database) const {
  sqlite3_close(database);
}
void ClosesDatabase::operator()(sqlite3_stmt* statement) const {
  sqlite3_finalize(statement);
}

bool is_database(const std::string& path) {
  constexpr std::string_view kMark("SQLite format 3\0", 16);
  if (!std::filesystem::is_regular_file(path)) return false;
  std::string first(kMark.size(), ' ');
  std::ifstream in(path, std::ios::binary);
  return in.read(first.data(), static_cast<std::streamsize>(first.size())) && first == kMark;
}

std::vector<std::string> tables_of(const std::string& path) {
  std::vector<std::string> names;
  sqlite3* opened = nullptr;
  const int code = sqlite3_open_v2(path.c_str(), &opened, SQLITE_OPEN_READONLY, nullptr);
  const DatabaseHandle handle(opened);
  if (code != SQLITE_OK) return names;
  sqlite3_stmt* prepared = nullptr;
  sqlite3_prepare_v2(opened, "select name from sqlite_master where type = 'table' order by name",
                     -1, &prepared, nullptr);
  const StatementHandle select(prepared);
  while (prepared != nullptr && sqlite3_step(prepared) == SQLITE_ROW)
    names.emplace_back(reinterpret_cast<const char*>(sqlite3_column_text(prepared, 0)));
  return names;
}

std::string quoted(const std::string& name) {
  std::string text = "\"";
  for (const char c : name) text += c == '"' ? std::string("\"\"") : std::string(1, c);
  return text + "\"";
}

PlanDatabase::PlanDatabase(const std::string& path) : path_(path) {
  namespace fs = std::filesystem;
  std::error_code code;
  if (fs::exists(path, code) && fs::file_size(path, code) > 0 && !is_database(path))
    throw OutputError(path + ": is there and is no SQLite database; it stays as it is");
  sqlite3* opened = nullptr;
  const int good = sqlite3_open(path.c_str(), &opened);
  handle_.reset(opened);
  need(good == SQLITE_OK);
  sqlite3_busy_timeout(opened, kPatience);
  run("begin immediate");
}

void PlanDatabase::need(bool good) const {
  if (!good)
    throw OutputError(
        fmt::format("{}: cannot be written ({})", path_, sqlite3_errmsg(handle_.get())));
}

void PlanDatabase::run(const std::string& sql) {
  need(sqlite3_exec(handle_.get(), sql.c_str(), nullptr, nullptr, nullptr) == SQLITE_OK);
}

// Keys are texts, whatever they look like; values are figures.
void PlanDatabase::write(const std::string& name,
                         const std::vector<std::vector<std::string>>& table) {
  const std::string title = quoted(kPlanTable + name);
  std::string columns, places;
  for (const std::string& c : table[0]) {
    columns += (columns.empty() ? "" : ", ") + quoted(c) + (c == "value" ? " numeric" : " text");
    places += places.empty() ? "?" : ", ?";
  }
  run("drop table if exists " + title);
  run("create table " + title + " (" + columns + ")");
  sqlite3_stmt* prepared = nullptr;
  const std::string sql = "insert into " + title + " values (" + places + ")";
  need(sqlite3_prepare_v2(handle_.get(), sql.c_str(), -1, &prepared, nullptr) == SQLITE_OK);
  const StatementHandle insert(prepared);
  for (std::size_t r = 1; r < table.size(); ++r) {
    for (std::size_t c = 0; c < table[r].size(); ++c)
      sqlite3_bind_text(prepared, static_cast<int>(c) + 1, table[r][c].data(),
                        static_cast<int>(table[r][c].size()), SQLITE_TRANSIENT);
    need(sqlite3_step(prepared) == SQLITE_DONE);
    sqlite3_reset(prepared);
  }
}

void PlanDatabase::finish() {
  run("commit");
}

}  // namespace kiteknot::data
