// Kinds are found exactly: what is one has its ways, what nearly is one has not; their plans are
// plans, and the search takes them for a start.
#include <catch2/catch.hpp>
#include <fmt/format.h>

#include "support/folder.hpp"
#include "support/knot.hpp"

using namespace kiteknot;

namespace {

std::string cover(const std::string& limit = ">= 1", const std::string& kind = "binary",
                  const std::string& more = "") {
  return R"(model "Cover"
table sets key set rows
  set, cost
  a, 3
  b, 2
  c, 4
table needs key need rows
  need
  x
  y
table members key set in sets, need in needs rows
  set, need
  a, x
  b, y
  c, x
  c, y
decide take[s in sets] )" +
         kind + R"(
minimize cost: total(s.cost * take[s] over s in sets)
rule met[n in needs]: total(take[m.set] over m in members where m.need = n) )" +
         limit + "\n" + more;
}

std::string boxes(const std::string& first_size = "4", const std::string& more = "") {
  return R"(model "Boxes"
table items key item rows
  item, size
  a, )" + first_size +
         R"(
  b, 6
  c, 5
table boxes key box rows
  box
  1
  2
  3
table ways product of items, boxes
decide put[w in ways] binary
decide used[b in boxes] binary
minimize n: total(used[b] over b in boxes)
rule once[i in items]: total(put[w] over w in ways where w.item = i) = 1
rule fits[b in boxes]: total(w.item.size * put[w] over w in ways where w.box = b) <= 10 * used[b]
)" + more;
}

std::string places(const std::string& link = "ship[l] <= l.field.need * open[l.depot]",
                   const std::string& more = "") {
  return R"(model "Places"
table depots key depot rows
  depot, rent
  n, 8
  s, 5
table fields key field rows
  field, need
  1, 3
  2, 2
table lanes key depot in depots, field in fields rows
  depot, field, rate
  n, 1, 1
  n, 2, 4
  s, 1, 5
  s, 2, 1
decide open[d in depots] binary
decide ship[l in lanes] real 0 .. 10
minimize cost: total(d.rent * open[d] over d in depots) + total(l.rate * ship[l] over l in lanes)
rule need[f in fields]: total(ship[l] over l in lanes where l.field = f) = f.need
rule link[l in lanes]: )" +
         link + "\n" + more;
}

std::string rooms(const std::string& once = "= 1", const std::string& more = "") {
  return R"(model "Jobs"
table people key person rows
  person, room
  p, 5
  q, 6
table jobs key job rows
  job
  1
  2
  3
table pairs key person in people, job in jobs rows
  person, job, cost, use
  p, 1, 4, 3
  p, 2, 2, 4
  p, 3, 5, 2
  q, 1, 3, 2
  q, 2, 6, 3
  q, 3, 1, 4
decide does[b in pairs] binary
minimize cost: total(b.cost * does[b] over b in pairs)
rule once[j in jobs]: total(does[b] over b in pairs where b.job = j) )" +
         once + R"(
rule room[p in people]: total(b.use * does[b] over b in pairs where b.person = p) <= p.room
)" + more;
}

std::string kind(const std::string& text) {
  return known_kind(test::model_of(text));
}

}  // namespace

TEST_CASE("kinds are found, and near misses are none", "[methods][kinds]") {
  CHECK(kind(cover()) == "a cover of 2 needs by 3 sets");
  CHECK(kind(cover(">= 2")).empty());
  CHECK(kind(cover("= 1")).empty());
  CHECK(kind(cover("<= 1")).empty());
  CHECK(kind(cover(">= 1", "integer 0 .. 2")).empty());
  CHECK(kind(cover(">= 1", "binary", "rule few: total(take[s] over s in sets) <= 2\n")).empty());
  CHECK(kind(cover(">= 1", "binary", "rule not_a: not take[\"a\"]\n")).empty());
  CHECK(kind(cover(">= 1", "binary", "decide other binary\n")) == "a cover of 2 needs by 4 sets");
  // A halved rule is the same rule.
  CHECK(
      kind(cover(">= 1", "binary", "rule half: 0.5 * take[\"a\"] + 0.5 * take[\"b\"] >= 0.5\n")) ==
      "a cover of 3 needs by 3 sets");

  CHECK(kind(boxes()) == "packing of 3 items into boxes of 10");
  CHECK(kind(boxes("11")).empty());                                    // it fits nowhere
  CHECK(kind(boxes("4.5")) == "packing of 3 items into boxes of 20");  // in halves
  CHECK(kind(boxes("4", "rule two: used[\"1\"] + used[\"2\"] <= 1\n")).empty());
  CHECK(kind(boxes("4", "rule tie: put[\"a\", \"1\"] <= put[\"b\", \"1\"]\n")).empty());

  CHECK(kind(places()) == "a choice of 2 places that serve 2 customers without limits");
  CHECK(kind(places("ship[l] <= 2 * open[l.depot]")).empty());  // a limit of its own
  CHECK(kind(places("ship[l] <= 9 * open[l.depot]")) ==
        "a choice of 2 places that serve 2 customers without limits");
  CHECK(kind(places("ship[l] >= 0 * open[l.depot]")).empty());
  CHECK(kind(places("ship[l] <= l.field.need * open[l.depot]",
                    "rule few: open[\"n\"] + open[\"s\"] <= 1\n"))
            .empty());

  CHECK(kind(rooms()) == "an assignment of 3 jobs to 2 agents with room");
  CHECK(kind(rooms("<= 1")).empty());
  CHECK(kind(rooms("= 1", "rule apart: does[\"p\", \"1\"] + does[\"p\", \"2\"] <= 1\n")).empty());
  CHECK(kind("model \"Bag\"\ndecide x binary\ndecide y binary\nmaximize g: 3 * x + 2 * y\n"
             "rule r: 2 * x + 2 * y <= 3\n")
            .empty());
}

TEST_CASE("ways of kinds are offered for theirs only, and end at plans", "[methods][kinds]") {
  const std::vector<std::pair<std::string, std::vector<std::string>>> kinds = {
      {cover(), {"cover greedy", "cover prices"}},
      {boxes(), {"first fit", "best fit"}},
      {places(), {"add places", "drop places", "swap places", "dual ascent"}},
      {rooms(), {"job regret", "job exchange"}}};
  for (const auto& [text, ways] : kinds) {
    const Model m = test::model_of(text);
    const Result best = solve(m);
    const std::vector<std::string> offered = method_names(m);
    for (const std::string& way : ways) {
      INFO(way);
      CHECK(std::ranges::find(offered, way) != offered.end());
      CHECK(method(way).takes(m));
      const MethodAnswer a = method(way).run(m, {.seconds = 0.5}, nullptr)[0];
      if (way == "job regret" && !a.plan) continue;  // it may end without room
      REQUIRE(a.report);
      CHECK(a.report->feasible);
      CHECK(*a.report->goal >= *best.report->goal);
      if (a.bound) CHECK(*a.bound <= best.report->goal->to_double());
      CHECK_FALSE(method(way).takes(test::model_of(text == kinds[0].first ? boxes() : cover())));
    }
  }
  CHECK_THROWS_WITH(method("first fit").run(test::model_of(cover()), {}, nullptr),
                    Catch::Contains("'first fit' does not take this model: it is no packing"));
}

TEST_CASE("planted cases of a kind: their ways never beat the optimum, the search starts from them",
          "[methods][kinds]") {
  const test::Folder folder("kinds");
  for (std::uint64_t seed = 1; seed <= 3; ++seed) {
    const MadeCase made =
        make_case({.kind = "cover", .sizes = {60, 400}, .seed = seed, .planted = true}, "c");
    for (const auto& [file, text] : made.files) folder.file(file, text);
    const Model m = read_model(folder.at("c.knot")).value();
    const MethodAnswer priced = method("cover prices").run(m, {}, nullptr)[0];
    CHECK(*priced.report->goal >= *made.optimum);
    const Result r = solve(m);
    REQUIRE(r.outcome == Outcome::optimal);
    CHECK(r.goal() == *made.optimum);
    // Told as what it is.
    const Result brief = solve(m, {.nodes = 1});
    CHECK(brief.has_plan());
  }
  const MadeCase hard = make_case({.kind = "cover", .sizes = {100, 600}, .seed = 2}, "h");
  for (const auto& [file, text] : hard.files) folder.file(file, text);
  const Model m = read_model(folder.at("h.knot")).value();
  const Result plain = solve(m, {.nodes = 1, .plain = true});
  const Result helped = solve(m, {.nodes = 1});
  REQUIRE(helped.has_plan());
  if (plain.has_plan()) CHECK(helped.goal() <= plain.goal());
}
