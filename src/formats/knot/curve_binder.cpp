#include "formats/knot/curve_binder.hpp"

#include "formats/knot/evaluator.hpp"
#include "formats/knot/messages.hpp"

namespace kiteknot::formats::knot {
namespace {

class CurveMaker {
 public:
  CurveMaker(const Statement& st, NameSource& names, Diagnostics& notes, Tag model)
      : st_(st), names_(names), resolver_(names, notes), evaluator_(std::move(model)) {
    evaluator_.set_rows({});
  }

  Curve run() {
    switch (st_.shape) {
      case CurveShape::tiers:
        return tiers();
      case CurveShape::all_units:
        return all_units();
      case CurveShape::through:
        return through();
      case CurveShape::table:
        break;
    }
    return from_table();
  }

 private:
  Rational figure(const NodePtr& node) {
    const MeaningPtr m = resolver_.data_expression(*node, "a curve");
    if (m->has_numbers)
      fail(node->at, "a curve is made of figures; a number may be set again later");
    return evaluator_.figure(*m);
  }

  Curve tiers() {
    std::vector<Curve::Tier> tiers;
    for (std::size_t k = 0; k < st_.rates.size(); ++k) {
      tiers.push_back({figure(st_.rates[k]), {}});
      if (k < st_.widths.size()) tiers.back().width = figure(st_.widths[k]);
    }
    return Curve::tiers(std::move(tiers), st_.once ? figure(st_.once) : Rational(0));
  }

  Curve all_units() {
    std::vector<Curve::Step> steps = {{figure(st_.rates[0]), 0}};
    for (std::size_t k = 1; k < st_.rates.size(); ++k)
      steps.push_back({figure(st_.rates[k]), figure(st_.widths[k - 1])});
    if (figure(st_.once) != steps[1].from)
      fail(st_.once->at, "the first rate ends where the second begins; these two figures differ");
    return Curve::all_units(std::move(steps));
  }

  Curve through() {
    std::vector<Curve::Point> points;
    for (std::size_t k = 0; k < st_.rates.size(); ++k)
      points.push_back({figure(st_.widths[k]), figure(st_.rates[k])});
    return Curve::through(std::move(points));
  }

  Curve from_table() {
    const Table table = names_.need_table(st_.of[0].table, st_.of[0].table_at);
    const auto column = [&](const std::string& name) {
      names_.need_column(table.data(), name);
      names_.note_use(table.data(), name);
      if (!table.data().computed.contains(name) && table.data().column(name) < 0)
        fail(st_.heading.at, messages::no_column(name, table.data()));
      return table.numbers(name);
    };
    const Numbers at = column(st_.at_column), value = column(st_.value_column);
    std::vector<Curve::Point> points;
    for (const Row row : table) points.push_back({at[row], value[row]});
    return Curve::through(std::move(points));
  }

  const Statement& st_;
  NameSource& names_;
  Resolver resolver_;
  Evaluator evaluator_;
};

}  // namespace

Curve make_curve(const Statement& st, NameSource& names, Diagnostics& notes, Tag model) {
  return CurveMaker(st, names, notes, std::move(model)).run();
}

}  // namespace kiteknot::formats::knot
