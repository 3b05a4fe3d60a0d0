#pragma once

namespace kiteknot::mip {

/// Which families take part.
struct CutSwitches {
  bool tableau = true;
  bool paths = true;
  static constexpr CutSwitches none() { return {false, false}; }
  [[nodiscard]] bool any() const noexcept { return tableau || paths; }
};

}  // namespace kiteknot::mip
