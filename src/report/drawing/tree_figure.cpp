#include <algorithm>
#include <cmath>

#include <fmt/format.h>

#include "base/text.hpp"
#include "report/drawing/plane_scene.hpp"
#include "report/drawing/search_rows.hpp"
#include "report/forms/page.hpp"

namespace kiteknot {
namespace {

using report::Drawing;
using report::SearchRow;

void need_tree(const Result& result) {
  if (result.search.tree.empty())
    throw UsageError("no branches were recorded: how many are to be is said before the search");
}

// An outline of branches on the left, their bounds on one scale on the right.
class TreeDrawer {
 public:
  TreeDrawer(const Result& result, const report::Ground& g)
      : r_(result),
        tree_(result.search.tree),
        g_(g),
        rows_(report::search_rows(result, kMostRows)),
        d_(report::sheet(result.model().title(), below(), g)) {}

  std::string draw() {
    scale();
    double deepest = 1.0;
    for (const SearchRow& row : rows_) deepest = std::max(deepest, static_cast<double>(row.depth));
    step_ = std::min(30.0, 300.0 / deepest);
    height_ = std::min(34.0, (kBottom - kTop) / static_cast<double>(rows_.size()));
    size_ = std::clamp(0.62 * height_, 12.0, 15.5);
    lines();
    for (std::size_t k = 0; k < rows_.size(); ++k) row(k);
    strip();
    legend();
    return std::move(d_).finish();
  }

 private:
  static constexpr std::size_t kMostRows = 30;
  static constexpr double kTop = 138.0, kBottom = 752.0, kLeft = 84.0, kStrip = 900.0,
                          kRight = 1236.0;

  [[nodiscard]] std::string below() const {
    const auto branches = static_cast<std::size_t>(r_.search.nodes);
    std::string text = branches <= 1 ? "No branching: the first look settled it"
                                     : "The " + counted(branches, "branch") +
                                           " of the search, in the order of an outline";
    if (!r_.goals.empty() && r_.goals[0].value)
      text += fmt::format("; {} is {}{}", r_.goals[0].name, figure(*r_.goals[0].value),
                          r_.outcome == Outcome::optimal ? ", proven" : "");
    return text;
  }

  [[nodiscard]] double y(std::size_t k) const {
    return kTop + (static_cast<double>(k) + 0.6) * height_;
  }
  [[nodiscard]] double x(const SearchRow& row) const { return kLeft + step_ * row.depth; }

  void scale() {
    const auto see = [&](const std::optional<double>& v) {
      if (!v) return;
      low_ = std::min(low_, *v);
      high_ = std::max(high_, *v);
    };
    for (const SearchRow& row : rows_) {
      see(tree_[row.node].bound);
      see(tree_[row.node].plan);
    }
    if (!r_.goals.empty() && r_.goals[0].value) see(r_.goals[0].value->to_double());
    if (!(low_ <= high_)) return;
    least_ = low_;
    most_ = high_;
    const double room =
        high_ > low_ ? 0.06 * (high_ - low_) : std::max(1.0, 0.05 * std::abs(high_));
    low_ -= room;
    high_ += room;
  }
  [[nodiscard]] bool has_scale() const { return low_ < high_; }
  [[nodiscard]] double place(double value) const {
    return kStrip + (value - low_) / (high_ - low_) * (kRight - kStrip);
  }

  // From each branch down to its parts; the way to the best plan over the others.
  void lines() {
    for (const bool ways : {false, true}) {
      std::vector<std::size_t> last;  // the row of the parent by depth
      for (std::size_t k = 0; k < rows_.size(); ++k) {
        const auto depth = static_cast<std::size_t>(rows_[k].depth);
        if (last.size() <= depth) last.resize(depth + 1);
        last[depth] = k;
        if (depth == 0 || rows_[k].on_way != ways) continue;
        const std::size_t up = last[depth - 1];
        const char* colour = ways ? g_.good : g_.faint;
        const double px = x(rows_[up]), width = ways ? 2.4 : 1.3;
        d_.line({px, y(up) + 6.0}, {px, y(k)}, colour, width);
        d_.line({px, y(k)}, {x(rows_[k]) - 6.0, y(k)}, colour, width);
      }
    }
  }

  void row(std::size_t k) {
    const SearchRow& row = rows_[k];
    const SearchNode& n = tree_[row.node];
    const double cx = x(row), cy = y(k);
    if (n.look > 0)
      d_.text({kLeft - 22.0, cy + 0.35 * size_}, figure(static_cast<double>(n.look)), size_ - 1.5,
              g_.soft, Drawing::Side::right);
    mark(n, cx, cy, row.on_way);
    const double room = kStrip - 26.0 - (cx + 13.0);
    const std::string decided = row.depth == 0 ? "all plans" : n.decided;
    std::string ended = report::how_it_ended(n);
    if (row.more > 0) {
      if (!ended.empty()) ended += "; ";
      ended += fmt::format("{} more below", figure(static_cast<double>(row.more)));
      const bool maximize = !r_.goals.empty() && r_.goals[0].sense == Sense::maximize;
      if (row.none)
        ended += fmt::format(", none {} {}", maximize ? "above" : "below",
                             report::brief_figure(*row.none));
    }
    const double wide = report::width_of_words(ended, size_ - 1.0);
    const std::string first = report::fitted(decided, size_, std::max(90.0, room - wide - 14.0));
    d_.text({cx + 13.0, cy + 0.35 * size_}, first, size_, row.on_way ? g_.good : g_.ink,
            Drawing::Side::left, row.on_way);
    const double bold = row.on_way ? 1.08 : 1.0;
    const double from = cx + 13.0 + bold * report::width_of_words(first, size_) + 12.0;
    d_.text({from, cy + 0.35 * size_}, report::fitted(ended, size_ - 1.0, kStrip - 22.0 - from),
            size_ - 1.0, g_.soft);
    if (!has_scale() || !n.bound) return;
    const double at = place(*n.bound);
    d_.line({at, cy - 0.36 * height_}, {at, cy + 0.36 * height_}, row.on_way ? g_.good : g_.first,
            2.6);
    if (n.plan) d_.dot({place(*n.plan), cy}, 4.0, g_.good, g_.ink);
  }

  void mark(const SearchNode& n, double cx, double cy, bool way) {
    const double r = std::min(6.0, 0.3 * height_);
    if (n.plan)
      d_.dot({cx, cy}, r, g_.good, g_.ink);
    else if (n.divided)
      d_.dot({cx, cy}, r, g_.paper, way ? g_.good : g_.first);
    else if (n.closed.empty())
      d_.dot({cx, cy}, r, g_.second, g_.ink);
    else
      d_.box({cx - 0.8 * r, cy - 0.8 * r, 1.6 * r, 1.6 * r}, g_.soft);
  }

  // The scale of bounds, with the best plan through all rows.
  void strip() {
    if (!has_scale()) return;
    d_.line({kStrip, kTop - 6.0}, {kRight, kTop - 6.0}, g_.soft, 1.0);
    const double bottom = y(rows_.size() - 1) + 0.5 * height_;
    const std::string goal = r_.goals.empty() ? "" : r_.goals[0].name + " ";
    d_.text({kStrip, kTop - 42.0},
            report::fitted(goal + "of each branch at best", 13.5, kRight - kStrip), 13.5, g_.ink,
            Drawing::Side::left, true);
    const std::string left = report::brief_figure(least_), right = report::brief_figure(most_);
    std::optional<double> best;
    if (!r_.goals.empty() && r_.goals[0].value) best = place(r_.goals[0].value->to_double());
    const double half = best ? 0.5 * report::width_of_words("best plan", 12.5) : 0.0;
    if (best) d_.dashes({*best, kTop - 6.0}, {*best, bottom}, g_.good, 1.4);
    if (best) {
      const double at = std::clamp(*best, kStrip + half, kRight - half);
      d_.text({at, kTop - 13.0}, "best plan", 12.5, g_.good, Drawing::Side::middle);
    }
    const double lw = report::width_of_words(left, 12.5), rw = report::width_of_words(right, 12.5);
    if (!best || *best - half > kStrip + lw + 8.0)
      d_.text({kStrip, kTop - 13.0}, left, 12.5, g_.soft);
    if ((!best || *best + half < kRight - rw - 8.0) && left != right)
      d_.text({kRight, kTop - 13.0}, right, 12.5, g_.soft, Drawing::Side::right);
  }

  void legend() {
    double at = kLeft - 40.0;
    const double cy = 776.0;
    const auto say = [&](const std::string& words) {
      d_.text({at, cy + 4.5}, words, 13.0, g_.soft);
      at += report::width_of_words(words, 13.0) + 24.0;
    };
    say("the number tells when it was looked at");
    d_.dot({at, cy}, 5.5, g_.paper, g_.first);
    at += 11.0;
    say("divided");
    d_.box({at - 4.0, cy - 4.0, 8.0, 8.0}, g_.soft);
    at += 11.0;
    say("closed");
    d_.dot({at, cy}, 5.5, g_.good, g_.ink);
    at += 11.0;
    say("a better plan");
    if (r_.outcome != Outcome::optimal && r_.outcome != Outcome::infeasible) {
      d_.dot({at, cy}, 5.5, g_.second, g_.ink);
      at += 11.0;
      say("left open");
    }
  }

  const Result& r_;
  const std::vector<SearchNode>& tree_;
  const report::Ground& g_;
  std::vector<SearchRow> rows_;
  Drawing d_;
  double low_ = HUGE_VAL, high_ = -HUGE_VAL, least_ = 0.0, most_ = 0.0, size_ = 13.5, step_ = 0.0,
         height_ = 0.0;
};

std::string in_dot(const std::string& text) {
  std::string out = "\"";
  for (const char c : visible(text)) {
    if (c == '"' || c == '\\') out += '\\';
    out += c;
  }
  return out + "\"";
}

}  // namespace

std::string tree_figure(const Result& result, const DrawOptions& options) {
  need_tree(result);
  return TreeDrawer(result, report::ground(options.dark)).draw();
}

std::string tree_dot(const Result& result) {
  need_tree(result);
  std::string text = "digraph {\n  node [shape=box]\n";
  const std::vector<SearchNode>& tree = result.search.tree;
  for (std::size_t k = 0; k < tree.size(); ++k) {
    const SearchNode& n = tree[k];
    std::string label = k == 0 ? "all plans" : n.decided;
    if (n.bound) label += fmt::format(" | at best {}", figure(*n.bound));
    if (const std::string ended = report::how_it_ended(n); !ended.empty()) label += " | " + ended;
    if (n.left_out > 0) label += fmt::format(" | {} more below", n.left_out);
    text += fmt::format("  {} [label={}{}]\n", k, in_dot(label), n.plan ? ", penwidth=2" : "");
    if (n.parent >= 0) text += fmt::format("  {} -> {}\n", n.parent, k);
  }
  return text + "}\n";
}

}  // namespace kiteknot
