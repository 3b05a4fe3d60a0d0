// The report: a well-formed page that needs nothing else, holds what the answer holds, and shows
// hostile data as text.
#include <algorithm>
#include <regex>

#include "support/knot.hpp"

using namespace kiteknot;

namespace {

bool has(const std::string& text, const std::string& part) {
  return text.find(part) != std::string::npos;
}

std::size_t count(const std::string& text, const std::string& part) {
  std::size_t n = 0;
  for (std::size_t at = text.find(part); at != std::string::npos; at = text.find(part, at + 1)) ++n;
  return n;
}

// Every tag is closed by its own, in order; nothing is left open. Script and style hold no tags.
std::string unbalanced(std::string page) {
  for (const std::string raw : {"script", "style"}) {
    const std::size_t from = page.find("<" + raw + ">"), to = page.find("</" + raw + ">");
    if (from == std::string::npos || to == std::string::npos) return raw + " is missing";
    page.erase(from, to - from + raw.size() + 3);
  }
  static const std::regex tag("<(/?)([a-zA-Z0-9!]+)([^<>]*)>");
  std::vector<std::string> open;
  for (std::sregex_iterator it(page.begin(), page.end(), tag), end; it != end; ++it) {
    const std::string name = (*it)[2], rest = (*it)[3];
    if (name == "!doctype" || name == "meta" || rest.ends_with("/")) continue;
    if ((*it)[1].length() == 0) {
      open.push_back(name);
    } else {
      if (open.empty() || open.back() != name) return "</" + name + ">";
      open.pop_back();
    }
  }
  return open.empty() ? "" : "<" + open.back() + ">";
}

// No address that a browser would fetch: links lead to the page's own parts.
bool stands_alone(const std::string& page) {
  return !has(page, "src=") && !has(page, "http") && !has(page, "@import") && !has(page, "url(") &&
         count(page, "href=\"") == count(page, "href=\"#");
}

ReportParts all_of_it(const Model& m) {
  ReportParts parts(solve(m));
  parts.ways = compare(parts.best, {"exact", "relaxed", "rounded", "greedy"});
  parts.rules = without_each(m);
  parts.made = "Made today";
  parts.sources = {"own.knot"};
  return parts;
}

constexpr const char* kHostile = R"(model "Fair <b>&amp;</b> </title><script>alert(1)</script>"
table shows key show rows
 show, worth, crew
 <script>alert('x')</script>, 9, 3
 "</td></table><img src=x onerror=alert(2)>", 8, 4
 "a ""quoted"" & named", 7, 2
 plain, 3, 1
decide run[s in shows] binary
maximize worth: total(s.worth * run[s] over s in shows)
rule crew: total(s.crew * run[s] over s in shows) <= 6
rule each[s in shows]: run[s] <= 1
)";

}  // namespace

TEST_CASE("a report holds answer, decisions, rules, ways and model, and stands alone", "[report]") {
  const Model m = test::model_of(R"(model "Small fair"
table shows key show rows
 show, worth, crew
 tea, 9, 3
 kites, 8, 4
 drums, 7, 2
decide run[s in shows] binary
decide tents integer 0 .. 4
maximize worth: total(s.worth * run[s] over s in shows) - tents
rule crew: total(s.crew * run[s] over s in shows) <= 6
rule shade: tents >= 2 * run["kites"]
)");
  const std::string page = html_report(all_of_it(m));
  INFO(page);
  CHECK(unbalanced(page).empty());
  CHECK(stands_alone(page));
  CHECK(page.starts_with("<!doctype html>"));
  for (const char* id : {"answer", "decided", "picture", "rules", "ways", "prices", "model"}) {
    CHECK(has(page, std::string("<section id=\"") + id + "\">"));
    CHECK(has(page, std::string("<a href=\"#") + id + "\">"));
  }
  CHECK_FALSE(has(page, "<section id=\"scenarios\">"));
  CHECK(has(page, "<h2 class=\"good\">Small fair: proven optimal</h2>"));
  CHECK(has(page, "worth is 16, and no plan reaches more."));
  // Decisions with the data of what their keys name, those without keys under their own names.
  CHECK(has(page, "<th>show</th><th class=\"number\">value</th>"));
  CHECK(has(page, "<td>tea</td><td class=\"number\">1</td><td class=\"number\">9</td>"));
  CHECK(has(page, "<td>tents</td><td class=\"number\">0</td>"));
  CHECK_FALSE(has(page, "<td>kites</td><td class=\"number\">1</td>"));
  // Rules with what is used of their limits.
  CHECK(has(page,
            "<tr><td>crew</td><td class=\"number\">5</td><td class=\"number\"></td>"
            "<td class=\"number\">6</td><td class=\"number\">1</td><td>room left</td>"
            "<td><span class=\"fill\"><i style=\"width:83%\"></i></span></td></tr>"));
  CHECK(has(page, "class=\"bars\""));
  CHECK(has(page, "Read from own.knot."));
  CHECK(has(page, "Made today."));
}

TEST_CASE("whatever the data hold is text in a report", "[report]") {
  const std::string page = html_report(all_of_it(test::model_of(kHostile)));
  INFO(page);
  CHECK(unbalanced(page).empty());
  CHECK(count(page, "<script>") == 1);
  CHECK(count(page, "</script>") == 1);
  CHECK(count(page, "</title>") == 1);
  CHECK_FALSE(has(page, "<img"));
  CHECK_FALSE(has(page, "<b>&amp;amp;"));
  CHECK(has(page, "&lt;script&gt;alert(&#39;x&#39;)&lt;/script&gt;"));
  CHECK(has(page, "a &quot;quoted&quot; &amp; named"));
}

TEST_CASE("a report of what has no plan says why", "[report]") {
  const Model m = test::model_of(R"(model "Too much"
decide x integer 0 .. 9
decide y integer 0 .. 9
minimize cost: x + y
rule many: x + y >= 12
rule few: x + y <= 5
)");
  ReportParts parts(solve(m));
  parts.explanation = explain(m);
  const std::string page = html_report(parts);
  CHECK(unbalanced(page).empty());
  CHECK(has(page, "<h2 class=\"bad\">Too much: no plan meets all rules</h2>"));
  CHECK(has(page, "<section id=\"clash\">"));
  CHECK_FALSE(has(page, "<section id=\"decided\">"));
  CHECK(has(page, "many"));
}

TEST_CASE("long tables of a report end, and say so", "[report]") {
  Model m{"Long"};
  std::string rows = "item,cost\n";
  for (int k = 0; k < 6000; ++k) rows += "i" + std::to_string(k) + ",1\n";
  const auto items = Table::parse("items", rows, {.key = {"item"}});
  const auto take = m.binary("take", items);
  m.maximize("taken", total(take));
  m.rule("each", items, [&](Row i) { return take[i] <= 1; });
  const std::string page = html_report(ReportParts(solve(m)));
  CHECK(unbalanced(page).empty());
  CHECK(count(page, "and 1,000 more;") == 2);
}

TEST_CASE("the search is drawn where there was something to see", "[report]") {
  const Model m = test::model_of("model \"Slow\"\ndecide x integer 0 .. 9\nmaximize most: x\n");
  Result r = solve(m);
  r.search.seconds = 8.0;
  r.search.progress = {{0.5, 3.0, 20.0, 5.7, 0, 1, "rounding"},
                       {2.0, 5.0, 12.0, 1.4, 9, 3, "diving"},
                       {7.0, 9.0, 9.0, 0.0, 20, 0, "diving"}};
  const std::string page = html_report(ReportParts(r));
  CHECK(unbalanced(page).empty());
  CHECK(count(page, "<circle") == 3);
  CHECK(has(page, ">proven best 9<"));
  CHECK_FALSE(has(page, "can exist<"));
  Result open = r;
  open.outcome = Outcome::unproven;
  open.search.progress.pop_back();
  const std::string up = html_report(ReportParts(open));
  CHECK(has(up, ">best plan 5<"));
  CHECK(has(up, ">nothing above 12 can exist<"));
  open.goals[0].sense = Sense::minimize;
  open.search.progress = {{0.5, 30.0, 4.0, 5.7, 0, 1, "rounding"}, {2.0, 20.0, 8.0, 1.4, 9, 3, ""}};
  const std::string down = html_report(ReportParts(open));
  CHECK(has(down, ">best plan 20<"));
  CHECK(has(down, ">nothing below 8 can exist<"));
  r.search.progress.resize(1);
  CHECK_FALSE(has(html_report(ReportParts(r)), "<svg"));
}
