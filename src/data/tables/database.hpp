#pragma once
// SQLite databases that hold rows and plans.

#include <memory>
#include <string>
#include <vector>

struct sqlite3;
struct sqlite3_stmt;

namespace kiteknot::data {

struct ClosesDatabase {
  void operator()(sqlite3* database) const;
  void operator()(sqlite3_stmt* statement) const;
};
using DatabaseHandle = std::unique_ptr<sqlite3, ClosesDatabase>;
using StatementHandle = std::unique_ptr<sqlite3_stmt, ClosesDatabase>;

/// What the table of a family is called, before the family's name.
inline constexpr const char* kPlanTable = "plan_";

/// By its first bytes; false where there is no such file.
bool is_database(const std::string& path);
/// Names of its tables, in order of the names; none where it cannot be read.
std::vector<std::string> tables_of(const std::string& path);
/// A name as SQL has it.
std::string quoted(const std::string& name);

/// Writes tables plan_NAME, all of them or none; others that the file has stay. Throws OutputError.
class PlanDatabase {
 public:
  explicit PlanDatabase(const std::string& path);
  /// Rows of cells, headings first.
  void write(const std::string& name, const std::vector<std::vector<std::string>>& table);
  void finish();

 private:
  void run(const std::string& sql);
  void need(bool good) const;
  std::string path_;
  DatabaseHandle handle_;
};

}  // namespace kiteknot::data
