#include <algorithm>

#include <fmt/format.h>

#include "base/text.hpp"
#include "model/model_data.hpp"
#include "report/forms/report_style.hpp"
#include "report/workbench/tableau_words.hpp"

namespace kiteknot {
namespace {

std::string first_part(const Workbench& bench, const PageOptions& options) {
  const Tableau& t = bench.first().tableau();
  report::Page page(options);
  page.title(bench.tableau().model().title() + ", worked by hand");
  std::vector<std::string> asked;
  for (std::int32_t j = 0; j < t.num_own(); ++j)
    if (!t.column(j).step.is_zero()) asked.push_back(t.column(j).name);
  const ModelData& m = t.model().data();
  const std::string whole = asked.empty() ? ""
                            : static_cast<std::int32_t>(asked.size()) == t.num_own()
                                ? ", all decisions whole"
                                : ", whole " + listed(asked);
  page.say(m.goals.empty() ? "Any plan will do" + whole + "."
                           : fmt::format("{} {}{}.",
                                         t.maximize() ? "As much as there can be of"
                                                      : "As little as there can be of",
                                         t.goal_name(), whole));
  if (const std::string only = report::first_goal_only(t.goal_name(), m.later_goals());
      !only.empty())
    page.say(only);
  page.say("The first tableau:");
  report::tell_tableau(page, t, options);
  page.say(report::what_next(t));
  return page.take();
}

std::string deed_part(const Workbench& bench, const Deed& deed, const PageOptions& options) {
  if (std::holds_alternative<deeds::Note>(deed.what)) return deed_page(bench, deed, options);
  report::Page page(options);
  page.heading(deed.number > 0 ? fmt::format("{}. {}", deed.number, deed.words) : deed.words);
  return page.take() + deed_page(bench, deed, options);
}

constexpr const char* kTexHead =
    "\\documentclass[11pt]{article}\n\\usepackage[T1]{fontenc}\n\\usepackage[utf8]{inputenc}\n"
    "\\usepackage{graphicx}\n"
    "\\setlength{\\parindent}{0pt}\n\\setlength{\\parskip}{5pt}\n\\renewcommand{\\arraystretch}{1."
    "25}\n"
    "\\begin{document}\n";

}  // namespace

std::string story_document(const Workbench& bench, const PageOptions& asked) {
  constexpr int kTexWidth = 120;  // wider tables are made smaller
  PageOptions options = asked;
  if (options.form == PageForm::tex) options.width = std::min(options.width, kTexWidth);
  std::string text = first_part(bench, options);
  if (options.form == PageForm::html) text = "<section>\n" + text + "</section>\n";
  for (const Deed& deed : bench.record()) {
    const std::string part = deed_part(bench, deed, options);
    text += options.form == PageForm::html ? "<section>\n" + part + "</section>\n" : "\n" + part;
  }
  if (options.form == PageForm::tex) return kTexHead + text + "\n\\end{document}\n";
  if (options.form != PageForm::html) return text;
  const std::string title = report::for_html(visible(bench.tableau().model().title()));
  return "<!doctype html>\n<html lang=\"en\">\n<head>\n<meta charset=\"utf-8\">\n"
         "<meta name=\"viewport\" content=\"width=device-width, initial-scale=1\">\n<title>" +
         title + ", worked by hand</title>\n<style>" + report::kReportStyle +
         "</style>\n</head>\n<body>\n<main>\n" + text + "</main>\n</body>\n</html>\n";
}

}  // namespace kiteknot
