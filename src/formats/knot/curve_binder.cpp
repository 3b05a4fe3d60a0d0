#include "formats/knot/curve_binder.hpp"

#include "formats/knot/evaluator.hpp"
#include "formats/knot/messages.hpp"
#include "model/number_node.hpp"

namespace kiteknot::formats::knot {
namespace {

class CurveMaker {
 public:
  CurveMaker(const Statement& st, NameSource& names, Diagnostics& notes, const ModelData& model)
      : st_(st),
        c_(st.as<CurveText>()),
        names_(names),
        model_(model),
        resolver_(names, notes),
        evaluator_(model.tag) {
    evaluator_.set_rows({});
  }

  Curve run() {
    switch (c_.shape) {
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
  // Of figures and numbers.
  Expression figure(const NodePtr& node) {
    return evaluator_.expression(*resolver_.data_expression(*node, "a curve"));
  }

  // Whether two of them are the same whatever the numbers are: as they are stated, and as they
  // would be after changes that have nothing to do with each other.
  bool same(const Expression& a, const Expression& b) const {
    std::vector<Rational> numbers = model_.number_values();
    const bool as_stated = evaluate(a, numbers) == evaluate(b, numbers);
    constexpr long long kStep = 7919;  // a prime
    for (std::size_t k = 0; k < numbers.size(); ++k)
      numbers[k] += Rational(static_cast<long long>(k + 1) * kStep) / Rational(3);
    return as_stated && evaluate(a, numbers) == evaluate(b, numbers);
  }

  Curve tiers() {
    std::vector<Curve::Tier> tiers;
    for (std::size_t k = 0; k < c_.rates.size(); ++k) {
      tiers.push_back({figure(c_.rates[k]), {}});
      if (k < c_.widths.size()) tiers.back().width = figure(c_.widths[k]);
    }
    return Curve::tiers(std::move(tiers), c_.once ? figure(c_.once) : Expression(0));
  }

  Curve all_units() {
    std::vector<Curve::Step> steps = {{figure(c_.rates[0]), 0}};
    for (std::size_t k = 1; k < c_.rates.size(); ++k)
      steps.push_back({figure(c_.rates[k]), figure(c_.widths[k - 1])});
    if (!same(figure(c_.once), steps[1].from))
      fail(c_.once->at, "the first rate ends where the second begins; these two figures differ");
    return Curve::all_units(std::move(steps));
  }

  Curve through() {
    std::vector<Curve::Point> points;
    for (std::size_t k = 0; k < c_.rates.size(); ++k)
      points.push_back({figure(c_.widths[k]), figure(c_.rates[k])});
    return Curve::through(std::move(points));
  }

  Curve from_table() {
    const Table table = names_.need_table(c_.of[0].table, c_.of[0].table_at);
    const auto column = [&](const std::string& name) {
      names_.need_column(table.data(), name);
      names_.note_use(table.data(), name);
      if (!table.data().computed.contains(name) && table.data().column(name) < 0)
        fail(st_.heading.at, messages::no_column(name, table.data()));
      return table.numbers(name);
    };
    const Numbers at = column(c_.at_column), value = column(c_.value_column);
    std::vector<Curve::Point> points;
    for (const Row row : table) points.push_back({at[row], value[row]});
    return Curve::through(std::move(points));
  }

  const Statement& st_;
  const CurveText& c_;
  NameSource& names_;
  const ModelData& model_;
  Resolver resolver_;
  Evaluator evaluator_;
};

}  // namespace

Curve make_curve(const Statement& st, NameSource& names, Diagnostics& notes,
                 const ModelData& model) {
  return CurveMaker(st, names, notes, model).run();
}

}  // namespace kiteknot::formats::knot
