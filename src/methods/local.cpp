#include "methods/local.hpp"

#include <algorithm>
#include <cmath>

#include <fmt/format.h>

#include "base/text.hpp"
#include "kiteknot/solve.hpp"
#include "mip/heuristics/local_search.hpp"
#include "mip/propagators/propagation.hpp"
#include "mip/relaxation/relaxation.hpp"
#include "model/lowering.hpp"
#include "model/model_data.hpp"

namespace kiteknot::methods {
namespace {

// A plan, or none from this start.
struct End {
  std::optional<Plan> plan;
  PlanReport report;
  bool at_rest = false;  // it is a local optimum
  std::int64_t met = 0;  // how often
};

// The model as it is and with whole decisions free, each lowered, and local search from the point
// of lines around the free one, or from elsewhere.
class LocalLook {
 public:
  LocalLook(const Model& model, const SolveOptions& options)
      : model_(model),
        interrupt_{&clock_, options.seconds, options.stop.flag()},
        free_(lower(model.data(), true, false, interrupt_).problem),
        domain_(free_),
        propagation_(domain_),
        search_(free_, model.num_decisions(), options.seed),
        fixed_(at(model.num_decisions()), 0) {
    work_.obey(interrupt_);
    possible_ = propagation_.run(domain_, work_);
    if (!possible_) return;
    mip::Relaxation relaxation(free_);
    relaxation.tighten(domain_);
    relaxation.follow(domain_);
    possible_ = relaxation.solve({.interrupt = interrupt_}).status == lp::Status::optimal;
    start_.assign(relaxation.point().begin(), relaxation.point().end());
  }

  [[nodiscard]] bool possible() const { return possible_; }
  [[nodiscard]] double seconds() const { return clock_.seconds(); }
  [[nodiscard]] bool over() const { return interrupt_.now(); }
  [[nodiscard]] End from_relaxed() { return from(start_); }
  [[nodiscard]] End from_anywhere() { return from(search_.anywhere(domain_, start_)); }

 private:
  // A decision that takes single values only.
  struct Choice {
    Index decision = -1;
    double nearest = 0.0, other = 0.0;  ///< to where it stands: on either side of it
    double away = kInf;
  };

  static Choice choice(const Family& f, Index d, double x) {
    Choice c{d, 0.0, 0.0, 0.0};
    if (f.listed.empty()) {
      c.nearest = std::round(x);
      c.other = x >= c.nearest ? c.nearest + 1.0 : c.nearest - 1.0;
    } else {
      c.nearest = c.other = f.listed.front().to_double();
      for (const Rational& v : f.listed) {
        const double value = v.to_double();
        if (std::abs(value - x) < std::abs(c.nearest - x)) {
          c.other = c.nearest;
          c.nearest = value;
        } else if (c.other == c.nearest || std::abs(value - x) < std::abs(c.other - x)) {
          c.other = value;
        }
      }
    }
    c.away = std::abs(x - c.nearest) / (1.0 + std::abs(x));
    return c;
  }

  [[nodiscard]] Choice next(const std::vector<double>& point) const {
    Choice best;
    for (const auto& f : model_.data().families)
      for (Index d = f->first; d < f->first + f->index.count; ++d) {
        if ((!f->integer && f->listed.empty()) || fixed_[at(d)]) continue;
        const Choice c = choice(*f, d, point[at(d)]);
        if (best.decision < 0 || c.away < best.away) best = c;
      }
    return best;
  }

  // To a local optimum with whole decisions free; then a dive: the one that is nearest to a value
  // of its own is held there, or beside it, and all look again.
  End from(std::vector<double> point) {
    const std::size_t mark = domain_.mark();
    std::fill(fixed_.begin(), fixed_.end(), char{0});
    std::optional<mip::LocalEnd> now = search_.relaxed(domain_, std::move(point), work_);
    for (Choice c = now ? next(now->point) : Choice(); now && c.decision >= 0;
         c = next(now->point)) {
      fixed_[at(c.decision)] = 1;
      std::optional<mip::LocalEnd> there;
      for (const double value : {c.nearest, c.other}) {
        const std::size_t before = domain_.mark();
        if (domain_.raise_lower(c.decision, value) && domain_.drop_upper(c.decision, value) &&
            propagation_.run(domain_, work_))
          there = search_.relaxed(domain_, now->point, work_);
        if (there) break;
        domain_.undo_to(before);
      }
      now = std::move(there);
      if (!now || over()) break;
    }
    End end;
    if (now && next(now->point).decision < 0) {
      end = as_stated({mip::LocalSearch::tidied(domain_, now->point), now->at_rest});
      if (!end.report.feasible) end = as_stated(*now);
    }
    domain_.undo_to(mark);
    return end;
  }

  // Of the model as it is, with whole decisions where they stand now.
  End as_stated(const mip::LocalEnd& found) {
    std::vector<Rational> values;
    for (const auto& f : model_.data().families)
      for (Index d = f->first; d < f->first + f->index.count; ++d) {
        const double x = found.point[at(d)];
        values.push_back(f->integer || !f->listed.empty() ? Rational(choice(*f, d, x).nearest)
                                                          : Rational(x));
      }
    End end{Plan(model_, std::move(values)), {}, found.at_rest, 1};
    end.report = check(model_, *end.plan);
    return end;
  }

  const Model& model_;
  Stopwatch clock_;
  Interrupt interrupt_;
  mip::Problem free_;  // whole decisions may be fractions
  mip::Domain domain_;
  mip::Propagation propagation_;
  mip::LocalSearch search_;
  WorkCounter work_;
  std::vector<double> start_;
  std::vector<char> fixed_;  // by decisions: the dive holds it
  bool possible_ = false;
};

// Without lowering it, which takes as long as the model is large.
bool only_sums(const ModelData& m) {
  const auto sums = [](const auto& rules) {
    return !rules->soft() && std::ranges::all_of(rules->conditions, is_linear);
  };
  return std::ranges::all_of(m.rules, sums) &&
         std::ranges::all_of(m.goals, [](const Goal& g) { return g.expression.is_linear(); });
}

class LocalMethod final : public Method {
 public:
  explicit LocalMethod(bool many) : many_(many) {}
  std::string name() const override { return many_ ? "local from many starts" : "local"; }
  std::string about() const override {
    return many_ ? "local search from points drawn in the box, the best of what it ends at"
                 : "local search from the relaxed point, whole decisions rounded on the way";
  }
  bool takes(const Model& model) const override {
    return !only_sums(model.data()) && !lower(model.data()).problem.exact();
  }

  std::vector<MethodAnswer> run(const Model& model, const SolveOptions& options,
                                Observer*) const override {
    need_sensible(options);
    MethodAnswer a;
    a.method = a.label = name();
    if (options.generator)
      throw UsageError(fmt::format("'{}' cannot follow rules that are generated", name()));
    if (!takes(model)) {
      a.note = "nothing is nonlinear in this model";
      return {std::move(a)};
    }
    LocalLook look(model, options);
    std::vector<End> ends;  // each once
    std::int64_t starts = 0, none = 0, restless = 0;
    const std::int64_t most = many_ ? kStarts : 1;
    while (look.possible() && starts < most && (starts == 0 || !look.over())) {
      ++starts;
      End end = many_ ? look.from_anywhere() : look.from_relaxed();
      if (!end.plan || !end.report.feasible) {
        ++none;
        if (!a.plan && end.plan) {  // what it breaks is told
          a.plan = std::move(end.plan);
          a.report = std::move(end.report);
        }
        continue;
      }
      if (!end.at_rest) {  // a plan, but none that local search ends at
        ++restless;
        end.met = 0;
      }
      const auto same = std::ranges::find_if(ends, [&](const End& e) { return alike(e, end); });
      if (same == ends.end())
        ends.push_back(std::move(end));
      else
        same->met += end.met;
    }
    a.seconds = look.seconds();
    if (many_) a.note = told(model, ends, starts, none, restless);
    if (ends.empty()) return {std::move(a)};
    const End* best = &ends.front();
    for (const End& e : ends)
      if (better(model, e, *best)) best = &e;
    a.plan = best->plan;
    a.report = best->report;
    a.outcome = Outcome::unproven;
    return {std::move(a)};
  }

 private:
  static constexpr std::int64_t kStarts = 100;

  static bool better(const Model& model, const End& a, const End& b) {
    if (!a.report.goal || !b.report.goal) return false;
    return model.goal_sense() == Sense::maximize ? *a.report.goal > *b.report.goal
                                                 : *a.report.goal < *b.report.goal;
  }
  // The same but for what rounding leaves.
  static bool alike(const End& a, const End& b) {
    constexpr double kAlike = 1e-5;
    const auto near = [](double x, double y) {
      return std::abs(x - y) <= kAlike * std::max({1.0, std::abs(x), std::abs(y)});
    };
    if (a.report.goal && !near(a.report.goal->to_double(), b.report.goal->to_double()))
      return false;
    for (std::size_t d = 0; d < a.plan->values().size(); ++d)
      if (!near(a.plan->values()[d].to_double(), b.plan->values()[d].to_double())) return false;
    return true;
  }

  // "of 100 starts 41 ended at 317.72, 12 at 340.1 and 47 at no plan"
  static std::string told(const Model& model, const std::vector<End>& all, std::int64_t starts,
                          std::int64_t none, std::int64_t restless) {
    constexpr std::size_t kMost = 5;
    std::vector<const End*> ends;
    for (const End& e : all)
      if (e.met > 0) ends.push_back(&e);
    std::ranges::stable_sort(ends,
                             [&](const End* a, const End* b) { return better(model, *a, *b); });
    std::vector<std::string> parts;
    std::int64_t others = 0;
    for (std::size_t k = 0; k < ends.size(); ++k) {
      if (k >= kMost) {
        others += ends[k]->met;
        continue;
      }
      const std::string value = ends[k]->report.goal
                                    ? fmt::format("{:.6g}", ends[k]->report.goal->to_double())
                                    : std::string("a plan");
      parts.push_back(fmt::format("{}{} at {}", ends[k]->met, k == 0 ? " ended" : "", value));
    }
    if (others > 0) parts.push_back(fmt::format("{} at {} others", others, ends.size() - kMost));
    if (restless > 0)
      parts.push_back(
          fmt::format("{}{} before any was reached", restless, parts.empty() ? " ended" : ""));
    if (none > 0)
      parts.push_back(fmt::format("{}{} at no plan", none, parts.empty() ? " ended" : ""));
    return fmt::format("of {} {}", counted(static_cast<std::size_t>(starts), "start"),
                       listed(parts));
  }

  bool many_;
};

}  // namespace

std::unique_ptr<Method> make_local() {
  return std::make_unique<LocalMethod>(false);
}
std::unique_ptr<Method> make_local_from_many() {
  return std::make_unique<LocalMethod>(true);
}

}  // namespace kiteknot::methods
