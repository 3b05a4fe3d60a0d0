#pragma once
// Drawings as SVG, in the festival's colours: a few shapes, texts that stay off each other, and the
// way from places to pixels. SVG: W3C 2011, "Scalable Vector Graphics 1.1".

#include <string>
#include <utility>
#include <vector>

namespace kiteknot::report {

// Sailcloth, ink, and the cords and sails of kites.
namespace colours {
inline constexpr const char* kPaper = "#fbfaf5";
inline constexpr const char* kInk = "#23303a";
inline constexpr const char* kFaint = "#d9d5c7";
inline constexpr const char* kRed = "#c2553a";
inline constexpr const char* kBlue = "#2f6f8f";
inline constexpr const char* kSand = "#efe6cf";
inline constexpr std::size_t kNumber = 8;
/// One after the other, for loops and vans; after so many the first one again.
const char* of_number(std::size_t number);
}  // namespace colours

/// The colours of a figure on a light or a dark ground. In grey, too, `first` is darker than
/// `second` on light ground and the other way round on dark.
struct Ground {
  const char *paper, *ink, *soft, *faint, *shade;
  const char *first, *second, *good, *bad;
};
const Ground& ground(bool dark);

struct Spot {
  double x = 0.0, y = 0.0;
};

/// A rectangle of the page, in pixels.
struct Area {
  double left = 0.0, top = 0.0, width = 0.0, height = 0.0;
  [[nodiscard]] bool meets(const Area& other) const {
    return left < other.left + other.width && other.left < left + width &&
           top < other.top + other.height && other.top < top + height;
  }
  [[nodiscard]] bool holds(const Area& other) const {
    return other.left >= left && other.top >= top && other.left + other.width <= left + width &&
           other.top + other.height <= top + height;
  }
};

class Drawing {
 public:
  Drawing(double width, double height);
  Drawing(double width, double height, const Ground& ground);
  void line(Spot from, Spot to, const char* colour, double width);
  /// Of short strokes, or of dots.
  void dashes(Spot from, Spot to, const char* colour, double width, bool dots = false);
  void box(const Area& area, const char* fill, const char* edge = nullptr, double width = 1.0);
  /// Upright words, from below upward; `at`: the left end of their base line.
  void text_upward(Spot at, const std::string& words, double size, const char* colour);
  /// A closed one, or an open one.
  void path(const std::vector<Spot>& spots, bool closed, const char* colour, double width,
            const char* fill = "none");
  /// SVG path data as they are.
  void shape(const std::string& data, const char* colour, double width, const char* fill = "none");
  void dot(Spot at, double radius, const char* fill, const char* edge = nullptr);
  enum class Side { left, middle, right };
  /// `at`: the left end, middle or right end of its base line.
  void text(Spot at, const std::string& words, double size, const char* colour = colours::kInk,
            Side side = Side::left, bool bold = false);
  /// The same with an edge in the colour of the paper, so that it can be read across lines.
  void text_over(Spot at, const std::string& words, double size, const char* colour, Side side,
                 bool bold);
  [[nodiscard]] std::string finish() &&;
  [[nodiscard]] const char* ink() const noexcept { return ink_; }

 private:
  std::string text_;
  const char *ink_ = colours::kInk, *paper_ = colours::kPaper;
};

/// A figure with six digits that count: for a scale.
std::string brief_figure(double value);

/// About how wide words are, rather too wide than too narrow.
double width_of_words(const std::string& words, double size);
/// As much of them as fits, with "..." where something is left out.
std::string fitted(const std::string& words, double size, double width);

/// Places to pixels, with one scale both ways; y goes upward in places.
class MapFrame {
 public:
  /// `stretch`: of x, for degrees of longitude.
  MapFrame(const std::vector<double>& x, const std::vector<double>& y, double stretch,
           const Area& area);
  [[nodiscard]] Spot spot(double x, double y) const {
    return {left_ + (x * stretch_ - low_x_) * scale_, bottom_ - (y - low_y_) * scale_};
  }
  /// Pixels of 1 in y.
  [[nodiscard]] double scale() const noexcept { return scale_; }

 private:
  double stretch_, scale_ = 1.0, low_x_ = 0.0, low_y_ = 0.0, left_ = 0.0, bottom_ = 0.0;
};

/// Finds room for names beside their spots; what has none stays unnamed.
class Labels {
 public:
  explicit Labels(const Area& area) : area_(area) {}
  void keep_free(const Area& area) { taken_.push_back(area); }
  /// The same for a mark, whose name is to stand nearer to it than to others.
  void keep_mark(Spot at, double radius) {
    marks_.push_back(at);
    keep_free({at.x - radius, at.y - radius, 2.0 * radius, 2.0 * radius});
  }
  /// Lines are kept free where that is possible.
  void keep_clear_of(Spot from, Spot to) { lines_.emplace_back(from, to); }
  /// True: it was drawn. `radius`: of the mark at the spot.
  bool place(Drawing& drawing, Spot at, double radius, const std::string& words, double size,
             bool whatever_it_crosses, bool bold = false);

 private:
  [[nodiscard]] int crossings(const Area& box) const;
  [[nodiscard]] int others_near(const Area& box, Spot own) const;
  Area area_;
  std::vector<Area> taken_;
  std::vector<Spot> marks_;
  std::vector<std::pair<Spot, Spot>> lines_;
};

}  // namespace kiteknot::report
