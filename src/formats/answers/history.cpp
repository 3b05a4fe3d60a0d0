// A history of runs in SQLite.

#include <cmath>
#include <filesystem>

#include <fmt/format.h>
#include <sqlite3.h>

#include "kiteknot/saved.hpp"

namespace kiteknot {
namespace {

constexpr int kMark = 0x4b4b6e74;  // "KKnt": what tells a history from other databases
constexpr int kVersion = 1;

}  // namespace

struct History::Database {
  sqlite3* handle = nullptr;
  std::string path;

  explicit Database(std::string file) : path(std::move(file)) {}
  ~Database() { sqlite3_close(handle); }
  Database(const Database&) = delete;
  Database& operator=(const Database&) = delete;

  bool writes = false;

  [[noreturn]] void fail(const std::string& what) const { throw IoError(path + ": " + what); }
  /// Where it is an output, what keeps it from being written is no mistake in the input.
  [[noreturn]] void fail_to_use(const std::string& what) const {
    if (writes) throw OutputError(path + ": " + what);
    fail(what);
  }
  void need(int code) const {
    if (code == SQLITE_OK || code == SQLITE_DONE || code == SQLITE_ROW) return;
    if (code == SQLITE_NOTADB) fail("is no history of runs");
    if (code == SQLITE_BUSY)
      fail_to_use("another program has been writing to it for over a minute");
    fail_to_use(fmt::format("the history cannot be used ({})", sqlite3_errmsg(handle)));
  }
  void run(const char* sql) const { need(sqlite3_exec(handle, sql, nullptr, nullptr, nullptr)); }
};

namespace {

// One prepared statement; values are bound in order.
class Statement {
 public:
  Statement(const History::Database& db, const char* sql);
  ~Statement() { sqlite3_finalize(statement_); }
  Statement(const Statement&) = delete;
  Statement& operator=(const Statement&) = delete;

  Statement& bind(const std::string& text) {
    sqlite3_bind_text(statement_, ++bound_, text.data(), static_cast<int>(text.size()),
                      SQLITE_TRANSIENT);
    return *this;
  }
  Statement& bind(std::int64_t number) {
    sqlite3_bind_int64(statement_, ++bound_, number);
    return *this;
  }
  Statement& bind(const std::optional<double>& number) {
    if (number && std::isfinite(*number))
      sqlite3_bind_double(statement_, ++bound_, *number);
    else
      sqlite3_bind_null(statement_, ++bound_);
    return *this;
  }
  bool step();
  [[nodiscard]] std::string text(int column) const {
    const unsigned char* t = sqlite3_column_text(statement_, column);
    return t == nullptr ? "" : reinterpret_cast<const char*>(t);
  }
  [[nodiscard]] std::int64_t whole(int column) const {
    return sqlite3_column_int64(statement_, column);
  }
  [[nodiscard]] std::optional<double> number(int column) const {
    if (sqlite3_column_type(statement_, column) == SQLITE_NULL) return std::nullopt;
    return sqlite3_column_double(statement_, column);
  }

 private:
  const History::Database& db_;
  sqlite3_stmt* statement_ = nullptr;
  int bound_ = 0;
};

Statement::Statement(const History::Database& db, const char* sql) : db_(db) {
  db_.need(sqlite3_prepare_v2(db_.handle, sql, -1, &statement_, nullptr));
}
bool Statement::step() {
  const int code = sqlite3_step(statement_);
  db_.need(code);
  return code == SQLITE_ROW;
}

std::string joined(const std::vector<std::string>& settings) {
  return fmt::format("{}", fmt::join(settings, " "));
}

}  // namespace

History::History(const std::string& path, bool must_exist)
    : database_(std::make_unique<Database>(path)) {
  database_->writes = !must_exist;
  const Database& db = *database_;
  if (must_exist && !std::filesystem::exists(path)) db.fail("there is no such file");
  const int code =
      sqlite3_open_v2(path.c_str(), &database_->handle,
                      SQLITE_OPEN_READWRITE | (must_exist ? 0 : SQLITE_OPEN_CREATE), nullptr);
  if (code != SQLITE_OK) db.fail_to_use("cannot be opened");
  constexpr int kPatience = 60'000;  // milliseconds that a second writer waits
  sqlite3_busy_timeout(db.handle, kPatience);
  db.run("BEGIN IMMEDIATE");
  Statement mark(db, "PRAGMA application_id");
  mark.step();
  Statement tables(db, "SELECT count(*) FROM sqlite_master");
  tables.step();
  const bool fresh = tables.whole(0) == 0;
  if (!fresh && mark.whole(0) != kMark) db.fail("is a database, but no history of runs");
  Statement version(db, "PRAGMA user_version");
  version.step();
  if (version.whole(0) > kVersion) db.fail("was written by a later version");
  if (fresh) {
    db.run(fmt::format("PRAGMA application_id = {}; PRAGMA user_version = {}", kMark, kVersion)
               .c_str());
    db.run(
        "CREATE TABLE runs (number INTEGER PRIMARY KEY AUTOINCREMENT, started TEXT, file TEXT, "
        "model TEXT, scenario TEXT, settings TEXT, outcome TEXT, goal TEXT, value REAL, bound "
        "REAL, gap REAL, seconds REAL, answer TEXT)");
  }
  db.run("COMMIT");
}
History::~History() = default;
History::History(History&&) noexcept = default;
History& History::operator=(History&&) noexcept = default;

History::Database& History::database() const {
  if (!database_) throw UsageError("a history that was moved elsewhere was used");
  return *database_;
}

std::int64_t History::begin(const Model& model, const Origin& origin) {
  Statement s(database(),
              "INSERT INTO runs (started, file, model, scenario, settings) VALUES (?, ?, ?, ?, ?)");
  s.bind(origin.when).bind(origin.file).bind(model.title()).bind(origin.scenario);
  s.bind(joined(origin.settings)).step();
  return sqlite3_last_insert_rowid(database().handle);
}

namespace {

void store(const History::Database& db, std::int64_t run, const Result& r, const Origin& origin,
           const std::string& outcome) {
  Statement s(db,
              "UPDATE runs SET outcome = nullif(?, ''), goal = ?, value = ?, bound = ?, gap = ?, "
              "seconds = ?, answer = ? WHERE number = ?");
  const GoalResult none;
  const GoalResult& goal = r.goals.empty() ? none : r.goals[0];
  s.bind(outcome).bind(goal.name);
  s.bind(goal.value ? std::optional(goal.value->to_double()) : std::nullopt);
  s.bind(goal.bound).bind(goal.gap).bind(std::optional(r.search.seconds));
  s.bind(saved_answer(r, origin)).bind(run).step();
}

}  // namespace

void History::note(std::int64_t run, const Result& so_far, const Origin& origin) {
  store(database(), run, so_far, origin, "");
}

void History::finish(std::int64_t run, const Result& result, const Origin& origin) {
  store(database(), run, result, origin,
        std::string(word(result.outcome)) + (result.relaxed_only ? ", relaxed" : ""));
}

std::vector<RunLine> History::runs(std::size_t most) const {
  Statement s(database(),
              "SELECT number, started, file, model, scenario, settings, outcome, goal, value, "
              "bound, gap, seconds FROM runs ORDER BY number DESC LIMIT ?");
  s.bind(static_cast<std::int64_t>(most));
  std::vector<RunLine> lines;
  while (s.step()) {
    RunLine line;
    line.number = s.whole(0);
    line.origin = {s.text(2), s.text(4), {}, s.text(1)};
    if (!s.text(5).empty()) line.origin.settings.push_back(s.text(5));
    line.model = s.text(3);
    line.outcome = s.text(6);
    line.goal = s.text(7);
    line.value = s.number(8);
    line.bound = s.number(9);
    line.gap = s.number(10);
    line.seconds = s.number(11).value_or(0.0);
    lines.push_back(std::move(line));
  }
  return lines;
}

std::string History::answer(std::int64_t run) const {
  Statement s(database(), "SELECT answer FROM runs WHERE number = ?");
  s.bind(run);
  if (!s.step()) throw UsageError(fmt::format("{}: there is no run {}", database().path, run));
  std::string text = s.text(0);
  if (text.empty())
    throw UsageError(fmt::format("{}: run {} left no answer", database().path, run));
  return text;
}

}  // namespace kiteknot
