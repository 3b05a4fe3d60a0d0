#pragma once
// A whole HTML page in the report's style, which needs no network and no other file.

#include <string>
#include <vector>

namespace kiteknot::report {

struct HtmlDocument {
  std::string title;                                            ///< text; it is made safe here
  std::string lead;                                             ///< the same; empty: none
  std::string body;                                             ///< HTML
  std::vector<std::pair<std::string, std::string>> chapters{};  ///< id and name, for the top
  std::vector<std::string> sources{};
  std::string made{};
};
std::string html_document(const HtmlDocument& document);

/// An SVG figure as a part of such a page.
std::string html_figure(std::string svg);

}  // namespace kiteknot::report
