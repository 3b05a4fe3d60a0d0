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
  [[nodiscard]] bool any() const noexcept {
    return tableau || paths || cliques || halves || covers || implied;
  }
};

}  // namespace kiteknot::mip
