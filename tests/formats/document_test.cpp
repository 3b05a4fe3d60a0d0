// The result document and plan files.
#include <filesystem>
#include <fstream>

#include <catch2/catch.hpp>
#include <nlohmann/json.hpp>
#include <unistd.h>

#include "kiteknot/kiteknot.hpp"

using namespace kiteknot;
using Json = nlohmann::json;

namespace {

const std::string kDemo = KITEKNOT_DEMO_DIR;

std::filesystem::path scratch(const std::string& name) {
  const auto folder =
      std::filesystem::temp_directory_path() / ("kiteknot-document-" + std::to_string(::getpid()));
  std::filesystem::create_directories(folder);
  return folder / name;
}

std::string told(const std::string& plan, const Model& m) {
  std::ofstream(scratch("plan.csv")) << plan;
  const Reading<Plan> reading = read_plan(scratch("plan.csv").string(), m);
  return reading.ok() ? "no error"
                      : reading.notes().text().substr(scratch("plan.csv").string().size());
}

}  // namespace

TEST_CASE("the result document of the programme holds what was found, in names",
          "[formats][document]") {
  const Model m = read_model(kDemo + "/programme.knot").value();
  const Json d = Json::parse(result_document(solve(m)));
  CHECK(d["format"] == "kiteknot-result");
  CHECK(d["version"] == 1);
  CHECK(d["model"] == "Festival programme");
  CHECK(d["outcome"] == "optimal");
  REQUIRE(d["goals"].size() == 1);
  CHECK(
      d["goals"][0] ==
      Json({{"name", "crowd"}, {"sense", "maximize"}, {"value", 492}, {"bound", 492}, {"gap", 0}}));
  CHECK(d["goals"][0]["value"].is_number_integer());
  CHECK(d["relaxation"]["integral"] == false);
  CHECK(d["decisions"].size() == 14);
  CHECK(d["decisions"][0]["name"] == "run");
  CHECK(d["decisions"][0]["index"] == Json::array({"night glow"}));
  CHECK_FALSE(d["decisions"][0].contains("reduced_cost"));
  CHECK(d["rules"][0]["low"].is_null());
  CHECK(d["rules"][0]["binding"] == true);
  CHECK(d["rules"][1]["slack"] == 20);
  CHECK_FALSE(d["rules"][0].contains("shadow_price"));
  CHECK(d["search"]["stopped_by"].is_null());
  CHECK(d["search"]["progress"].size() >= 1);
  CHECK(d["check"] == Json({{"exact", true}, {"largest_violation", 0}}));
}

TEST_CASE("a relaxed result has prices whose sign is that of the user's goal",
          "[formats][document]") {
  Model m = read_model(kDemo + "/programme.knot").value();
  const Result relaxed = solve_relaxed(m);
  const Json d = Json::parse(result_document(relaxed));
  CHECK(d["relaxed"] == true);
  const double price = d["rules"][0]["shadow_price"];
  m.set("crew_hours", Rational(35) + Rational(0.25));
  const double change = (solve_relaxed(m).goal() - relaxed.goal()).to_double();
  CHECK(price == Approx(4.0 * change));
  CHECK(price > 0.0);
}

TEST_CASE("an infeasible result has no plan, no gap and no check", "[formats][document]") {
  Model m = read_model(kDemo + "/programme.knot").value();
  m.set("crew_hours", 1);
  const Json d = Json::parse(result_document(solve(m)));
  CHECK(d["outcome"] == "infeasible");
  CHECK(d["goals"][0]["value"].is_null());
  CHECK(d["goals"][0]["gap"].is_null());
  CHECK(d["decisions"].empty());
  CHECK(d["check"].is_null());
}

TEST_CASE("plans are written and read back the same", "[formats][document]") {
  const Model m = read_model(kDemo + "/stewards.knot").value();
  const Result r = solve(m);
  write_plan(scratch("stewards.csv").string(), m, *r.plan);
  const Plan again = read_plan(scratch("stewards.csv").string(), m).value();
  CHECK(again.values() == r.plan->values());
  CHECK_FALSE(std::filesystem::exists(scratch("stewards.csv").string() + ".part" +
                                      std::to_string(::getpid())));
}

TEST_CASE("what is wrong in a plan is told with its line", "[formats][document]") {
  const Model m = read_model(kDemo + "/programme.knot").value();
  CHECK(told("decision,value\nrun[tea tnt],1\n", m) ==
        ":2:1: there is no run[tea tnt]: no show 'tea tnt'; nearest is 'tea tent'");
  CHECK(told("decision,value\nrun[tea tent],yes\n", m) == ":2:15: 'yes' is not a finite figure");
  CHECK(told("decision,value\nrun[tea tent],1\nrun[tea tent],1\n", m) ==
        ":3:1: run[tea tent] is there twice; first on line 2");
  CHECK(told("name,value\nrun[tea tent],1\n", m).find("columns decision and value") !=
        std::string::npos);
}

TEST_CASE("files that cannot be read or written name themselves", "[formats][document]") {
  CHECK_THROWS_WITH(read_model("/nowhere/m.knot"),
                    Catch::Contains("/nowhere/m.knot: cannot be read"));
  const Model m = read_model(kDemo + "/crate.knot").value();
  CHECK_THROWS_WITH(write_result("/nowhere/r.json", solve(m)),
                    Catch::Contains("/nowhere/r.json: cannot be written"));
  CHECK(read_model("model.txt").notes().text().find(".knot or .mps") != std::string::npos);
}
