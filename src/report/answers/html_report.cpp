#include <algorithm>

#include <fmt/format.h>

#include "base/text.hpp"
#include "formats/plans/plan_tables.hpp"
#include "kiteknot/draw.hpp"
#include "kiteknot/report.hpp"
#include "report/answers/html_figures.hpp"
#include "report/answers/rule_rows.hpp"
#include "report/answers/trials_words.hpp"
#include "report/forms/html_document.hpp"
#include "report/forms/page.hpp"

namespace kiteknot {
namespace {

using report::Cells;
using report::for_html;
using report::is_idle;

// Of a table on a page; more is for files.
constexpr std::size_t kMostTableRows = 5000;

class HtmlReport {
 public:
  explicit HtmlReport(const ReportParts& parts)
      : p_(parts), model_(parts.best.model()), m_(model_.data()) {
    options_.form = PageForm::html;
    options_.width = 1'000'000;
  }

  std::string run() {
    section("answer", "Answer",
            [&] { return answer_page(p_.best, options_) + report::search_figure(p_.best); });
    if (p_.explanation)
      section("clash", "Why", [&] { return explanation_page(model_, *p_.explanation, options_); });
    if (p_.best.plan) {
      section("decided", "Decisions", [&] { return decisions(); });
      if (m_.num_decisions > 1) section("picture", "Picture", [&] { return picture(); });
      section("rules", "Rules", [&] { return rules(); });
    }
    if (p_.ways)
      section("ways", "Ways compared", [&] {
        return with_figure(comparison_page(model_, *p_.ways, options_), ways_bars());
      });
    if (p_.trials)
      section("cases", "Ways on many cases",
              [&] { return report::trials_chapter(*p_.trials, options_); });
    if (p_.scenarios && !p_.scenarios->variants.empty())
      section("scenarios", "What if", [&] {
        return with_figure(variation_page(model_, *p_.scenarios, options_), scenario_bars());
      });
    if (p_.rules && !p_.rules->variants.empty())
      section("prices", "What rules cost",
              [&] { return variation_page(model_, *p_.rules, options_); });
    section("model", "The model", [&] { return show_page(model_, options_); });
    for (const std::string& part : p_.left_out) body_ += "<p>" + for_html(visible(part)) + "</p>\n";
    return whole();
  }

 private:
  void section(const std::string& id, const std::string& name,
               const std::function<std::string()>& made) {
    const std::string content = besides(name, made, options_);
    chapters_.emplace_back(id, name);
    body_ += fmt::format("<section id=\"{}\">\n{}</section>\n", id, content);
  }

  // After what the page says first. Data are text in it, so that no heading comes from them.
  static std::string with_figure(std::string page, const std::string& figure) {
    const std::size_t details = page.find("<h3>");
    page.insert(std::min(details, page.size()), figure);
    return page;
  }

  [[nodiscard]] std::string whole() const {
    return report::html_document({m_.title, p_.under.empty() ? "" : "With " + p_.under + ".", body_,
                                  chapters_, p_.sources, p_.made});
  }

  // The plan in the shape of its tables, as a part of this page.
  [[nodiscard]] std::string picture() const {
    return "<h2>The plan as a picture</h2>\n" +
           report::html_figure(plan_figure(model_, *p_.best.plan));
  }

  // Every family as a table with the data of what its keys name.
  [[nodiscard]] std::string decisions() const {
    report::Page page(options_);
    page.title("All that is decided");
    page.say("What is 0 is left out; single decisions are told whatever they are.");
    const formats::PlanTable singles = formats::single_table(m_, *p_.best.plan);
    if (singles.size() > 1) put(page, "Single decisions", singles);
    for (const auto& f : m_.families)
      if (!f->index.tables.empty())
        put(page, f->name, formats::family_table(*f, *p_.best.plan, true));
    return page.take();
  }

  void put(report::Page& page, const std::string& name, formats::PlanTable table) const {
    page.heading(name);
    if (table.size() <= 1) {
      page.say("All are 0.");
      return;
    }
    const std::size_t all = table.size() - 1;
    if (all > kMostTableRows) table.resize(kMostTableRows + 1);
    std::vector<std::size_t> right;
    for (std::size_t c = 0; c < table[0].size(); ++c) {
      const bool figures = std::all_of(table.begin() + 1, table.end(), [&](const Cells& row) {
        return row[c].empty() || Rational::parse(row[c]);
      });
      if (figures) right.push_back(c);
    }
    page.headed_table(table, right);
    if (all > kMostTableRows)
      page.say(fmt::format("and {} more; 'solve --plan' writes all of them.",
                           figure(Rational(static_cast<long long>(all - kMostTableRows)))));
  }

  // Every row of every rule; those with an upper limit with how much of it is used.
  [[nodiscard]] std::string rules() const {
    if (!p_.best.report) return "";
    const std::vector<RuleValue>& rules = p_.best.report->rules;
    const bool any_keys = std::any_of(rules.begin(), rules.end(), [&](const RuleValue& v) {
      return !m_.rule_with(v.family, v.member).index.tables.empty();
    });
    std::string out =
        "<h2>All rules</h2>\n<div class=\"wide\"><table class=\"sorts\">\n<thead><tr>";
    out += any_keys ? "<th>rule</th><th>for</th>" : "<th>rule</th>";
    for (const char* head : {"value", "least", "most", "room"})
      out += fmt::format("<th class=\"number\">{}</th>", head);
    out += "<th>state</th><th>used</th></tr></thead>\n";
    for (std::size_t k = 0; k < rules.size() && k < kMostTableRows; ++k) {
      const RuleValue& v = rules[k];
      const auto limit = [](const Rational& x) {
        return x.is_finite() ? figure(x) : std::string();
      };
      const RuleFamily& f = m_.rule_with(v.family, v.member);
      out += "<tr><td>" + for_html(visible(f.name)) + "</td>";
      if (any_keys)
        out += "<td>" +
               for_html(visible(fmt::format("{}", fmt::join(f.index.keys(v.member), ", ")))) +
               "</td>";
      const bool plain = !v.logical && !v.two_sided;
      for (const std::string& cell :
           {plain         ? figure(v.value)
            : v.two_sided ? figure(v.left)
                          : "",
            plain                              ? limit(v.low)
            : v.two_sided && v.low.is_finite() ? figure(v.right)
                                               : "",
            plain                               ? limit(v.high)
            : v.two_sided && v.high.is_finite() ? figure(v.right)
                                                : "",
            v.logical || !v.slack.is_finite() ? std::string() : figure(v.slack)})
        out += "<td class=\"number\">" + cell + "</td>";
      out += fmt::format("<td>{}</td><td>{}</td></tr>\n",
                         !v.met       ? (v.soft ? "missed, and paid for" : "broken")
                         : v.logical  ? "holds"
                         : is_idle(v) ? "idle"
                         : v.binding  ? "at the limit"
                                      : "room left",
                         report::fill(v));
    }
    out += "</table></div>\n";
    if (rules.size() > kMostTableRows)
      out += fmt::format("<p>and {} more; 'solve --result' writes all of them.</p>\n",
                         figure(Rational(static_cast<long long>(rules.size() - kMostTableRows))));
    return out;
  }

  [[nodiscard]] std::string ways_bars() const {
    std::vector<report::Bar> all;
    for (const MethodAnswer& a : p_.ways->answers) {
      if (!a.report || !a.report->goal) continue;
      const bool relaxed = a.method == "relaxed" && a.plan;  // checked without wholeness
      const bool valid =
          relaxed ? check(model_, *a.plan).goal == a.report->goal && check(model_, *a.plan).feasible
                  : a.report->feasible;
      all.push_back({a.label, *a.report->goal, figure(*a.report->goal),
                     p_.ways->proven && valid && *a.report->goal == *p_.ways->best, valid});
    }
    return report::bars(all,
                        fmt::format("{} by every way; hatched: not a plan, as it breaks a rule "
                                    "or is not whole.",
                                    goal()));
  }

  [[nodiscard]] std::string scenario_bars() const {
    const Variation& v = *p_.scenarios;
    std::vector<report::Bar> all;
    const auto add = [&](const Variant& one, const std::string& name, bool best) {
      all.push_back({name, one.goal, one.goal ? figure(*one.goal) : std::string(word(one.outcome)),
                     best, true});
    };
    add(v.base, p_.under.empty() ? "as it stands" : "as asked", true);
    for (const Variant& one : v.variants) add(one, one.name, false);
    return report::bars(all, fmt::format("{} under every scenario.", goal()));
  }

  [[nodiscard]] std::string goal() const {
    return m_.goals.empty() ? "goal" : m_.first_goal().name;
  }

  const ReportParts& p_;
  const Model& model_;
  const ModelData& m_;
  PageOptions options_;
  std::string body_;
  std::vector<std::pair<std::string, std::string>> chapters_;  // id and name
};

}  // namespace

std::string html_report(const ReportParts& parts) {
  return HtmlReport(parts).run();
}

}  // namespace kiteknot
