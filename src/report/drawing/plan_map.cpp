// Decisions between places, or at them, on a map.

#include <algorithm>
#include <set>

#include <fmt/format.h>

#include "base/at.hpp"
#include "base/text.hpp"
#include "report/drawing/plan_pictures.hpp"
#include "report/forms/page.hpp"

namespace kiteknot::report {
namespace {

// The places of one or two tables on one map.
struct MapTables {
  std::vector<const TableData*> tables;
  std::vector<Places> places;
  [[nodiscard]] std::size_t of(const TableData* t) const {
    return static_cast<std::size_t>(std::find(tables.begin(), tables.end(), t) - tables.begin());
  }
  void add(const TableData& t) {
    if (std::find(tables.begin(), tables.end(), &t) != tables.end()) return;
    tables.push_back(&t);
    places.push_back(*places_of(t));
  }
};

class MapDrawer {
 public:
  MapDrawer(const PlanPicture& p) : p_(p), ends_(ends_of(p.family)) {
    if (ends_ && places_of(*ends_->from) && places_of(*ends_->to)) {
      tables_.add(*ends_->from);
      tables_.add(*ends_->to);
    } else {
      ends_.reset();
      tables_.add(p.family.index.tables[0].data());
    }
  }

  std::string draw() {
    std::vector<double> x, y;
    for (const Places& places : tables_.places) {
      x.insert(x.end(), places.x.begin(), places.x.end());
      y.insert(y.end(), places.y.begin(), places.y.end());
    }
    const MapFrame frame(
        x, y, tables_.places[0].stretch,
        {p_.area.left + 40.0, p_.area.top + 20.0, p_.area.width - 80.0, p_.area.height - 50.0});
    Labels labels(p_.area);
    lines(frame, labels);
    dots(frame, labels);
    return told();
  }

 private:
  [[nodiscard]] Spot spot(const MapFrame& frame, std::size_t table, Index row) const {
    return frame.spot(tables_.places[table].x[at(row)], tables_.places[table].y[at(row)]);
  }

  void lines(const MapFrame& frame, Labels& labels) {
    if (!ends_) return;
    Rational most = 0;
    for (Index i = 0; i < p_.family.index.count; ++i) most = std::max(most, p_.value(i).abs());
    const std::size_t from = tables_.of(ends_->from.get()), to = tables_.of(ends_->to.get());
    for (Index i = 0; i < p_.family.index.count; ++i) {
      const Rational& v = p_.value(i);
      if (v.is_zero()) continue;
      const auto& [r, c] = ends_->rows[at(i)];
      const Spot a = spot(frame, from, r), b = spot(frame, to, c);
      const double width = p_.family.binary ? 3.0 : 1.0 + 9.0 * (v.abs() / most).to_double();
      p_.drawing.line(a, b, p_.ground.first, width);
      labels.keep_clear_of(a, b);
      touched_.insert({from, r});
      touched_.insert({to, c});
    }
  }

  // A yes-or-no family over the same table says which places are taken; else those with a line.
  [[nodiscard]] const Family* chosen_over(const TableData* t) const {
    if (!ends_) return &p_.family;
    for (const auto& f : p_.m.families)
      if (f->binary && f->index.tables.size() == 1 && &f->index.tables[0].data() == t)
        return f.get();
    return nullptr;
  }

  void dots(const MapFrame& frame, Labels& labels) {
    constexpr Index kMostNamed = 120;
    for (std::size_t k = 0; k < tables_.tables.size(); ++k) {
      const TableData& t = *tables_.tables[k];
      const Family* chosen = chosen_over(&t);
      std::vector<char> on(at(t.num_rows()), 0);
      if (chosen == nullptr)
        for (Index r = 0; r < t.num_rows(); ++r) on[at(r)] = touched_.contains({k, r});
      else
        for (Index i = 0; i < chosen->index.count; ++i)
          on[at(chosen->index.rows(i)[0].index())] = !p_.plan[chosen->first + i].is_zero();
      const double r = k == 0 ? 6.0 : 5.0;
      for (Index row = 0; row < t.num_rows(); ++row) {
        const Spot at_spot = spot(frame, k, row);
        if (k == 0 && tables_.tables.size() > 1)
          p_.drawing.box({at_spot.x - r, at_spot.y - r, 2 * r, 2 * r},
                         on[at(row)] ? p_.ground.second : p_.ground.paper, p_.ground.ink);
        else
          p_.drawing.dot(at_spot, r, on[at(row)] ? p_.ground.second : p_.ground.paper,
                         p_.ground.ink);
        labels.keep_mark(at_spot, r);
        shown_ += on[at(row)];
      }
      all_ += t.num_rows();
    }
    for (std::size_t k = 0; k < tables_.tables.size(); ++k)
      for (Index row = 0;
           row < tables_.tables[k]->num_rows() && tables_.tables[k]->num_rows() <= kMostNamed;
           ++row) {
        const std::string name = row_name(*tables_.tables[k], row);
        if (!labels.place(p_.drawing, spot(frame, k, row), 6.0, name, 13.0, false))
          labels.place(p_.drawing, spot(frame, k, row), 6.0, name, 13.0, true);
      }
  }

  [[nodiscard]] std::string told() const {
    if (!ends_)
      return fmt::format("On a map, as its table has places: {} of {} are taken (full)", shown_,
                         all_);
    std::string text = p_.family.binary
                           ? "On a map, as it is between places: lines are what is taken"
                           : "On a map, as it is between places: the wider a line, the more";
    return text + (tables_.tables.size() > 1 ? "; squares are where it comes from"
                                             : "; full dots are taken or used");
  }

  const PlanPicture& p_;
  std::optional<Ends> ends_;
  MapTables tables_;
  std::set<std::pair<std::size_t, Index>> touched_;
  Index shown_ = 0, all_ = 0;
};

}  // namespace

std::string draw_plan_map(const PlanPicture& p) {
  return MapDrawer(p).draw();
}

}  // namespace kiteknot::report
