// TSPLIB: a heading of words, then sections of figures.

#include <algorithm>
#include <charconv>
#include <cmath>

#include <fmt/format.h>

#include "base/text.hpp"
#include "data/stops/stops.hpp"

namespace kiteknot::data {
namespace {

using linalg::Index;
using structures::tours::Distances;
using structures::tours::Formula;
using structures::tours::Places;

struct Word {
  std::string text;
  int line = 0;
};

const std::vector<std::string>& formula_names() {
  static const std::vector<std::string> names = {"EUC_2D", "EUC_3D", "CEIL_2D", "MAN_2D",
                                                 "MAX_2D", "GEO",    "ATT",     "EXPLICIT"};
  return names;
}

const std::vector<std::string>& matrix_forms() {
  static const std::vector<std::string> names = {
      "FULL_MATRIX", "UPPER_ROW",      "LOWER_ROW", "UPPER_DIAG_ROW", "LOWER_DIAG_ROW",
      "UPPER_COL",   "UPPER_DIAG_COL", "LOWER_COL", "LOWER_DIAG_COL"};
  return names;
}

const std::vector<std::string>& sections() {
  static const std::vector<std::string> names = {
      "NODE_COORD_SECTION", "EDGE_WEIGHT_SECTION", "DISPLAY_DATA_SECTION", "FIXED_EDGES_SECTION",
      "DEMAND_SECTION",     "DEPOT_SECTION",       "TOUR_SECTION"};
  return names;
}

class Tsplib {
 public:
  Tsplib(const std::string& text, const std::string& file) : file_(file) { split(text); }

  Reading<StopsData> stops() {
    heading_and_sections();
    if (!notes_.has_errors()) put_together();
    if (notes_.has_errors()) return notes_;
    return std::move(stops_);
  }

  Reading<std::vector<Index>> tour(Index stops) {
    size_ = stops;
    heading_and_sections();
    if (!notes_.has_errors() && tour_.empty()) complain(0, "there is no TOUR_SECTION");
    if (size_ != stops)
      complain(0, fmt::format("the tour is of {} stops and not of {}", size_, stops));
    std::vector<char> seen(at(std::max<Index>(stops, 0)), 0);
    for (const Index stop : tour_)
      if (!notes_.has_errors() && std::exchange(seen[at(stop)], 1))
        complain(0, fmt::format("stop {} is in the tour twice", stop + 1));
    for (Index i = 0; i < stops && !notes_.has_errors(); ++i)
      if (!seen[at(i)]) complain(0, fmt::format("stop {} is not in the tour", i + 1));
    if (notes_.has_errors()) return notes_;
    return std::move(tour_);
  }

 private:
  void complain(int line, std::string message) {
    notes_.error({file_, line, 0, std::move(message), false});
  }

  // Words by lines; a heading's colon may stand anywhere between its word and its value.
  void split(const std::string& text) {
    int line = 1;
    for (std::size_t k = 0; k < text.size();) {
      if (text[k] == '\n') ++line;
      if (std::isspace(static_cast<unsigned char>(text[k])) != 0) {
        ++k;
        continue;
      }
      std::size_t end = k;
      while (end < text.size() && std::isspace(static_cast<unsigned char>(text[end])) == 0 &&
             (text[end] != ':' || end == k))
        ++end;
      words_.push_back({text.substr(k, end - k), line});
      k = end;
    }
  }

  [[nodiscard]] bool more() const { return next_ < words_.size(); }
  [[nodiscard]] bool is_word() const {
    return more() && std::isalpha(static_cast<unsigned char>(words_[next_].text[0])) != 0;
  }
  // The rest of the line after a colon.
  std::string value_of(int line) {
    if (more() && words_[next_].text == ":") ++next_;
    std::string value;
    for (; more() && words_[next_].line == line; ++next_)
      value += (value.empty() ? "" : " ") + words_[next_].text;
    return value;
  }

  std::optional<double> figure_here(std::string_view what) {
    if (!more() || is_word()) {
      complain(more() ? words_[next_].line : 0, fmt::format("{} ends before {}", section_, what));
      return std::nullopt;
    }
    const Word& w = words_[next_++];
    double value = 0.0;
    const char* begin = w.text.data() + (w.text[0] == '+' ? 1 : 0);
    const char* last = w.text.data() + w.text.size();
    const auto [end, error] = std::from_chars(begin, last, value);
    if (error == std::errc() && end == last && std::isfinite(value)) return value;
    complain(w.line, fmt::format("'{}' is no number, where {} is expected", visible(w.text), what));
    return std::nullopt;
  }

  // A stop's number from 1; -1 is said by `ends`.
  std::optional<Index> stop_here(bool* ends = nullptr) {
    const int line = more() ? words_[next_].line : 0;
    const auto value = figure_here("a stop's number");
    if (!value) return std::nullopt;
    if (ends != nullptr && *value == -1.0) {
      *ends = true;
      return std::nullopt;
    }
    if (*value < 1.0 || *value > static_cast<double>(size_) || *value != std::floor(*value)) {
      complain(line, fmt::format("there is no stop {}: they are numbered from 1 to {}",
                                 figure(*value), size_));
      return std::nullopt;
    }
    return static_cast<Index>(*value) - 1;
  }

  void heading_and_sections() {
    while (more() && !notes_.full()) {
      const Word w = words_[next_++];
      if (w.text == "EOF") return;
      if (std::find(sections().begin(), sections().end(), w.text) != sections().end()) {
        section_ = w.text;
        if (more() && words_[next_].text == ":") ++next_;
        if (size_ <= 0) return complain(w.line, w.text + " comes before DIMENSION");
        read_section(w);
        if (notes_.has_errors()) return;
      } else {
        heading(w);
      }
    }
  }

  void heading(const Word& w) {
    const std::string value = value_of(w.line);
    if (w.text == "NAME") {
      stops_.name = value;
    } else if (w.text == "COMMENT" || w.text == "DISPLAY_DATA_TYPE" ||
               w.text == "NODE_COORD_TYPE") {
      return;
    } else if (w.text == "TYPE") {
      type_ = value.substr(0, value.find(' '));
      static const std::vector<std::string> known = {"TSP", "ATSP", "CVRP", "TOUR"};
      if (std::find(known.begin(), known.end(), type_) == known.end())
        complain(w.line, fmt::format("TYPE '{}' is not read: TSP, ATSP, CVRP and TOUR are",
                                     visible(value)));
    } else if (w.text == "DIMENSION" || w.text == "CAPACITY") {
      double number = 0.0;
      const auto [end, error] = std::from_chars(value.data(), value.data() + value.size(), number);
      constexpr double kMost = 1e8;
      if (error != std::errc() || end != value.data() + value.size() || number < 0.0 ||
          (w.text == "DIMENSION" && (number != std::floor(number) || number > kMost)))
        complain(w.line,
                 fmt::format("{} is '{}', which is no such number", w.text, visible(value)));
      else if (w.text == "DIMENSION")
        size_ = static_cast<Index>(number);
      else
        stops_.capacity = number;
    } else if (w.text == "EDGE_WEIGHT_TYPE") {
      pick(w, value, formula_names(), formula_);
    } else if (w.text == "EDGE_WEIGHT_FORMAT") {
      if (value != "FUNCTION") pick(w, value, matrix_forms(), form_);
    } else {
      std::vector<std::string> known = sections();
      for (const char* more : {"NAME", "TYPE", "COMMENT", "DIMENSION", "CAPACITY",
                               "EDGE_WEIGHT_TYPE", "EDGE_WEIGHT_FORMAT", "EOF"})
        known.emplace_back(more);
      complain(w.line,
               fmt::format("'{}' is not known{}", visible(w.text), nearest_hint(w.text, known)));
    }
  }

  void pick(const Word& w, const std::string& value, const std::vector<std::string>& known,
            std::string& into) {
    if (std::find(known.begin(), known.end(), value) == known.end())
      return complain(w.line, fmt::format("{} '{}' is not read: {} are", w.text, visible(value),
                                          listed(known)));
    into = value;
  }

  void read_section(const Word& w) {
    if (w.text == "NODE_COORD_SECTION") {
      coordinates(places_, formula_ == "EUC_3D");
    } else if (w.text == "DISPLAY_DATA_SECTION") {
      Places shown;
      coordinates(shown, false);
      stops_.map = std::move(shown);
    } else if (w.text == "EDGE_WEIGHT_SECTION") {
      weights(w);
    } else if (w.text == "DEMAND_SECTION") {
      stops_.demand.assign(at(size_), 0.0);
      for (Index k = 0; k < size_; ++k) {
        const auto stop = stop_here();
        const auto demand = stop ? figure_here("a demand") : std::nullopt;
        if (!demand) return;
        stops_.demand[at(*stop)] = *demand;
      }
    } else {
      bool ends = false;
      while (more() && !is_word() && !ends) {
        const auto stop = stop_here(&ends);
        if (!stop && !ends) return;
        if (ends) break;
        if (w.text == "TOUR_SECTION") {
          tour_.push_back(*stop);
        } else if (w.text == "DEPOT_SECTION") {
          stops_.depot = *stop;
        } else {
          const auto other = stop_here();
          if (!other) return;
          stops_.fixed.emplace_back(*stop, *other);
        }
      }
    }
  }

  void coordinates(Places& places, bool space) {
    places.x.assign(at(size_), 0.0);
    places.y.assign(at(size_), 0.0);
    if (space) places.z.assign(at(size_), 0.0);
    std::vector<char> seen(at(size_), 0);
    for (Index k = 0; k < size_; ++k) {
      const int line = more() ? words_[next_].line : 0;
      const auto stop = stop_here();
      if (!stop) return;
      if (std::exchange(seen[at(*stop)], 1))
        return complain(line, fmt::format("stop {} has its place twice", *stop + 1));
      for (std::vector<double>* axis : {&places.x, &places.y, &places.z}) {
        if (axis == &places.z && !space) continue;
        const auto value = figure_here("a coordinate");
        if (!value) return;
        (*axis)[at(*stop)] = *value;
      }
    }
  }

  // The usual forms of a matrix; columns of one triangle are rows of the other.
  void weights(const Word& w) {
    if (form_.empty()) return complain(w.line, "EDGE_WEIGHT_SECTION without EDGE_WEIGHT_FORMAT");
    const bool full = form_ == "FULL_MATRIX";
    const bool diagonal = form_.find("DIAG") != std::string::npos;
    const bool upper = form_.starts_with("UPPER") == form_.ends_with("ROW");
    matrix_.assign(at(size_) * at(size_), 0.0);
    for (Index i = 0; i < size_; ++i) {
      const Index first = full || !upper ? 0 : diagonal ? i : i + 1;
      const Index last = full || upper ? size_ : diagonal ? i + 1 : i;
      for (Index j = first; j < last; ++j) {
        const auto value = figure_here(fmt::format("the way from stop {} to {}", i + 1, j + 1));
        if (!value) return;
        matrix_[at(i) * at(size_) + at(j)] = *value;
        if (!full) matrix_[at(j) * at(size_) + at(i)] = *value;
      }
      matrix_[at(i) * at(size_) + at(i)] = 0.0;
    }
  }

  void put_together() {
    if (size_ <= 0) return complain(0, "there is no DIMENSION, or no stop");
    if (formula_.empty()) return complain(0, "there is no EDGE_WEIGHT_TYPE");
    for (Index i = 0; i < size_; ++i) stops_.names.push_back(std::to_string(i + 1));
    if (formula_ == "EXPLICIT") {
      if (matrix_.empty()) return complain(0, "there is no EDGE_WEIGHT_SECTION");
      stops_.distances = Distances(size_, std::move(matrix_));
      if (!stops_.map && !places_.x.empty()) stops_.map = std::move(places_);
    } else {
      if (places_.x.empty()) return complain(0, "there is no NODE_COORD_SECTION");
      constexpr Formula kBy[] = {Formula::euc_2d, Formula::euc_3d, Formula::ceil_2d,
                                 Formula::man_2d, Formula::max_2d, Formula::geo,
                                 Formula::att};
      const auto k = std::find(formula_names().begin(), formula_names().end(), formula_) -
                     formula_names().begin();
      if (!stops_.map) stops_.map = places_;
      if (formula_ == "GEO") std::swap(stops_.map->x, stops_.map->y);
      stops_.distances = Distances(kBy[k], std::move(places_));
    }
    if (type_ == "CVRP") {
      if (!stops_.capacity) complain(0, "vehicles without CAPACITY");
      if (stops_.demand.empty()) complain(0, "vehicles without DEMAND_SECTION");
      if (stops_.depot < 0) complain(0, "vehicles without DEPOT_SECTION");
    }
  }

  const std::string& file_;
  Diagnostics notes_;
  std::vector<Word> words_;
  std::size_t next_ = 0;
  std::string section_, type_, formula_, form_;
  Index size_ = 0;
  Places places_;
  std::vector<double> matrix_;
  std::vector<Index> tour_;
  StopsData stops_;
};

}  // namespace

Reading<StopsData> read_tsplib(const std::string& text, const std::string& file) {
  return Tsplib(text, file).stops();
}

Reading<std::vector<Index>> read_tsplib_tour(const std::string& text, const std::string& file,
                                             Index stops) {
  return Tsplib(text, file).tour(stops);
}

std::string tsplib_tour(const std::string& name, const std::vector<Index>& tour) {
  std::string out =
      fmt::format("NAME : {}\nTYPE : TOUR\nDIMENSION : {}\nTOUR_SECTION\n", name, tour.size());
  for (const Index stop : tour) out += std::to_string(stop + 1) + "\n";
  return out + "-1\nEOF\n";
}

}  // namespace kiteknot::data
