#include "report/answers/html_figures.hpp"

#include <algorithm>
#include <cmath>

#include <fmt/format.h>

#include "base/text.hpp"
#include "report/drawing/search_lines.hpp"
#include "report/forms/page_writer.hpp"

namespace kiteknot::report {

std::string bars(const std::vector<Bar>& bars, const std::string& caption) {
  Rational most = 0;
  std::size_t some = 0;
  int sign = 0;
  for (const Bar& b : bars) {
    if (!b.value) continue;
    ++some;
    if (b.value->sign() * sign < 0) return {};
    if (sign == 0) sign = b.value->sign();
    most = std::max(most, b.value->abs());
  }
  if (some < 2 || most.is_zero()) return {};
  std::string text = "<figure><div class=\"bars\">\n";
  for (const Bar& b : bars) {
    const char* kind = !b.valid ? " class=\"off\"" : b.best ? " class=\"best\"" : "";
    text += fmt::format("<span>{}</span>", for_html(b.name));
    text += b.value ? fmt::format("<span><i{} style=\"width:{:.1f}%\"></i></span>", kind,
                                  100.0 * (b.value->abs() / most).to_double())
                    : "<span></span>";
    text += fmt::format("<b>{}</b>\n", for_html(b.told));
  }
  return text + "</div><figcaption>" + for_html(caption) + "</figcaption></figure>\n";
}

std::string fill(const RuleValue& v) {
  if (v.logical || v.two_sided || !v.high.is_finite() || v.low.is_finite()) return {};
  if (v.high.sign() <= 0 || v.value.sign() < 0) return {};
  const double share = std::min(1.0, (v.value / v.high).to_double());
  return fmt::format("<span class=\"fill\"><i{} style=\"width:{:.0f}%\"></i></span>",
                     v.binding || !v.met ? " class=\"full\"" : "", 100.0 * share);
}

namespace {

std::string label(double x, double y, const char* side, const std::string& text) {
  return fmt::format("<text x=\"{:.0f}\" y=\"{:.0f}\" text-anchor=\"{}\">{}</text>\n", x, y, side,
                     for_html(text));
}

// In the corners. The bound lies above the plans of a goal that is to be large, below those of one
// to be small.
struct Corners {
  std::string top_left, top_right, bottom_right;
};
Corners words_of(const Result& r, const SearchLines& lines) {
  const bool maximize = !r.goals.empty() && r.goals[0].sense == Sense::maximize;
  const bool met = r.outcome == Outcome::optimal;
  const std::string best = figure(lines.plans.back().value);
  const std::string plans = met ? "best plan so far" : "best plan " + best;
  const std::string bounds =
      met ? "what was still possible"
          : fmt::format("nothing {} {} can exist", maximize ? "above" : "below",
                        figure(lines.bounds.back().value));
  return {met ? "proven best " + best : "", maximize ? bounds : plans, maximize ? plans : bounds};
}

}  // namespace

std::string search_figure(const Result& r) {
  constexpr double kLeast = 0.02;  // seconds worth a picture
  const double end = r.search.seconds;
  const SearchLines lines = search_lines(r.search.progress, r.search.seconds);
  if (!lines.some() || end < kLeast) return {};
  constexpr double kWidth = 760, kHeight = 340, kLeft = 20, kTop = 40, kBottom = 300, kRight = 740;
  constexpr double kDecades = 30.0;  // from here on each step of the axis is ten times the last
  const double first = lines.first;
  const bool log = end / first > kDecades;
  const Scale x = [&](double t) {
    const double at = log ? std::log(std::max(t, first) / first) / std::log(end / first) : t / end;
    return kLeft + at * (kRight - kLeft);
  };
  const Scale y = [&](double v) {
    return kBottom - (v - lines.low) / (lines.high - lines.low) * (kBottom - kTop);
  };
  std::string text = fmt::format(
      "<figure><svg class=\"time\" viewBox=\"0 0 {0:g} {1:g}\" width=\"{0:g}\" role=\"img\">\n"
      "<title>The best plan and the bound over time</title>\n",
      kWidth, kHeight);
  text += "<path class=\"open\" d=\"" + open_path(lines, x, y) + "\"/>\n";
  text += fmt::format("<path class=\"frame\" d=\"M{0:g} {1:g}V{2:g}H{3:g}\"/>\n", kLeft, kTop,
                      kBottom, kRight);
  text += "<path class=\"bound\" d=\"" + step_path(lines.bounds, end, x, y) + "\"/>\n";
  text += "<path class=\"plan\" d=\"" + step_path(lines.plans, end, x, y) + "\"/>\n";
  for (const LinePoint& p : lines.plans)
    text += fmt::format("<circle class=\"mark\" cx=\"{:.1f}\" cy=\"{:.1f}\" r=\"4\"/>\n", x(p.time),
                        y(p.value));
  const Corners words = words_of(r, lines);
  text += label(kRight, 22, "end", words.top_right);
  text += label(kRight, kBottom - 10, "end", words.bottom_right);
  if (!words.top_left.empty()) text += label(kLeft + 8, 22, "start", words.top_left);
  text += label(kLeft, kHeight - 12, "start", log ? duration(first) : "0 s");
  text += label(kRight, kHeight - 12, "end",
                duration(end) + (log ? ", each step ten times the last" : ""));
  return text +
         "</svg><figcaption>Best plan (with dots) and what is still possible; what is open between "
         "them is shaded.</figcaption></figure>\n";
}

}  // namespace kiteknot::report
