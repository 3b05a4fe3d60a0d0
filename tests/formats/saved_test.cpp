// Answers kept: what is written can be read back and laid beside another, and a history keeps runs.
#include "kiteknot/saved.hpp"

#include <filesystem>
#include <fstream>

#include <catch2/catch.hpp>
#include <nlohmann/json.hpp>
#include <unistd.h>

#include "kiteknot/kiteknot.hpp"
#include "support/folder.hpp"

using namespace kiteknot;
namespace fs = std::filesystem;

namespace {

Model stalls(int room, bool with_rope) {
  Model m{"Stalls"};
  const auto t =
      Table::parse("stalls",
                   with_rope ? "stall,width,worth\ntea,3,30\nkites,4,42\nrope,2,15\n"
                             : "stall,width,worth\ntea,3,30\nkites,4,42\n\"a, b\",2,15\n",
                   {.key = {"stall"}});
  const auto width = t.numbers("width"), worth = t.numbers("worth");
  const auto up = m.binary("up", t);
  m.maximize("worth", total(t, [&](Row r) { return worth[r] * up[r]; }));
  m.rule("fits", total(t, [&](Row r) { return width[r] * up[r]; }) <= room);
  m.rule("some", any_of({up.named({"tea"}), up.named({"kites"})}));
  return m;
}

fs::path scratch(const std::string& name) {
  const fs::path p = fs::temp_directory_path() / ("kiteknot-saved-" + std::to_string(::getpid()));
  fs::create_directories(p);
  fs::remove(p / name);
  return p / name;
}

}  // namespace

TEST_CASE("a saved answer reads back with names, figures and origin", "[saved]") {
  const Result r = solve(stalls(7, true));
  const Origin origin{"stalls.knot", "rain", {"room=7"}, "2026-05-01 09:30"};
  const SavedAnswer a = parse_answer(saved_answer(r, origin), "a.json").value();
  CHECK(a.model == "Stalls");
  CHECK(a.outcome == "optimal");
  CHECK(a.origin.file == "stalls.knot");
  CHECK(a.origin.scenario == "rain");
  CHECK(a.origin.settings == std::vector<std::string>{"room=7"});
  CHECK(a.origin.when == "2026-05-01 09:30");
  REQUIRE(a.goals.size() == 1);
  CHECK(a.goals[0].value == 72.0);
  CHECK(a.goals[0].gap == 0.0);
  REQUIRE(a.decisions.size() == 3);
  CHECK(a.decisions[0].name == "up[tea]");
  CHECK(a.decisions[2].value == 0.0);
  REQUIRE(a.rules.size() == 2);
  CHECK(a.rules[0].high == 7.0);
  CHECK_FALSE(a.rules[0].low.has_value());
  CHECK_FALSE(a.rules[1].value.has_value());  // logic has no value
  CHECK(a.rules[1].met);
  // A plain result document will do as well; it has no origin.
  const SavedAnswer plain = parse_answer(result_document(r), "b.json").value();
  CHECK(plain.decisions.size() == 3);
  CHECK(plain.origin.file.empty());
}

TEST_CASE("an answer without a plan is kept, too", "[saved]") {
  const SavedAnswer none = parse_answer(saved_answer(solve(stalls(1, true)), {}), "n.json").value();
  CHECK(none.outcome == "infeasible");
  CHECK(none.decisions.empty());
  const SavedAnswer some = parse_answer(saved_answer(solve(stalls(7, true)), {}), "s.json").value();
  const std::string page = saved_page(none, some);
  CHECK(page.find("infeasible") != std::string::npos);
  CHECK(page.find("new") != std::string::npos);
}

TEST_CASE("two versions of a model are laid side by side by name", "[saved]") {
  const SavedAnswer a = parse_answer(saved_answer(solve(stalls(9, true)), {}), "a.json").value();
  const SavedAnswer b = parse_answer(saved_answer(solve(stalls(6, false)), {}), "b.json").value();
  const std::string page = saved_page(a, b, {false, 140});
  CHECK(page.find("-30") != std::string::npos);  // 87, then 57
  CHECK(page.find("only in the first   up[tea]") != std::string::npos);
  CHECK(page.find("no longer there     up[rope] (1)") != std::string::npos);
  CHECK(page.find("new                 up[\"a, b\"] (1)") != std::string::npos);
  CHECK(page.find("9 of at most 9") != std::string::npos);
  CHECK(page.find("1 other rule stand") != std::string::npos);
  const std::string same = saved_page(a, a);
  CHECK(same.find("the same") != std::string::npos);
}

TEST_CASE("what is no answer is refused with the reason", "[saved][errors]") {
  const auto complaint = [](const std::string& text) {
    const auto r = parse_answer(text, "x.json");
    REQUIRE_FALSE(r.ok());
    return r.notes().text();
  };
  CHECK(complaint("").find("x.json: is no saved answer") != std::string::npos);
  CHECK(complaint("[1, 2]").find("is no saved answer") != std::string::npos);
  CHECK(complaint("{\"format\": \"kiteknot-trade\"}").find("is no saved answer") !=
        std::string::npos);
  CHECK(complaint("{\"format\": \"kiteknot-result\", \"version\": 9}").find("later version") !=
        std::string::npos);
  const std::string whole = saved_answer(solve(stalls(7, true)), {});
  for (const char* key : {"model", "outcome", "goals", "decisions", "rules", "search"}) {
    auto broken = nlohmann::json::parse(whole);
    broken.erase(key);
    CHECK(complaint(broken.dump()).find("is no complete answer") != std::string::npos);
  }
  auto wrong = nlohmann::json::parse(whole);
  wrong["decisions"][0]["value"] = "much";
  CHECK(complaint(wrong.dump()).find("is no complete answer") != std::string::npos);
  CHECK_THROWS_AS(read_answer("/no/such/answer.json"), IoError);
}

TEST_CASE("a history keeps runs in order, and their answers", "[saved][history]") {
  const std::string path = scratch("runs.db").string();
  CHECK_THROWS_AS(History(path, true), IoError);
  CHECK_FALSE(fs::exists(path));
  {
    History h(path);
    CHECK(h.runs().empty());
    CHECK(history_page(path, h.runs()).find("no runs yet") != std::string::npos);
    const Model m = stalls(7, true);
    const Origin origin{"stalls.knot", "", {"room=7"}, "2026-05-01 09:30"};
    const std::int64_t first = h.begin(m, origin);
    h.finish(first, solve(m), origin);
    const std::int64_t second = h.begin(m, origin);
    CHECK(second == first + 1);
    CHECK_THROWS_WITH(h.answer(second), Catch::Contains("left no answer"));
    CHECK_THROWS_WITH(h.answer(77), Catch::Contains("there is no run 77"));
    Result so_far(m);
    so_far.outcome = Outcome::unproven;
    so_far.goals.push_back({"worth", Sense::maximize, Rational(45), 80.0, 0.7});
    h.note(second, so_far, origin);
  }
  const History again(path, true);
  const auto runs = again.runs();
  REQUIRE(runs.size() == 2);
  CHECK(runs[0].number == 2);
  CHECK(runs[0].outcome.empty());  // it never finished
  CHECK(runs[0].value == 45.0);
  CHECK(runs[1].outcome == "optimal");
  CHECK(runs[1].value == 72.0);
  CHECK(runs[1].gap == 0.0);
  CHECK(runs[1].origin.settings == std::vector<std::string>{"room=7"});
  CHECK(again.runs(1).size() == 1);
  CHECK(parse_answer(again.answer(1), "1").value().decisions.size() == 3);
  const std::string page = history_page(path, runs);
  CHECK(page.find("unfinished") < page.find("optimal"));
}

TEST_CASE("what is no history is refused", "[saved][history][errors]") {
  const fs::path text = scratch("text.db");
  std::ofstream(text) << std::string(4096, 'x');
  CHECK_THROWS_WITH(History(text.string()), Catch::Contains("is no history of runs"));
  CHECK_THROWS_AS(History("/no/such/folder/runs.db"), IoError);
}

TEST_CASE("a saved answer is a plan, to the digit", "[formats]") {
  Model m("Thirds");
  const Decision a = m.real("a", {}, between(0, 9)), b = m.integer("b", {}, between(0, 9)).only();
  m.maximize("z", Expression(a) + Expression(b));
  m.rule("r", Expression(3) * a + Expression(6) * b <= Expression(7));
  const Result r = solve(m);
  REQUIRE((*r.plan)[a] == Rational::ratio(7, 3));
  const test::Folder folder("saved-plan");
  write_answer(folder.at("r.json"), r, {});
  CHECK(is_saved_answer(folder.at("r.json")));
  CHECK(read_plan(folder.at("r.json"), m).value().values() == r.plan->values());
  Model other("Other");
  (void)other.integer("c", {}, between(0, 9));
  CHECK(read_plan(folder.at("r.json"), other).notes().text().find("no decision 'a'") !=
        std::string::npos);
  CHECK_FALSE(is_saved_answer(folder.file("plan.csv", "decision,value\na,1\n")));
}
