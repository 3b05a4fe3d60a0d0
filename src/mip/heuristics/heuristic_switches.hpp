#pragma once
// Which heuristics take part.

namespace kiteknot::mip {

struct HeuristicSwitches {
  bool construction = true;  ///< by mending what the goal or a relaxed point wants
  bool sequencing = true;    ///< orders on machines
  bool core = true;          ///< what lies around the root's relaxation
  bool rounding = true;      ///< of relaxed points, with propagation
  bool dives = true;         ///< from a relaxed point down to a plan
  bool near_plan = true;     ///< small searches where the best plan and a relaxed point agree
  bool alternation = true;   ///< factors of products held by turns
  bool pump = true;          ///< to and fro between whole and relaxed points
};

}  // namespace kiteknot::mip
