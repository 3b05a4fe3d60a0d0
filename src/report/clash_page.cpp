#include <algorithm>

#include <fmt/format.h>

#include "base/text.hpp"
#include "kiteknot/explain.hpp"
#include "report/algebra.hpp"
#include "report/page.hpp"

namespace kiteknot {

std::string clash_page(const Model& model, const Clash& clash, const PageOptions& options) {
  const ModelData& m = model.data();
  report::Page page(options);
  const auto solves = counted(static_cast<std::size_t>(clash.solves), "solve");
  switch (clash.kind) {
    case Clash::Kind::none:
      page.title(fmt::format("{}: a plan meets all rules", m.title), report::Tone::good);
      page.say("Nothing clashes; 'solve' finds the best of such plans.");
      return page.take();
    case Clash::Kind::bounds:
      page.title(fmt::format("{}: no plan meets all rules", m.title), report::Tone::bad);
      page.say(
          "It is not the rules: the decisions' own bounds and listed values leave nothing that is "
          "whole.");
      return page.take();
    case Clash::Kind::undecided:
      page.title(fmt::format("{}: not settled", m.title), report::Tone::bad);
      page.say(
          fmt::format("Whether some rules clash was not proven within the limits, in {}.", solves));
      return page.take();
    case Clash::Kind::found:
      break;
  }
  page.title(fmt::format("{}: no plan meets all rules", m.title), report::Tone::bad);
  const bool irreducible = std::all_of(clash.shown_needed.begin(), clash.shown_needed.end(),
                                       [](char needed) { return needed != 0; });
  page.say(clash.rows.size() == 1 ? "This one cannot hold by itself, within the decisions' bounds:"
           : irreducible
               ? "These cannot hold together, though any smaller part of them can:"
               : "These cannot hold together; of some it was not shown that they are needed:");
  page.gap();
  report::Algebra algebra(m);
  std::vector<std::vector<std::string>> rows;
  for (std::size_t k = 0; k < clash.rows.size(); ++k) {
    const RuleRow& row = clash.rows[k];
    std::string text = algebra.text(m.rules[static_cast<std::size_t>(row.family)]
                                        ->conditions[static_cast<std::size_t>(row.member)]);
    if (!clash.shown_needed[k]) text += " (not shown needed)";
    rows.push_back({m.rule_name(row.family, row.member), text});
  }
  page.table(rows);
  page.gap();
  if (irreducible)
    page.say(
        fmt::format("Proven in {}: together they leave no plan, and without any one of them there "
                    "is one.",
                    solves));
  return page.take();
}

}  // namespace kiteknot
