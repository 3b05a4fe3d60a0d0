#pragma once

namespace kiteknot::mip {

/// In the order in which they are asked.
enum class CutFamily { cliques, implied, covers, paths, halves, tableau };

/// Which families take part.
struct CutSwitches {
  bool tableau = true;
  bool paths = true;
  bool cliques = true;
  bool halves = true;
  bool covers = true;
  bool implied = true;
  bool below = true;  ///< at the first branchings, too, where paths brought most at the root
  static constexpr CutSwitches none() { return {false, false, false, false, false, false, false}; }
  static constexpr CutSwitches only_paths() {
    CutSwitches paths = none();
    paths.paths = true;
    return paths;
  }
};

}  // namespace kiteknot::mip
