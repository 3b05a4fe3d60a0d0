// Tries ways on cases, each with the same clock and a core: the ways of a case one after the other,
// cases side by side.

#include "kiteknot/trials.hpp"

#include <algorithm>
#include <atomic>
#include <cmath>
#include <mutex>
#include <set>

#include <fmt/format.h>

#include "base/lanes.hpp"
#include "base/pack.hpp"
#include "base/text.hpp"
#include "base/work.hpp"
#include "kiteknot/solve.hpp"
#include "methods/budget.hpp"
#include "model/model_data.hpp"
#include "study/handed_out.hpp"

namespace kiteknot {

template <class Archive>
void archive(Archive& a, Attempt& t) {
  a(t.of, t.state, t.way, t.run, t.seed, t.limit, t.outcome, t.found, t.value, t.bound, t.seconds,
    t.better, t.note, t.refused, t.plan);
}
template <class Archive>
void archive(Archive& a, TrialCaseAnswer& c) {
  a(c.name, c.title, c.goal, c.sense, c.decisions, c.rules, c.reading_seconds, c.best, c.bound,
    c.proven, c.infeasible, c.failed);
}

namespace {

constexpr const char* kExact = "exact";

// Whoever reaches the proven best may end; everything better is noted.
class Watcher final : public Observer {
 public:
  Watcher(std::optional<double> proven, std::function<bool()> stopped)
      : proven_(proven), stopped_(std::move(stopped)) {}
  bool enough(const Progress& p) override {
    if (stopped_()) return true;
    constexpr double kAlike = 1e-12;
    return proven_ && p.best &&
           std::abs(*p.best - *proven_) <= kAlike * std::max(1.0, std::abs(*proven_));
  }

 private:
  std::optional<double> proven_;
  std::function<bool()> stopped_;
};

// What comes of a case.
struct CaseRun {
  TrialCaseAnswer answer;
  std::vector<Attempt> attempts;  // those that are told
  std::vector<Attempt> fresh;     // those that were tried now, elsewhere than at rank 0
  std::string state;
  bool begun = false, stopped = false;
};

template <class Archive>
void archive(Archive& a, CaseRun& r) {
  a(r.answer, r.attempts, r.fresh, r.state, r.begun, r.stopped);
}

class TrialRun {
 public:
  TrialRun(const std::vector<TrialCase>& cases, const TrialOptions& options)
      : cases_(cases), o_(options) {
    look_at_options();
    trials_.seconds = o_.seconds;
    trials_.runs = o_.runs;
  }

  Trials run() {
    std::vector<CaseRun> runs(cases_.size());
    trials_.at_once = static_cast<int>(
        std::min(cases_.size(), static_cast<std::size_t>(methods::threads_of(o_.threads))));
    if (o_.ranks == nullptr)
      as_they_come(cases_.size(), static_cast<std::size_t>(trials_.at_once), [&](std::size_t k) {
        if (!o_.stop.pressed()) one(cases_[k], runs[k]);
      });
    else
      with_others(*o_.ranks, runs);
    for (CaseRun& run : runs) {
      trials_.stopped = trials_.stopped || run.stopped || !run.begun;
      if (!run.begun) continue;
      trials_.cases.push_back(std::move(run.answer));
      for (Attempt& a : run.attempts) {
        if (std::ranges::find(trials_.ways, a.way) == trials_.ways.end())
          trials_.ways.push_back(a.way);
        trials_.attempts.push_back(std::move(a));
      }
    }
    order_ways();
    return std::move(trials_);
  }

 private:
  // Rank 0 keeps what comes of all; what was tried elsewhere is told to `done` when it comes.
  void with_others(Transport& transport, std::vector<CaseRun>& runs) {
    trials_.processes = transport.ranks();
    const bool leads = transport.rank() == 0;
    HandedOut work;
    work.jobs = cases_.size();
    work.lanes = static_cast<std::size_t>(trials_.at_once);
    work.mark = asked_mark();
    work.stopped = [this] { return stopped(); };
    work.unwanted = [this] { unwanted_ = true; };
    work.act = [&, leads](std::size_t k) {
      CaseRun run;
      one(cases_[k], run);
      if (!leads) {
        Packer packer;
        packer(run);
        return packer.take();
      }
      runs[k] = std::move(run);
      return std::string();
    };
    work.take = [&](std::size_t k, const std::string& came) {
      if (came.empty()) return;
      Unpacker unpacker(came);
      unpacker(runs[k]);
      const std::scoped_lock lock(telling_);
      for (const Attempt& a : runs[k].fresh)
        if (o_.done) o_.done(a);
    };
    if (leads)
      hand_out(transport, work);
    else
      do_handed_out(transport, work);
    if (!leads) runs.assign(runs.size(), {});
  }

  // Of all that has to be the same in every process.
  [[nodiscard]] std::uint64_t asked_mark() const {
    Packer packer;
    for (const TrialCase& c : cases_) packer(c.name);
    packer(o_.ways, o_.seconds, o_.runs, o_.seed);
    for (const auto& m : o_.own) packer(m->name());
    Mark mark;
    mark.add(std::string_view(packer.take()));
    return mark.value();
  }

  [[nodiscard]] bool stopped() const { return o_.stop.pressed() || unwanted_; }

  void look_at_options() {
    if (cases_.empty()) throw UsageError("there is no case to try anything on");
    if (!(o_.seconds > 0.0)) throw UsageError("each way needs some time: seconds above 0");
    if (o_.runs < 1) throw UsageError("each way is run once at least");
    std::set<std::string> names;
    for (const TrialCase& c : cases_)
      if (!names.insert(c.name).second)
        throw UsageError(fmt::format("there are two cases of the name '{}'", c.name));
    std::set<std::string> known;
    for (const auto& m : all_methods()) known.insert(m->name());
    for (const auto& m : o_.own)
      if (!known.insert(m->name()).second)
        throw UsageError(fmt::format("there is a way of the name '{}' already", m->name()));
    std::set<std::string> asked;
    for (const std::string& name : o_.ways) {
      if (name == "relaxed")
        throw UsageError("'relaxed' gives no plans, which are what is compared over cases");
      if (!asked.insert(name).second)
        throw UsageError(fmt::format("the way '{}' is named twice", name));
      if (!own(name)) (void)method(name);
    }
  }

  [[nodiscard]] const Method* own(const std::string& name) const {
    for (const auto& m : o_.own)
      if (m->name() == name) return m.get();
    return nullptr;
  }

  // Those asked for, or else all that take the model: those first that all models have.
  [[nodiscard]] std::vector<const Method*> methods_for(const Model& model) const {
    std::vector<const Method*> all;
    if (!o_.ways.empty()) {
      for (const std::string& name : o_.ways)
        all.push_back(own(name) != nullptr ? own(name) : &method(name));
      return all;
    }
    for (const std::string& name : method_names(model, true))
      if (name != "relaxed") all.push_back(&method(name));
    for (const auto& m : o_.own) all.push_back(m.get());
    return all;
  }

  void one(const TrialCase& c, CaseRun& r) const {
    r.begun = true;
    TrialCaseAnswer& answer = r.answer;
    answer.name = c.name;
    const Stopwatch reading;
    std::optional<Model> model;
    try {
      model.emplace(c.model());
    } catch (const std::exception& e) {
      answer.failed = e.what();
      return;
    }
    answer.reading_seconds = reading.seconds();
    r.state = c.state ? c.state(*model) : std::string();
    const ModelData& m = model->data();
    answer.title = m.title;
    answer.decisions = m.num_decisions;
    answer.rules = m.num_rule_rows;
    if (!m.goals.empty()) {
      answer.goal = m.first_goal().name;
      answer.sense = m.first_goal().sense;
    }
    std::vector<const Method*> methods = methods_for(*model);
    const bool told =
        std::ranges::any_of(methods, [](const Method* x) { return x->name() == kExact; });
    std::erase_if(methods, [](const Method* x) { return x->name() == kExact; });
    attempt(*model, method(kExact), 1, r, told);
    for (const Method* x : methods)
      for (int run = 1; run <= (x->draws_lots() ? o_.runs : 1); ++run) {
        if (stopped()) {
          r.stopped = true;
          break;
        }
        attempt(*model, *x, run, r, true);
      }
  }

  void attempt(const Model& model, const Method& way, int run, CaseRun& r, bool told) const {
    Attempt a;
    a.of = r.answer.name;
    a.state = r.state;
    a.way = way.name();
    a.run = run;
    a.seed = o_.seed + static_cast<std::uint64_t>(run) - 1;
    a.limit = o_.seconds;
    const auto known = std::ranges::find_if(o_.known, [&](const Attempt& k) {
      return k.of == a.of && k.state == a.state && k.way == a.way && k.seed == a.seed &&
             k.limit == a.limit;
    });
    if (known != o_.known.end()) {
      a = *known;
      a.run = run;
    } else {
      if (o_.asked) {
        const std::scoped_lock lock(telling_);
        o_.asked(a.of, way.name(), run);
      }
      tried(model, way, r.answer, a);
      // What was stopped by hand is no attempt to keep.
      if (o_.ranks != nullptr && o_.ranks->rank() > 0) {
        if (!stopped()) r.fresh.push_back(a);
      } else if (o_.done && !o_.stop.pressed()) {
        const std::scoped_lock lock(telling_);
        o_.done(a);
      }
    }
    settle(a, r.answer);
    if (told) r.attempts.push_back(std::move(a));
  }

  void tried(const Model& model, const Method& way, const TrialCaseAnswer& answer,
             Attempt& a) const {
    SolveOptions options;
    options.seconds = o_.seconds;
    options.seed = a.seed;
    options.threads = 1;  // the same for all
    options.stop = o_.stop;
    Watcher watcher(
        answer.proven && answer.best ? std::optional(answer.best->to_double()) : std::nullopt,
        [this] { return stopped(); });
    const Stopwatch clock;
    try {
      const std::vector<MethodAnswer> answers = way.run(model, options, &watcher);
      a.seconds = clock.seconds();  // the judge's time is nobody's
      const MethodAnswer* best = nullptr;
      for (const MethodAnswer& m : answers) {
        if (m.bound && (!a.bound || tighter(*m.bound, *a.bound, answer.sense))) a.bound = m.bound;
        if (best == nullptr || beats(m, *best, answer.sense)) best = &m;
      }
      if (best != nullptr) judge(model, *best, a);
    } catch (const UsageError& e) {
      a.refused = true;
      a.note = e.what();
    } catch (const std::exception& e) {
      a.note = e.what();
    }
    if (a.seconds == 0.0) a.seconds = clock.seconds();
    if (a.found && a.better.empty())
      a.better.emplace_back(a.seconds, a.value ? a.value->to_double() : 0.0);
  }

  static bool tighter(double a, double b, Sense sense) {
    return sense == Sense::minimize ? a > b : a < b;
  }
  static bool beats(const MethodAnswer& a, const MethodAnswer& b, Sense sense) {
    const bool plan_a = a.report && a.report->feasible, plan_b = b.report && b.report->feasible;
    if (plan_a != plan_b) return plan_a;
    if (!plan_a || !a.report->goal || !b.report->goal) return false;
    return sense == Sense::minimize ? *a.report->goal < *b.report->goal
                                    : *a.report->goal > *b.report->goal;
  }

  // As stated, whoever found it and whatever he says of it.
  static void judge(const Model& model, const MethodAnswer& m, Attempt& a) {
    a.outcome = m.outcome;
    a.note = m.note;
    if (!m.plan) return;
    const PlanReport report = check(model, *m.plan);
    a.found = report.feasible;
    if (!a.found) {
      const auto broken = static_cast<std::size_t>(report.num_missed());
      if (a.note.empty())
        a.note = broken > 0 ? fmt::format("its plan breaks {}", counted(broken, "rule"))
                            : "its plan is outside the limits of some decision";
      return;
    }
    a.value = report.goal;
    for (const Progress& p : m.progress)
      if (p.best && (a.better.empty() || a.better.back().second != *p.best))
        a.better.emplace_back(p.seconds, *p.best);
    constexpr std::size_t kFew = 40;  // more is nothing for a line
    for (std::int32_t d = 0; d < model.num_decisions() && a.plan.size() <= kFew; ++d)
      if (const Rational& v = (*m.plan)[d]; !v.is_zero())
        a.plan.push_back(v == Rational(1)
                             ? model.decision_name(d)
                             : fmt::format("{} {}", model.decision_name(d), figure(v)));
    if (a.plan.size() > kFew) a.plan.clear();
  }

  static void settle(const Attempt& a, TrialCaseAnswer& answer) {
    if (a.found && a.value &&
        (!answer.best ||
         (answer.sense == Sense::minimize ? *a.value < *answer.best : *a.value > *answer.best)))
      answer.best = a.value;
    if (a.bound && (!answer.bound || tighter(*a.bound, *answer.bound, answer.sense)))
      answer.bound = a.bound;
    if (a.way == kExact) {
      answer.proven = a.outcome == Outcome::optimal;
      answer.infeasible = a.outcome == Outcome::infeasible;
    }
  }

  // Cases may have different ways; they are told in the order of the register, own ones last.
  void order_ways() {
    std::vector<std::string> order = o_.ways;
    if (order.empty()) {
      for (const auto& m : all_methods()) order.push_back(m->name());
      for (const auto& m : o_.own) order.push_back(m->name());
    }
    std::ranges::sort(trials_.ways, {}, [&](const std::string& w) {
      return std::ranges::find(order, w) - order.begin();
    });
  }

  const std::vector<TrialCase>& cases_;
  const TrialOptions& o_;
  mutable std::mutex telling_;
  std::atomic<bool> unwanted_ = false;
  Trials trials_;
};

}  // namespace

Trials run_trials(const std::vector<TrialCase>& cases, const TrialOptions& options) {
  return TrialRun(cases, options).run();
}

}  // namespace kiteknot
