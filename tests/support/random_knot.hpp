#pragma once
// Random models written in the language: every expression and condition is drawn together with what
// it means.

#include <functional>

#include "base/random.hpp"
#include "kiteknot/kiteknot.hpp"

namespace kiteknot::test {

struct Point {
  std::vector<Rational> decisions, numbers;
  mutable bool outside = false;  // of a curve
};
struct Corner {  // of a curve
  Rational x, y;
};
using Value = std::function<Rational(const Point&)>;
using Truth = std::function<bool(const Point&)>;
struct Figure {
  std::string text;
  Value value;
};
struct Claim {
  std::string text;
  Truth holds;
  Value missed;  // by how much
};

struct Drawn {
  std::string text;
  std::vector<std::string> names;
  std::vector<std::vector<Rational>> values;  // that each decision can take
  std::vector<Rational> numbers;
  std::vector<Claim> rules;
  std::vector<std::pair<Claim, Value>> paid;
  std::vector<std::pair<bool, Value>> goals;  // least, value
  std::vector<Value> seen;                    // everything that may hold a curve
};

class Draw {
 public:
  explicit Draw(std::uint64_t seed) : random_(seed) {}

  Drawn model() {
    for (const char* name : {"n", "m"}) {
      d_.numbers.push_back(figure());
      d_.text += "number " + std::string(name) + " = " + d_.numbers.back().text() + "\n";
    }
    points_ = {{-2, random_.between(-3, 3)}};
    for (int k = 0; k < 3; ++k) {
      const Corner& last = points_.back();
      const auto step = random_.chance(0.25) ? 0 : random_.between(1, 3);
      points_.push_back({last.x + Rational(step), random_.between(-4, 4)});
    }
    points_.push_back({points_.back().x + Rational(1), random_.between(-4, 4)});
    d_.text += "curve c through ";
    for (std::size_t k = 0; k < points_.size(); ++k)
      d_.text += (k > 0 ? ", (" : "(") + points_[k].x.text() + ", " + points_[k].y.text() + ")";
    d_.text += "\n";
    decide("x", "integer -1 .. 2", {-1, 0, 1, 2});
    decide("b", "binary", {0, 1});
    if (random_.chance(0.5)) decide("w", "one of 1, 2.5, 4", {1, *Rational::parse("2.5"), 4});
    if (random_.chance(0.5)) decide("a", "binary", {0, 1});
    if (random_.chance(0.2)) {  // without bounds of its own: rules keep it
      decide("y", "integer -inf .. inf", {-1, 0, 1});
      d_.text += "rule kept: -1 <= y\nrule under: 2 * y <= 3\n";
    }
    if (random_.chance(0.3)) d_.text += "decide z real 0 .. 1\nrule own: 3 * z <= 1\n";
    const auto goals = random_.between(1, 2);
    for (int k = 0; k < goals; ++k) {
      const bool least = random_.chance(0.5);
      const Figure e = sum(2);
      d_.text += std::string(least ? "minimize" : "maximize") + " g" + std::to_string(k) + ": " +
                 e.text + "\n";
      d_.goals.emplace_back(least, e.value);
      d_.seen.push_back(e.value);
    }
    const auto rules = random_.between(1, 3);
    for (int k = 0; k < rules; ++k) {
      const Claim c = claim(2);
      d_.text += "rule r" + std::to_string(k) + ": " + c.text;
      d_.seen.push_back([c](const Point& p) { return Rational(c.holds(p) ? 1 : 0); });
      if (random_.chance(0.25)) {
        const auto price = random_.between(1, 3);
        d_.text += " or pay abs(n) + " + std::to_string(price) + " each";
        d_.paid.emplace_back(c, [price](const Point& p) { return p.numbers[0].abs() + price; });
      } else {
        d_.rules.push_back(c);
      }
      d_.text += "\n";
    }
    return std::move(d_);
  }

 private:
  Rational figure() {
    return Rational::ratio(random_.between(-6, 6), random_.between(1, 3) > 2 ? 2 : 1);
  }
  void decide(const std::string& name, const std::string& kind, std::vector<Rational> values) {
    d_.text += "decide " + name + " " + kind + "\n";
    d_.names.push_back(name);
    d_.values.push_back(std::move(values));
  }
  Figure decision() {
    const auto k = static_cast<std::size_t>(
        random_.between(0, static_cast<std::int64_t>(d_.names.size()) - 1));
    return {d_.names[k], [k](const Point& p) { return p.decisions[k]; }};
  }
  Figure binary() {
    return {"b", [](const Point& p) { return p.decisions[1]; }};
  }
  Figure leaf() {
    const auto which = random_.between(0, 5);
    if (which == 0) {
      const Rational v = figure();
      return {"(" + v.text() + ")", [v](const Point&) { return v; }};
    }
    if (which == 1) return {"n", [](const Point& p) { return p.numbers[0]; }};
    if (which == 2) return {"m", [](const Point& p) { return p.numbers[1]; }};
    return decision();
  }
  Figure sum(int depth) {
    Figure e = term(depth);
    for (auto more = random_.between(0, 2); more > 0; --more) {
      const Figure next = term(depth);
      const bool minus = random_.chance(0.4);
      e = {e.text + (minus ? " - " : " + ") + next.text,
           [a = e.value, b = next.value, minus](const Point& p) {
             const Rational left = a(p), right = b(p);
             return minus ? left - right : left + right;
           }};
    }
    return e;
  }
  Figure term(int depth) {
    if (depth == 0) return leaf();
    switch (random_.between(0, 6)) {
      case 0: {
        const Rational v = figure();
        const Figure e = term(depth - 1);
        return {"(" + v.text() + ") * " + e.text,
                [v, f = e.value](const Point& p) { return v * f(p); }};
      }
      case 1: {
        const Figure e = sum(depth - 1);
        return {"abs(" + e.text + ")", [f = e.value](const Point& p) { return f(p).abs(); }};
      }
      case 2: {
        const bool most = random_.chance(0.5);
        const Figure a = sum(depth - 1), b = sum(depth - 1);
        return {(most ? "max(" : "min(") + a.text + ", " + b.text + ")",
                [most, f = a.value, g = b.value](const Point& p) {
                  const Rational x = f(p), y = g(p);
                  return most ? std::max(x, y) : std::min(x, y);
                }};
      }
      case 3: {
        const Figure e = sum(depth - 1);
        return {"b * (" + e.text + ")",
                [f = e.value](const Point& p) { return p.decisions[1] * f(p); }};
      }
      case 4: {
        const Figure e = random_.chance(0.8) ? decision() : leaf();
        return {"c(" + e.text + ")", [f = e.value, this_points = points_](const Point& p) {
                  return at(this_points, f(p), p);
                }};
      }
      default:
        return leaf();
    }
  }
  // The least y over one x; straight lines between.
  static Rational at(const std::vector<Corner>& points, const Rational& x, const Point& p) {
    std::optional<Rational> least;
    for (const Corner& q : points)
      if (q.x == x && (!least || q.y < *least)) least = q.y;
    if (least) return *least;
    for (std::size_t k = 0; k + 1 < points.size(); ++k)
      if (points[k].x < x && x < points[k + 1].x)
        return points[k].y + (points[k + 1].y - points[k].y) / (points[k + 1].x - points[k].x) *
                                 (x - points[k].x);
    p.outside = true;
    return 0;
  }

  Claim compared() {
    const Figure a = sum(1), b = random_.chance(0.5) ? leaf() : sum(1);
    const auto sign = random_.between(0, 2);
    static const char* kSigns[] = {" <= ", " >= ", " = "};
    return {a.text + kSigns[sign] + b.text,
            [f = a.value, g = b.value, sign](const Point& p) {
              const Rational x = f(p), y = g(p);
              return sign == 0 ? x <= y : sign == 1 ? x >= y : x == y;
            },
            [f = a.value, g = b.value, sign](const Point& p) {
              const Rational by = f(p) - g(p);
              return sign == 0   ? std::max<Rational>(by, 0)
                     : sign == 1 ? std::max<Rational>(-by, 0)
                                 : by.abs();
            }};
  }
  Claim logical(std::string text, Truth holds) {
    return {std::move(text), holds, [holds](const Point& p) { return Rational(holds(p) ? 0 : 1); }};
  }
  Claim claim(int depth) {
    const auto which = depth == 0 ? random_.between(0, 1) : random_.between(0, 7);
    if (which == 0)
      return logical("b", [](const Point& p) { return p.decisions[1] == Rational(1); });
    if (which == 1 || which == 7) return compared();
    const Claim l = claim(depth - 1), r = claim(depth - 1);
    const auto both = [&](const char* word, bool (*join)(bool, bool)) {
      return logical("(" + l.text + ") " + word + " (" + r.text + ")",
                     [f = l.holds, g = r.holds, join](const Point& p) {
                       const bool x = f(p), y = g(p);  // both are looked at, for their curves
                       return join(x, y);
                     });
    };
    switch (which) {
      case 2:
        return both("and", [](bool x, bool y) { return x && y; });
      case 3:
        return both("or", [](bool x, bool y) { return x || y; });
      case 4:
        return both("xor", [](bool x, bool y) { return x != y; });
      case 5:
        return both("implies", [](bool x, bool y) { return !x || y; });
      default:
        return logical("not (" + l.text + ")", [f = l.holds](const Point& p) { return !f(p); });
    }
  }

  Random random_;
  Drawn d_;
  std::vector<Corner> points_;
};

}  // namespace kiteknot::test
