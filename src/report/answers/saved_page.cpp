#include <cmath>
#include <limits>
#include <map>
#include <unordered_map>

#include <fmt/format.h>

#include "base/text.hpp"
#include "kiteknot/pages.hpp"
#include "report/forms/page.hpp"

namespace kiteknot {
namespace {

bool same(double a, double b) {
  constexpr double kSame = 1e-9;  // saved figures are doubles
  return std::abs(a - b) <= kSame * (1.0 + std::max(std::abs(a), std::abs(b)));
}
bool same(const std::optional<double>& a, const std::optional<double>& b) {
  return a.has_value() == b.has_value() && (!a || same(*a, *b));
}

std::string circumstances(const Origin& o) {
  std::string text = o.scenario.empty() ? "" : fmt::format("scenario \"{}\"", o.scenario);
  for (const std::string& s : o.settings) text += (text.empty() ? "" : ", ") + s;
  return text.empty() ? "as it stands" : text;
}

std::string standing(const SavedAnswer::RuleLine& r) {
  if (!r.value) return r.met ? "holds" : "does not hold";
  if (r.left && r.right)  // "275 of at most 300" of "load <= 300 * open"
    return fmt::format("{} {} {}", figure(*r.left),
                       r.low && r.high ? "of exactly"
                       : r.high        ? "of at most"
                                       : "where at least",
                       figure(*r.right));
  std::string text = figure(*r.value);
  if (r.low && r.high && same(*r.low, *r.high))
    return fmt::format("{} of exactly {}", text, figure(*r.low));
  if (r.low) text += fmt::format(", at least {}", figure(*r.low));
  if (r.high) text += fmt::format(" of at most {}", figure(*r.high));
  return text;
}

class SavedPage {
 public:
  SavedPage(const SavedAnswer& a, const SavedAnswer& b, const PageOptions& options)
      : a_(a), b_(b), page_(options) {}

  std::string run() {
    page_.title(a_.model == b_.model ? fmt::format("{}: two answers side by side", a_.model)
                                     : fmt::format("{} and {} side by side", a_.model, b_.model),
                report::Tone::good);
    page_.gap();
    heads();
    decisions();
    rules();
    return page_.take();
  }

 private:
  void heads() {
    std::vector<std::vector<std::string>> rows = {
        {"", "first", "second", ""},
        {"saved in", a_.named, b_.named, ""},
        {"circumstances", circumstances(a_.origin), circumstances(b_.origin), ""}};
    if (!a_.origin.when.empty() || !b_.origin.when.empty())
      rows.push_back({"when", a_.origin.when, b_.origin.when, ""});
    rows.push_back({"outcome", a_.outcome, b_.outcome, ""});
    const auto value = [](const std::optional<double>& v) { return v ? figure(*v) : "-"; };
    for (const auto& g : a_.goals) {
      const auto other = std::find_if(b_.goals.begin(), b_.goals.end(),
                                      [&](const auto& o) { return o.name == g.name; });
      if (other == b_.goals.end()) {
        rows.push_back({g.name, value(g.value), "no such goal", ""});
        continue;
      }
      std::string change;
      if (g.value && other->value) {
        const double by = *other->value - *g.value;
        change = same(*g.value, *other->value) ? "the same" : (by > 0 ? "+" : "") + figure(by);
      }
      rows.push_back({g.name, value(g.value), value(other->value), change});
      if (!same(g.bound, other->bound) &&
          (!same(g.bound, g.value) || !same(other->bound, other->value)))
        rows.push_back({"bound", value(g.bound), value(other->bound), ""});
    }
    for (const auto& g : b_.goals)
      if (std::none_of(a_.goals.begin(), a_.goals.end(),
                       [&](const auto& o) { return o.name == g.name; }))
        rows.push_back({g.name, "no such goal", value(g.value), ""});
    page_.table(rows);
  }

  void decisions() {
    std::unordered_map<std::string, double> other;
    for (const auto& d : b_.decisions) other.emplace(d.name, d.value);
    std::vector<std::string> first, second, values, gone, fresh;
    std::size_t gone_at_zero = 0, fresh_at_zero = 0;
    for (const auto& d : a_.decisions) {
      const auto it = other.find(d.name);
      if (it == other.end()) {
        if (d.value == 0.0)
          ++gone_at_zero;
        else
          gone.push_back(fmt::format("{} ({})", d.name, figure(d.value)));
        continue;
      }
      const double was = d.value, is = it->second;
      other.erase(it);
      if (same(was, is)) continue;
      if (was == 1.0 && is == 0.0)
        first.push_back(d.name);
      else if (was == 0.0 && is == 1.0)
        second.push_back(d.name);
      else
        values.push_back(fmt::format("{} {}, then {}", d.name, figure(was), figure(is)));
    }
    for (const auto& d : b_.decisions)
      if (other.contains(d.name)) {
        if (d.value == 0.0)
          ++fresh_at_zero;
        else
          fresh.push_back(fmt::format("{} ({})", d.name, figure(d.value)));
      }
    if (gone_at_zero > 0) gone.push_back(fmt::format("{} at 0", gone_at_zero));
    if (fresh_at_zero > 0) fresh.push_back(fmt::format("{} at 0", fresh_at_zero));
    page_.heading("Decisions");
    std::vector<std::vector<std::string>> rows;
    const auto add = [&](const char* what, const std::vector<std::string>& names) {
      if (!names.empty()) rows.push_back({what, listed(names, 20)});
    };
    add("only in the first", first);
    add("only in the second", second);
    add("changed", values);
    add("no longer there", gone);
    add("new", fresh);
    if (rows.empty())
      page_.say("The same.", 2);
    else
      page_.table(rows);
  }

  void rules() {
    std::unordered_map<std::string, const SavedAnswer::RuleLine*> other;
    for (const auto& r : b_.rules) other.emplace(r.name, &r);
    const auto now_of = other;
    constexpr std::size_t kTold = std::numeric_limits<std::size_t>::max();
    std::map<std::string, std::size_t> links;
    const auto family_of = [](const std::string& name) { return name.substr(0, name.find('[')); };
    std::vector<std::vector<std::string>> rows = {{"rule", "first", "second"}};
    std::size_t alike = 0;
    for (const auto& r : a_.rules) {
      const auto it = other.find(r.name);
      if (it == other.end()) {
        rows.push_back({r.name, standing(r), "no such rule"});
        continue;
      }
      const SavedAnswer::RuleLine& now = *it->second;
      other.erase(it);
      if (same(r.value, now.value) && same(r.low, now.low) && same(r.high, now.high) &&
          r.met == now.met)
        ++alike;
      else if (r.left && r.right && now.left && now.right && r.met && now.met)
        ++links[family_of(r.name)];
      else
        rows.push_back({r.name, standing(r), standing(now)});
    }
    // Rows that tie one decision to another move whenever one of them does.
    constexpr std::size_t kFewLinks = 3;
    for (const auto& r : a_.rules) {
      const auto all = links.find(family_of(r.name));
      const auto now = now_of.find(r.name);
      if (all == links.end() || now == now_of.end()) continue;
      const SavedAnswer::RuleLine& other_line = *now->second;
      const bool moved = !same(r.value, other_line.value) || !same(r.right, other_line.right);
      if (all->second <= kFewLinks) {
        if (moved && r.left) rows.push_back({r.name, standing(r), standing(other_line)});
      } else if (all->second != kTold) {
        rows.push_back({all->first, "",
                        fmt::format("{} stand otherwise, all met", counted(all->second, "row"))});
        all->second = kTold;
      }
    }
    for (const auto& r : b_.rules)
      if (other.contains(r.name)) rows.push_back({r.name, "no such rule", standing(r)});
    page_.heading("Rules");
    constexpr std::size_t kMostRules = 40;
    const std::size_t different = rows.size() - 1;
    if (rows.size() > kMostRules) rows.resize(kMostRules);
    if (different > 0) page_.headed_table(rows);
    if (different + 1 > kMostRules)
      page_.say(fmt::format("... and {}", counted(different + 1 - kMostRules, "more rule")), 2);
    page_.say(different == 0 ? "The same."
                             : fmt::format("{} stand as before.", counted(alike, "other rule")),
              2);
  }

  const SavedAnswer &a_, &b_;
  report::Page page_;
};

}  // namespace

std::string saved_page(const SavedAnswer& first, const SavedAnswer& second,
                       const PageOptions& options) {
  return SavedPage(first, second, options).run();
}

std::string history_page(const std::string& path, const std::vector<RunLine>& runs,
                         const PageOptions& options) {
  report::Page page(options);
  page.title(fmt::format("{}: {}", path, runs.empty() ? "no runs yet" : "newest first"),
             report::Tone::good);
  page.gap();
  if (runs.empty()) return page.take();
  std::vector<std::vector<std::string>> rows = {
      {"run", "when", "goal", "gap", "took", "outcome", "model"}};
  for (const RunLine& r : runs) {
    const bool ended = !r.outcome.empty();
    const std::string gap = r.gap ? (*r.gap == 0.0 ? "none" : percent(*r.gap)) : "-";
    const bool plain = r.origin.scenario.empty() && r.origin.settings.empty();
    rows.push_back({std::to_string(r.number), r.origin.when,
                    r.value ? fmt::format("{} {}", r.goal, figure(*r.value)) : "-", gap,
                    ended ? duration(r.seconds) : "-", ended ? r.outcome : "unfinished",
                    plain ? r.model : r.model + ", " + circumstances(r.origin)});
  }
  page.headed_table(rows, {0});
  return page.take();
}

std::string kept_page(
    const std::vector<std::pair<std::string, std::shared_ptr<const KeptSearch>>>& kept,
    const PageOptions& options) {
  report::Page page(options);
  page.title("Kept searches: kiteknot resume FILE goes on with one", report::Tone::good);
  page.gap();
  std::vector<std::vector<std::string>> rows = {
      {"file", "model", "best", "bound", "open", "branches", "took"}};
  const auto value = [](const std::optional<double>& v, const char* none) {
    return v ? figure(*v) : std::string(none);
  };
  for (const auto& [file, search] : kept) {
    const bool done = search->finished();
    rows.push_back({file, search->title(), value(search->best(), "no plan yet"),
                    value(search->bound(), "-"),
                    done ? "none" : figure(Rational(static_cast<long long>(search->open()))),
                    figure(Rational(static_cast<long long>(search->branches()))),
                    duration(search->seconds())});
  }
  page.headed_table(rows, {2, 3, 4, 5, 6});
  return page.take();
}

}  // namespace kiteknot
