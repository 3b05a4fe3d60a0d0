#pragma once
// Drawing with gnuplot and rsvg-convert, where they are installed.

#include <string>

namespace kiteknot::cli {

/// A name for the unfinished figure beside it, and whether gnuplot can be run.
bool can_draw();
/// Runs the program, which draws into `unfinished`, and renames that to `file`. Throws IoError
/// where nothing comes out.
void draw(const std::string& program, const std::string& unfinished, const std::string& file);
std::string unfinished_name(const std::string& file);

/// Whether SVG can be painted as PNG.
bool can_paint();
/// Throws OutputError where nothing comes out.
void paint(const std::string& svg, const std::string& file);

}  // namespace kiteknot::cli
