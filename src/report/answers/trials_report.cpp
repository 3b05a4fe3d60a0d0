// A comparison over cases as a chapter of a report, or a page of its own.

#include <algorithm>

#include <fmt/format.h>

#include "base/text.hpp"
#include "kiteknot/draw.hpp"
#include "kiteknot/report.hpp"
#include "report/answers/trials_words.hpp"
#include "report/forms/html_document.hpp"
#include "report/forms/page.hpp"

namespace kiteknot {
namespace report {

std::string trials_chapter(const Trials& trials, const PageOptions& options) {
  std::string text = trials_page(trials, options);
  if (std::ranges::none_of(trials.attempts, [](const Attempt& a) { return a.found; })) return text;
  // Before what the page says in detail.
  std::string figures =
      html_figure(trials_time_figure(trials)) + html_figure(trials_distance_figure(trials));
  if (trials.cases.size() > 1) figures += html_figure(trials_share_figure(trials));
  const std::size_t details = text.find("<h3>");
  text.insert(std::min(details, text.size()), figures);
  return text;
}

}  // namespace report

std::string trials_report(const Trials& trials, const std::string& made) {
  PageOptions options;
  options.form = PageForm::html;
  options.width = 1'000'000;
  report::HtmlDocument document;
  document.title = trials.cases.size() == 1
                       ? trials.cases[0].title + ": ways compared"
                       : "Ways compared on " + counted(trials.cases.size(), "case");
  document.body =
      "<section id=\"ways\">\n" + report::trials_chapter(trials, options) + "</section>\n";
  document.made = made;
  return report::html_document(document);
}

}  // namespace kiteknot
