// CSV of stops: a heading with x and y, or lat and lon, and one column more for names; or a matrix
// whose first row and column are the same names.

#include "data/stops/stops.hpp"

#include <algorithm>
#include <cmath>
#include <unordered_map>

#include <fmt/format.h>

#include "base/text.hpp"
#include "data/tables/csv.hpp"

namespace kiteknot::data {
namespace {

using linalg::Index;
using structures::tours::Distances;
using structures::tours::Formula;
using structures::tours::Places;

std::string lowered(std::string_view text) {
  std::string out(text);
  std::transform(out.begin(), out.end(), out.begin(),
                 [](unsigned char c) { return static_cast<char>(std::tolower(c)); });
  return out;
}

class StopsCsv {
 public:
  StopsCsv(const std::string& text, const std::string& file) : file_(file) {
    data_ = parse_csv({"stops", file, text, 1}, notes_);
  }

  Reading<StopsData> run() {
    if (notes_.has_errors()) return notes_;
    const Index x = column({"x", "lat", "latitude"}), y = column({"y", "lon", "longitude"});
    if (x >= 0 && y >= 0)
      places(x, y);
    else
      matrix();
    if (!notes_.has_errors()) check_names();
    if (notes_.has_errors()) return notes_;
    return std::move(stops_);
  }

 private:
  void complain(int line, std::string message) {
    notes_.error({file_, line, 0, std::move(message), false});
  }
  [[nodiscard]] Index column(std::initializer_list<std::string_view> called) const {
    for (std::size_t c = 0; c < data_->columns.size(); ++c)
      for (const std::string_view name : called)
        if (lowered(data_->columns[c]) == name) return static_cast<Index>(c);
    return -1;
  }
  double figure_at(Index row, Index column, std::string_view what) {
    const std::string_view cell = data_->cell(row, column);
    const std::optional<Rational> written = data_->figure(row, column);
    const double value = written ? written->to_double() : 0.0;
    if (!written || !std::isfinite(value))
      complain(data_->lines[at(row)],
               cell.empty() ? fmt::format("{} is missing", what)
                            : fmt::format("{} is '{}', which is no number", what, visible(cell)));
    return value;
  }

  // Names from the first column that is neither coordinate; numbers from 1 where there is none.
  void places(Index x, Index y) {
    const bool earth = lowered(data_->columns[at(x)]).starts_with("lat");
    if (earth != lowered(data_->columns[at(y)]).starts_with("lon"))
      return complain(data_->first_line,
                      fmt::format("'{}' does not go with '{}': x and y, or lat and "
                                  "lon",
                                  data_->columns[at(x)], data_->columns[at(y)]));
    Index named = 0;
    while (named < static_cast<Index>(data_->columns.size()) && (named == x || named == y)) ++named;
    const bool has_names = named < static_cast<Index>(data_->columns.size());
    Places p;
    for (Index r = 0; r < data_->num_rows() && !notes_.full(); ++r) {
      p.x.push_back(figure_at(r, x, data_->columns[at(x)]));
      p.y.push_back(figure_at(r, y, data_->columns[at(y)]));
      if (earth && (std::abs(p.x.back()) > 90.0 || std::abs(p.y.back()) > 360.0))
        complain(data_->lines[at(r)],
                 "there is no such place on the earth: lat is from -90 to 90, "
                 "lon from -180 to 180, in degrees");
      stops_.names.push_back(has_names ? std::string(data_->cell(r, named))
                                       : std::to_string(r + 1));
    }
    if (const Index load = column({"load"}); load >= 0 && load != named)
      for (Index r = 0; r < data_->num_rows() && !notes_.full(); ++r)
        stops_.demand.push_back(figure_at(r, load, "load"));
    Places map = p;
    if (earth) std::swap(map.x, map.y);
    stops_.map = std::move(map);
    stops_.on_earth = earth;
    stops_.distances = Distances(earth ? Formula::earth : Formula::plane, std::move(p));
  }

  void matrix() {
    const auto n = static_cast<Index>(data_->columns.size()) - 1;
    const bool square = n > 0 && n == data_->num_rows();
    if (!square)
      return complain(data_->first_line,
                      fmt::format("no columns x and y, nor lat and lon, and no matrix: that would "
                                  "need as many rows as stops in the heading, {} and not {}",
                                  std::max<Index>(n, 0), data_->num_rows()));
    std::vector<double> lengths;
    lengths.reserve(at(n) * at(n));
    for (Index r = 0; r < n && !notes_.full(); ++r) {
      const std::string name(data_->cell(r, 0));
      if (name != data_->columns[at(r + 1)])
        complain(data_->lines[at(r)],
                 fmt::format("row {} is '{}' and column {} is '{}': rows and columns are the same "
                             "stops in the same order",
                             r + 1, visible(name), r + 1, visible(data_->columns[at(r + 1)])));
      stops_.names.push_back(name);
      for (Index c = 0; c < n; ++c) {
        const std::string_view cell = data_->cell(r, c + 1);
        if (r == c && (cell.empty() || cell == "-")) {
          lengths.push_back(0.0);
          continue;
        }
        const double value = figure_at(r, c + 1,
                                       fmt::format("the way from '{}' to '{}'", visible(name),
                                                   visible(data_->columns[at(c + 1)])));
        if (value < 0.0)
          complain(data_->lines[at(r)],
                   fmt::format("the way from '{}' to '{}' is shorter than nothing", visible(name),
                               visible(data_->columns[at(c + 1)])));
        lengths.push_back(r == c ? 0.0 : value);
      }
    }
    if (!notes_.has_errors()) stops_.distances = Distances(n, std::move(lengths));
  }

  void check_names() {
    std::unordered_map<std::string, Index> seen;
    for (Index r = 0; r < static_cast<Index>(stops_.names.size()); ++r) {
      const auto [it, is_new] = seen.emplace(stops_.names[at(r)], r);
      if (!is_new)
        complain(data_->lines[at(r)],
                 fmt::format("stop '{}' is there twice, first in line {}",
                             visible(stops_.names[at(r)]), data_->lines[at(it->second)]));
    }
  }

  const std::string& file_;
  Diagnostics notes_;
  std::shared_ptr<TableData> data_;
  StopsData stops_;
};

}  // namespace

Reading<StopsData> read_stops_csv(const std::string& text, const std::string& file) {
  return StopsCsv(text, file).run();
}

// TSPLIB begins with words and colons, and says what its lengths are.
Reading<StopsData> read_stops(const std::string& text, const std::string& file) {
  return text.find("DIMENSION") != std::string::npos &&
                 text.find("EDGE_WEIGHT_TYPE") != std::string::npos
             ? read_tsplib(text, file)
             : read_stops_csv(text, file);
}

}  // namespace kiteknot::data
