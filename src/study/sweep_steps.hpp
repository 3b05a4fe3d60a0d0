#pragma once
// Where along a sweep the best plan has to change, and how its goal moves in between.
//
// A plan is carried on from value to value as long as it, with its real decisions moved as they go
// best, is among the best ones there; a change is where it no longer is. So a value at which two
// plans are as good as each other hides none. Where to look next is guessed from the plans on both
// sides: the value that makes one of them possible, or the one at which their goals cross (Eisner
// and Severance 1976, "Mathematical techniques for efficient record segmentation in large shared
// databases"); else the middle.

#include <functional>
#include <map>

#include "kiteknot/solve.hpp"
#include "kiteknot/vary.hpp"
#include "methods/variants.hpp"
#include "model/model_data.hpp"
#include "study/time_left.hpp"

namespace kiteknot {

struct SweepAnswer : methods::Answer {
  Rational at;
};

class SweepSteps {
 public:
  using Ask = std::function<std::vector<SweepAnswer>(const std::vector<Rational>&)>;
  SweepSteps(const Model& model, std::string number, Ask ask, const TimeLeft& time);
  /// Steps and lines between answers in the order of the sweep, one at least.
  void find(std::vector<SweepAnswer> answers, Variation& out);

 private:
  using Goals = std::vector<Rational>;
  /// The goals that the whole decisions of an answer's plan can come to at another value; none
  /// where they meet no rules there.
  std::optional<Goals> reach(const SweepAnswer& of, const SweepAnswer& there);
  std::optional<Goals> worked_out(const Plan& plan, const Rational& at);
  Model held(const Plan& plan) const;
  bool serves(const SweepAnswer& of, const SweepAnswer& there);
  [[nodiscard]] bool alike(const Plan& a, const Plan& b) const;
  [[nodiscard]] bool same(const Goals& a, const Goals& b) const;
  [[nodiscard]] static Goals goals_of(const SweepAnswer& a);
  std::optional<Rational> crossing(const SweepAnswer& old, const SweepAnswer& a,
                                   const SweepAnswer& b);
  std::optional<Rational> first_possible(const SweepAnswer& a, const SweepAnswer& b);
  void bound_shares(const Rational& there, const Rational& here, const Plan& plan,
                    std::optional<Rational>& share);
  std::optional<Rational> middle_of(const SweepAnswer& old, const SweepAnswer& a,
                                    const SweepAnswer& b, Variation& out);
  std::vector<Rational> walk(Variation& out);
  bool take(const std::vector<Rational>& values);
  void tell_lines(Variation& out);
  PlanReport report_at(const Rational& value, const Plan& plan);

  Model model_;
  std::string number_;
  Ask ask_;
  const TimeLeft& time_;
  bool reals_ = false;  // some decision is real
  bool rising_ = true;
  Rational least_;  // the width that a change is found to
  std::map<Rational, SweepAnswer> answers_;
  std::map<std::pair<Rational, Rational>, std::optional<Goals>> reached_;  // whose, where
  int round_ = 0;
  std::size_t solves_ = 0;
};

}  // namespace kiteknot
