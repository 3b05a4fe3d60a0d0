#pragma once
// Random models with tables, references, scenarios and `set`, written in the language, together
// with what every plan is worth by an evaluation of our own.

#include <string>
#include <vector>

#include "base/random.hpp"
#include "kiteknot/kiteknot.hpp"

namespace kiteknot::test {

/// Kinds of kites, and items that refer to one: take some, open their kinds.
struct Shop {
  struct Item {
    std::size_t kind = 0;
    Rational worth, weight;
    int most = 1;
  };
  std::vector<Rational> rate;  // of each kind
  std::vector<Item> items;
  Rational cap, price, few;
  bool up = true, packing = true;  // maximise; the cap is from above
  bool with_cap = true, with_open = true, with_few = true, with_extra = false;
  std::vector<std::pair<std::size_t, int>> held;  // kinds held open (1) or shut (0)
  bool real_too = false;                          // one real decision more

  /// Decisions: take[0], take[1], ..., open[0], ...
  using Point = std::vector<int>;
  [[nodiscard]] int take(const Point& p, std::size_t i) const { return p[i]; }
  [[nodiscard]] int open(const Point& p, std::size_t k) const { return p[items.size() + k]; }

  [[nodiscard]] Rational load(const Point& p) const {
    Rational sum = 0;
    for (std::size_t i = 0; i < items.size(); ++i) sum += items[i].weight * Rational(take(p, i));
    return sum;
  }
  [[nodiscard]] bool cap_holds(const Point& p) const {
    return packing ? load(p) <= cap : load(p) >= cap;
  }
  [[nodiscard]] bool opened(const Point& p, std::size_t i) const {
    return take(p, i) == 0 || open(p, items[i].kind) == 1;
  }
  [[nodiscard]] Rational opens(const Point& p) const {
    int count = 0;
    for (std::size_t k = 0; k < rate.size(); ++k) count += open(p, k);
    return count;
  }
  [[nodiscard]] bool extra_holds(const Point& p) const {
    return (take(p, 0) >= 1) != (take(p, 1) >= 1);
  }
  [[nodiscard]] bool fits(const Point& p) const {
    if (with_cap && !cap_holds(p)) return false;
    for (std::size_t i = 0; with_open && i < items.size(); ++i)
      if (!opened(p, i)) return false;
    if (with_few && opens(p) > few) return false;
    if (with_extra && !extra_holds(p)) return false;
    for (const auto& [kind, value] : held)
      if (open(p, kind) != value) return false;
    return true;
  }
  [[nodiscard]] Rational worth(const Point& p) const {
    Rational sum = 0;
    for (std::size_t i = 0; i < items.size(); ++i)
      sum += items[i].worth * rate[items[i].kind] * Rational(take(p, i));
    return up ? sum - price * opens(p) : sum + price * opens(p);
  }
  [[nodiscard]] bool better(const Rational& a, const Rational& b) const {
    return up ? a > b : a < b;
  }

  template <class Visit>
  void visit(const Visit& each) const {
    Point p(items.size() + rate.size(), 0);
    while (true) {
      each(p);
      std::size_t j = 0;
      while (j < p.size() && ++p[j] > (j < items.size() ? items[j].most : 1)) p[j++] = 0;
      if (j == p.size()) return;
    }
  }
  /// The best value among plans that fit and meet `also`.
  template <class Also>
  [[nodiscard]] std::optional<Rational> best(const Also& also) const {
    std::optional<Rational> found;
    visit([&](const Point& p) {
      if (!fits(p) || !also(p)) return;
      const Rational w = worth(p);
      if (!found || better(w, *found)) found = w;
    });
    return found;
  }
  [[nodiscard]] std::optional<Rational> best() const {
    return best([](const Point&) { return true; });
  }

  [[nodiscard]] Plan plan(const Model& model, const Point& p) const {
    Plan plan(model);
    for (std::size_t i = 0; i < items.size(); ++i)
      plan.set(model.decision("take[\"i" + std::to_string(i) + "\"]"), take(p, i));
    for (std::size_t k = 0; k < rate.size(); ++k)
      plan.set(model.decision("open[\"k" + std::to_string(k) + "\"]"), open(p, k));
    return plan;
  }
};

/// A changed shop, with the change as the language says it.
struct Change {
  std::string text;
  Shop shop;
};

class DrawShop {
 public:
  explicit DrawShop(std::uint64_t seed) : random_(seed) {}

  Shop shop() {
    Shop s;
    const auto kinds = random_.between(2, 3), items = random_.between(2, 4);
    for (int k = 0; k < kinds; ++k) s.rate.push_back(figure(1, 4));
    for (int i = 0; i < items; ++i)
      s.items.push_back({static_cast<std::size_t>(random_.between(0, kinds - 1)), figure(1, 9),
                         figure(1, 6), static_cast<int>(random_.between(1, 2))});
    s.packing = random_.chance(0.6);
    s.up = random_.chance(0.1) ? !s.packing : s.packing;
    s.cap = figure(2, 16);
    s.price = figure(0, 8);
    s.few = random_.between(1, kinds);
    s.with_extra = random_.chance(0.15);
    s.real_too = random_.chance(0.3);
    return s;
  }

  Change change(const Shop& from) {
    Change c{{}, from};
    Shop& s = c.shop;
    const auto say = [&](const std::string& text) {
      c.text += (c.text.empty() ? "" : ", ") + text;
    };
    std::vector<int> kinds_of_change = {0, 1, 2, 3, 4, 5};
    for (int more = static_cast<int>(random_.between(1, 3)); more > 0; --more) {
      const auto at = static_cast<std::size_t>(
          random_.between(0, static_cast<std::int64_t>(kinds_of_change.size()) - 1));
      const int which = kinds_of_change[at];
      kinds_of_change.erase(kinds_of_change.begin() + static_cast<std::ptrdiff_t>(at));
      const auto item = static_cast<std::size_t>(
          random_.between(0, static_cast<std::int64_t>(s.items.size()) - 1));
      const auto kind = static_cast<std::size_t>(
          random_.between(0, static_cast<std::int64_t>(s.rate.size()) - 1));
      switch (which) {
        case 0:
          s.cap = figure(1, 18);
          say("set cap = " + s.cap.text());
          break;
        case 1:
          s.items[item].worth = figure(1, 12);
          say("set items[\"i" + std::to_string(item) + "\"].worth = " + s.items[item].worth.text());
          break;
        case 2:
          for (Shop::Item& i : s.items) i.weight *= Rational::ratio(3, 2);
          say("scale items.weight by 1.5");
          break;
        case 3:
          if (random_.chance(0.5)) {
            s.with_few = false;
            say("without few");
          } else {
            s.with_open = false;
            say("without opened");
          }
          break;
        case 4:
          if (s.with_extra) break;
          s.with_extra = true;
          say("with extra");
          break;
        default:
          s.held.emplace_back(kind, random_.chance(0.5) ? 1 : 0);
          say("hold open[\"k" + std::to_string(kind) +
              "\"] = " + std::to_string(s.held.back().second));
      }
    }
    return c;
  }

  /// The model; scenarios by name.
  static std::string text(const Shop& s,
                          const std::vector<std::pair<std::string, Change>>& scenarios) {
    std::string t = "table kinds key kind rows\n  kind,rate\n";
    for (std::size_t k = 0; k < s.rate.size(); ++k)
      t += "  k" + std::to_string(k) + "," + s.rate[k].text() + "\n";
    t += "table items key item refers kind in kinds rows\n  item,kind,worth,weight,most\n";
    for (std::size_t i = 0; i < s.items.size(); ++i)
      t += "  i" + std::to_string(i) + ",k" + std::to_string(s.items[i].kind) + "," +
           s.items[i].worth.text() + "," + s.items[i].weight.text() + "," +
           std::to_string(s.items[i].most) + "\n";
    t += "number cap = " + s.cap.text() + "\nnumber price = " + s.price.text() +
         "\nnumber most_open = " + s.few.text() + "\n";
    t += "decide take[i in items] integer 0 .. i.most\ndecide open[k in kinds] binary\n";
    if (s.real_too) t += "decide slack real 0 .. 3\nrule spare: 2 * slack <= 5\n";
    t += std::string(s.up ? "maximize" : "minimize") +
         " gain: total(i.worth * i.kind.rate * take[i] over i in items) " + (s.up ? "-" : "+") +
         " total(price * open[k] over k in kinds)\n";
    t += std::string("rule load: total(i.weight * take[i] over i in items) ") +
         (s.packing ? "<=" : ">=") + " cap\n";
    t += "rule opened[i in items]: take[i] >= 1 implies open[i.kind]\n";
    t += "rule few: total(open[k] over k in kinds) <= most_open\n";
    t += std::string("rule extra ") + (s.with_extra ? "" : "off") +
         ": exactly 1 of (take[\"i0\"] >= 1, take[\"i1\"] >= 1)\n";
    for (const auto& [name, change] : scenarios)
      t += "scenario \"" + name + "\": " + change.text + "\n";
    return t;
  }

 private:
  Rational figure(int least, int most) {
    return Rational::ratio(random_.between(2 * least, 2 * most), 2);
  }
  Random random_;
};

}  // namespace kiteknot::test
