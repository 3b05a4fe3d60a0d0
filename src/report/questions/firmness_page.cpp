#include <algorithm>
#include <cmath>

#include <fmt/format.h>

#include "base/text.hpp"
#include "data/tables/csv.hpp"
#include "kiteknot/documents.hpp"
#include "kiteknot/pages.hpp"
#include "model/model_data.hpp"
#include "report/forms/page.hpp"
#include "report/questions/data_cells.hpp"

namespace kiteknot {
namespace {

using report::Tone;

std::string name_of(const ModelData& m, const FirmFigure& f) {
  switch (f.kind) {
    case FirmFigure::Kind::coefficient:
      return fmt::format("{} of {}", m.first_goal().name, m.decision_name(f.decision));
    case FirmFigure::Kind::most:
      return fmt::format("the most in {}", m.rule_name(f.row.family, f.row.member));
    case FirmFigure::Kind::least:
      return fmt::format("the least in {}", m.rule_name(f.row.family, f.row.member));
    case FirmFigure::Kind::multiplier:
      return fmt::format("times {} in {}", m.decision_name(f.decision),
                         m.rule_name(f.row.family, f.row.member));
    case FirmFigure::Kind::curve:
      return f.curve;
  }
  return {};
}

// The cell that people can check, where the figure is one as it stands.
std::string cell_of(const ModelData& m, const FirmFigure& f) {
  if (f.kind == FirmFigure::Kind::curve) return {};
  if (f.kind == FirmFigure::Kind::coefficient) {
    const Family& family = m.family_of(f.decision);
    return report::cell_behind(m, m.first_goal().name, family.index, f.decision - family.first,
                               f.now);
  }
  const RuleFamily& rule = m.rule_with(f.row.family, f.row.member);
  return report::cell_behind(m, "rule " + rule.name, rule.index, f.row.member, f.now);
}

class FirmnessPage {
 public:
  FirmnessPage(const Firmness& f, const PageOptions& options)
      : f_(f), m_(f.best.model().data()), page_(options) {}

  std::string run() {
    const bool proven = f_.best.outcome == Outcome::optimal && !f_.best.goals.empty() &&
                        f_.best.goals[0].value.has_value();
    page_.title(fmt::format("{}: how firm is the plan?", m_.title),
                proven ? Tone::good : Tone::bad);
    if (!proven) {
      page_.say(m_.goals.empty() ? "There is no goal, so no plan is best."
                                 : fmt::format("The model is {}; only a plan that is proven best "
                                               "can be asked how firm it is.",
                                               word(f_.best.outcome)));
      return page_.take();
    }
    page_.say(
        fmt::format("The best plan is proven: {} is {}. One figure at a time is moved here; "
                    "as far as is told, this plan stays the best.",
                    m_.first_goal().name, figure(*f_.best.goals[0].value)));
    if (const std::string only = report::first_goal_only(m_.first_goal().name, f_.later_goals);
        !only.empty())
      page_.say(only);
    const auto ends = static_cast<std::size_t>(
        std::count_if(f_.figures.begin(), f_.figures.end(), [](const FirmFigure& f) {
          return std::isfinite(f.tightness()) && f.low_reached && f.high_reached;
        }));
    const std::size_t first = std::min<std::size_t>(3, ends);
    constexpr std::size_t kMostShown = 60;
    if (first > 0) {
      page_.heading(first == 3 ? "Check these three before you sign" : "Check before you sign");
      table(0, first);
    }
    if (ends > first) {
      page_.heading("The others, tightest first");
      table(first, std::min(ends, kMostShown));
      if (ends > kMostShown)
        page_.say(fmt::format("... and {}", counted(ends - kMostShown, "more figure")), 2);
    }
    page_.gap();
    const auto free = static_cast<std::size_t>(
        std::count_if(f_.figures.begin(), f_.figures.end(), [](const FirmFigure& f) {
          return !std::isfinite(f.tightness()) && f.low_reached && f.high_reached;
        }));
    if (free > 0)
      page_.say(
          fmt::format("{} can be moved as far as one likes.", counted(free, "further figure")));
    if (!f_.exact.empty()) {
      std::vector<std::string> names;
      for (const RuleRow& row : f_.exact) names.push_back(m_.rule_name(row.family, row.member));
      page_.say(fmt::format("Equations, which any other figure breaks: {}.", listed(names, 6)));
    }
    const bool plain = m_.first_goal().expression.is_linear() &&
                       std::all_of(m_.rules.begin(), m_.rules.end(), [](const auto& r) {
                         return std::all_of(r->conditions.begin(), r->conditions.end(), is_linear);
                       });
    if (!plain)
      page_.say(
          "Widths of curves, curves in rules, and figures in products and in conditions other than "
          "\"this implies a limit\" were not moved.");
    left_over();
    return page_.take();
  }

 private:
  [[nodiscard]] std::size_t solves() const { return static_cast<std::size_t>(f_.solves); }

  // What is not settled is no advice.
  void left_over() {
    std::string text = counted(solves(), "solve");
    if (f_.not_reached + f_.not_looked_at == 0) return page_.say(text + ", all ends proven.");
    if (f_.not_reached > 0) {
      constexpr std::size_t kMostNames = 4;
      std::vector<std::string> names;
      for (const FirmFigure& f : f_.figures)
        if (!f.low_reached || !f.high_reached) names.push_back(name_of(m_, f));
      text += fmt::format("; of {} an end was not settled within the budget: {}",
                          counted(f_.not_reached, "figure"), listed(names, kMostNames));
    }
    if (f_.not_looked_at > 0)
      text += fmt::format("; {} of {} not looked at, those that are likely to be firm",
                          counted(f_.not_looked_at, "figure"),
                          m_.first_goal().name + (f_.not_looked_at == 1 ? " was" : " were"));
    page_.say(text + ". '--solves' and '--seconds' give more.");
  }

  void table(std::size_t from, std::size_t to) {
    std::vector<std::vector<std::string>> rows = {{"figure", "now", "stays best", "which is"}};
    for (std::size_t k = from; k < to; ++k) {
      const FirmFigure& f = f_.figures[k];
      std::string what = cell_of(m_, f), role = name_of(m_, f);
      if (what.empty() && f.kind == FirmFigure::Kind::multiplier) {
        what = m_.rule_name(f.row.family, f.row.member);
        role = "times " + m_.decision_name(f.decision);
      }
      if (what.empty()) std::swap(what, role);
      rows.push_back({what, figure(f.now), stretch(f), role});
    }
    if (std::all_of(rows.begin() + 1, rows.end(), [](const auto& row) { return row[3].empty(); }))
      for (auto& row : rows) row.pop_back();
    page_.headed_table(rows, {1});
  }

  static std::string stretch(const FirmFigure& f) {
    std::string text;
    if (f.low) text = (f.low_excluded ? "above " : "from ") + figure(*f.low);
    if (f.high)
      text += (text.empty() ? "" : " ") + std::string(f.high_excluded ? "to below " : "up to ") +
              figure(*f.high);
    if (f.high && f.low && !f.high_excluded)
      text = fmt::format("{} {} to {}", f.low_excluded ? "above" : "from", figure(*f.low),
                         figure(*f.high));
    if (!f.low && f.high && f.high_excluded) text = "below " + figure(*f.high);
    if (!f.low_reached || !f.high_reached) text += " (not settled)";
    return text;
  }

  const Firmness& f_;
  const ModelData& m_;
  report::Page page_;
};

}  // namespace

std::string firmness_page(const Firmness& firmness, const PageOptions& options) {
  return FirmnessPage(firmness, options).run();
}

std::string firmness_csv(const Firmness& firmness) {
  static constexpr const char* kKinds[] = {"goal coefficient", "least", "most", "multiplier",
                                           "curve"};
  const auto end = [](const std::optional<Rational>& v) {
    return v ? fmt::format("{}", v->to_double()) : std::string();
  };
  std::string text = "figure,kind,now,low,high,settled,cell\n";
  for (const FirmFigure& f : firmness.figures)
    text += fmt::format("{},{},{},{},{},{},{}\n",
                        data::csv_cell(name_of(firmness.best.model().data(), f)),
                        kKinds[static_cast<int>(f.kind)], f.now.to_double(), end(f.low),
                        end(f.high), f.low_reached && f.high_reached ? "yes" : "no",
                        data::csv_cell(cell_of(firmness.best.model().data(), f)));
  return text;
}

}  // namespace kiteknot
