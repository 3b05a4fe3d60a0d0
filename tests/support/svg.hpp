#pragma once
// A drawing looked at by its text: whether it is well formed, where its words stand, and whether
// any stand on each other or outside the sheet.

#include <string>
#include <vector>

#include <catch2/catch.hpp>

#include "report/drawing/drawing.hpp"

namespace kiteknot::test {

struct SvgText {
  std::string words;
  report::Area box;
};

inline std::string unescaped(std::string text) {
  for (const auto& [sign, plain] : std::vector<std::pair<std::string, std::string>>{
           {"&lt;", "<"}, {"&gt;", ">"}, {"&quot;", "\""}, {"&#39;", "'"}, {"&amp;", "&"}})
    for (std::size_t at = text.find(sign); at != std::string::npos; at = text.find(sign, at + 1))
      text.replace(at, sign.size(), plain);
  return text;
}

/// Fails where tags do not close each other in order, an attribute is not quoted, or a figure is
/// none.
inline std::vector<SvgText> looked_at(const std::string& svg) {
  std::vector<SvgText> texts;
  std::vector<std::string> open;
  CHECK(svg.find("nan") == std::string::npos);
  CHECK(svg.find("inf\"") == std::string::npos);
  for (std::size_t at = svg.find('<'); at != std::string::npos; at = svg.find('<', at)) {
    const std::size_t end = svg.find('>', at);
    REQUIRE(end != std::string::npos);
    const std::string tag = svg.substr(at + 1, end - at - 1);
    CHECK(tag.find('<') == std::string::npos);
    at = end + 1;
    if (tag[0] == '/') {
      REQUIRE_FALSE(open.empty());
      CHECK(open.back() == tag.substr(1));
      open.pop_back();
      continue;
    }
    const auto attribute = [&](const std::string& name) -> std::string {
      const std::size_t from = tag.find(" " + name + "=\"");
      if (from == std::string::npos) return "";
      const std::size_t begin = from + name.size() + 3;
      return tag.substr(begin, tag.find('"', begin) - begin);
    };
    CHECK(std::count(tag.begin(), tag.end(), '"') % 2 == 0);
    if (tag.back() == '/') continue;
    const std::string name = tag.substr(0, tag.find(' '));
    open.push_back(name);
    if (name != "text") continue;
    SvgText text;
    text.words = unescaped(svg.substr(end + 1, svg.find("</text>", end) - end - 1));
    const double x = std::stod(attribute("x")), y = std::stod(attribute("y")),
                 size = std::stod(attribute("font-size"));
    const double width = report::width_of_words(text.words, size);
    const std::string anchor = attribute("text-anchor");
    const double left = anchor == "middle" ? x - width / 2.0 : anchor == "end" ? x - width : x;
    text.box = attribute("transform").empty()
                   ? report::Area{left, y - 0.75 * size, width, 0.9 * size}
                   : report::Area{x - 0.75 * size, y - width, 0.9 * size, width};
    texts.push_back(std::move(text));
  }
  CHECK(open.empty());
  return texts;
}

/// Every text on the sheet, and none on another.
inline void need_readable(const std::string& svg) {
  const std::vector<SvgText> texts = looked_at(svg);
  const report::Area sheet{0.0, 0.0, 1280.0, 800.0};
  for (std::size_t a = 0; a < texts.size(); ++a) {
    INFO(texts[a].words << " at " << texts[a].box.left << ", " << texts[a].box.top << ", "
                        << texts[a].box.width << " wide");
    CHECK(sheet.holds(texts[a].box));
    for (std::size_t b = 0; b < a; ++b) {
      INFO(texts[b].words << " at " << texts[b].box.left << ", " << texts[b].box.top);
      CHECK_FALSE(texts[a].box.meets(texts[b].box));
    }
  }
}

}  // namespace kiteknot::test
