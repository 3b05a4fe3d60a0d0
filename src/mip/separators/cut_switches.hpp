#pragma once

namespace kiteknot::mip {

/// Which families take part.
struct CutSwitches {
  bool tableau = true;
  bool paths = true;
  bool cliques = true;
  bool halves = true;
  bool covers = true;
  bool implied = true;
  static constexpr CutSwitches none() { return {false, false, false, false, false, false}; }
};

}  // namespace kiteknot::mip
