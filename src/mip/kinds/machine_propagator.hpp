#pragma once
// What machines conclude, and why: tasks begin after sets that have to come first (edge finding),
// and after all that are known to come before them, whatever the order of these.

#include "mip/conflict/explanation.hpp"
#include "mip/propagators/propagator.hpp"
#include "mip/structures/precedences.hpp"
#include "structures/sequences/one_machine.hpp"

namespace kiteknot::mip {

/// Tasks of one machine with the limits that columns have, or had.
class MachineTimes {
 public:
  /// `bound(column, upper)`. `turned`: time runs backwards. False where a column has no end.
  template <class Bound>
  bool read(const Problem& problem, const MachineTasks& machine, bool turned, const Bound& bound);
  [[nodiscard]] const std::vector<structures::MachineTask>& tasks() const noexcept {
    return tasks_;
  }
  /// All limits and times are whole numbers, exact in doubles.
  [[nodiscard]] bool whole() const noexcept { return whole_; }

 private:
  std::vector<structures::MachineTask> tasks_;
  bool whole_ = true;
};

class MachinePropagator final : public Propagator {
 public:
  /// `found` outlives it.
  MachinePropagator(const Precedences& found, std::uint8_t kind, Domain& domain);
  std::string_view name() const override { return "machines"; }
  bool propagate(Domain& domain, const Allowance& allowance) override;
  void forget(Domain& domain) override;

 private:
  void follow(Domain& domain);
  bool look(std::size_t m, Domain& domain);
  bool look(std::size_t m, Domain& domain, bool turned);
  void find_before(const MachineTasks& machine, const Domain& domain, std::size_t task,
                   bool turned);

  const Precedences& found_;
  std::uint8_t kind_;
  std::size_t reader_;
  std::vector<std::vector<std::size_t>> machines_of_;  // by columns
  std::vector<std::size_t> queue_;
  std::vector<char> awake_;
  MachineTimes times_;
  structures::OneMachine one_;
  std::vector<double> release_;
  std::vector<std::size_t> before_;
};

/// Which limits and choices a conclusion of one machine followed from.
class MachineReasons {
 public:
  MachineReasons(const Problem& problem, const MachineTasks& machine, Explanation& why)
      : p_(problem), machine_(machine), why_(why) {}
  bool explain(const Change* concluded);

 private:
  bool explain_conflict();
  bool explain_start(std::size_t task, double start, bool turned);
  bool tell(bool turned);
  [[nodiscard]] bool chosen(const Choice& choice) const;

  const Problem& p_;
  const MachineTasks& machine_;
  Explanation& why_;
  MachineTimes times_;
  structures::OneMachine one_;
  std::vector<structures::TaskNeed> needs_;
  std::vector<std::size_t> before_;
};

}  // namespace kiteknot::mip
