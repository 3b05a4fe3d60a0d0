#include "report/forms/html_document.hpp"

#include <fmt/format.h>

#include "base/text.hpp"
#include "report/forms/page_writer.hpp"
#include "report/forms/report_style.hpp"

namespace kiteknot::report {

std::string html_document(const HtmlDocument& d) {
  const std::string title = for_html(visible(d.title));
  std::string out = "<!doctype html>\n<html lang=\"en\">\n<head>\n<meta charset=\"utf-8\">\n";
  out += "<meta name=\"viewport\" content=\"width=device-width, initial-scale=1\">\n";
  out += "<title>" + title + "</title>\n<style>" + kReportStyle + "</style>\n</head>\n";
  out += "<body>\n<header>\n<h1>" + title + "</h1>\n";
  if (!d.lead.empty()) out += "<p class=\"lead\">" + for_html(visible(d.lead)) + "</p>\n";
  out += "<nav>\n";
  for (const auto& [id, name] : d.chapters)
    out += fmt::format("<a href=\"#{}\">{}</a>\n", id, for_html(name));
  out += "</nav>\n</header>\n<main>\n" + d.body + "</main>\n<footer>\n";
  if (!d.sources.empty())
    out += "<p>Read from " + for_html(visible(listed(d.sources, 12))) + ".</p>\n";
  if (!d.made.empty()) out += "<p>" + for_html(visible(d.made)) + ".</p>\n";
  return out + "</footer>\n<script>" + kReportScript + "</script>\n</body>\n</html>\n";
}

std::string html_figure(std::string svg) {
  const std::string name_space = " xmlns=\"http://www.w3.org/2000/svg\"";  // known to HTML
  if (const std::size_t at = svg.find(name_space); at != std::string::npos)
    svg.erase(at, name_space.size());
  return "<figure class=\"sheet\">" + svg + "</figure>\n";
}

}  // namespace kiteknot::report
