#pragma once
// Workers beside each other, a thread for each. Which of them is asked next, and what it is told,
// follows the work that each has done and not the time that it took: what ends is handed out in the
// order of work at its end, once every worker that is still busy has come further than that. The
// same input so takes the same course with the same number of workers, however the machine divides
// its time. A conservative simulation of events in parallel (Chandy and Misra 1979, "Distributed
// simulation: a case study in design and verification of distributed programs") is the same thing
// with work in place of time.
//
// A worker is given more than one order at a time, so that it has something to do while the others
// come as far. Who waits: one that has done all of its orders, until the others have come as far as
// the end of the first of those that were not handed out.

#include <condition_variable>
#include <deque>
#include <exception>
#include <functional>
#include <mutex>
#include <thread>

#include "mip/worker/worker.hpp"

namespace kiteknot::mip {

/// What a worker is given: nodes, what it needs to know, and how far it may go on below them.
struct Order {
  std::vector<Task> tasks;
  SharedKnowledge known;
  BatchLimits limits;
};

/// What it came to, by tasks (Worker::work_through).
struct Delivery {
  std::size_t seat = 0;
  std::vector<std::vector<NodeOutcome>> outcomes;
};

class Crew {
 public:
  /// Makes the worker of a seat; called on that seat's thread, so that all are made at once. Its
  /// wishes to stop tell the work to this clock.
  using Maker = std::function<std::unique_ptr<Worker>(WorkClock&)>;
  /// `first` sits at seat 0 and is the caller's, with its clock; the others are made.
  /// `at_handover`: called on the worker's thread where it takes an order and where it has done it;
  /// may be empty.
  Crew(Worker& first, WorkClock& first_clock, std::vector<Maker> others,
       std::function<void()> at_handover = {});
  Crew(const Crew&) = delete;
  Crew& operator=(const Crew&) = delete;
  /// All stop as soon as may be.
  ~Crew();

  [[nodiscard]] std::size_t size() const noexcept { return seats_.size(); }
  /// Orders that were given to the seat, and whose deliveries were not handed out.
  [[nodiscard]] std::size_t given(std::size_t seat) const { return seats_[seat]->given; }
  [[nodiscard]] bool all_idle() const;
  /// Once the threads have ended. Null: nobody has asked it for anything.
  [[nodiscard]] const Worker* worker(std::size_t seat) const { return seats_[seat]->worker; }
  /// Done after all that the seat was given before, but not before the end of the last delivery.
  void give(std::size_t seat, Order order);
  /// The next to end in the order of work; not all are idle. Waits for it. Throws what a worker has
  /// thrown.
  Delivery next();
  /// All that are busy stop as soon as may be, and what they come to is handed out as it comes.
  void halt() noexcept;
  /// The same, and ends the threads; workers stay, to be asked what they did.
  void stop();

  /// Seconds that all seats together had nothing to do, and of these, waited for the others to come
  /// as far as they were.
  struct Waits {
    double idle = 0.0, ahead = 0.0;
  };
  [[nodiscard]] Waits waits() const noexcept { return waits_; }
  /// From when it was made until it was stopped.
  [[nodiscard]] double seconds() const noexcept { return seconds_; }

 private:
  struct Ended {
    std::int64_t units = 0;
    std::vector<std::vector<NodeOutcome>> outcomes;
    std::exception_ptr error;
  };
  struct Asked {
    Order order;
    std::int64_t not_before = 0;
  };
  struct Seat {
    Worker* worker = nullptr;
    std::unique_ptr<Worker> own;
    Maker make;
    WorkClock own_clock;
    WorkClock* clock = nullptr;
    std::thread thread;
    std::condition_variable called;
    std::size_t given = 0;  // the coordinator's
    std::deque<Asked> asked;
    std::deque<Ended> ended;
    bool busy = false;
    double since = 0.0;  // when it had nothing to do any more, by the crew's watch
  };
  void serve(Seat& seat);
  std::vector<std::vector<NodeOutcome>> work(Seat& seat, const Asked& asked);
  /// The seat whose first delivery ended first, of those that are there.
  [[nodiscard]] std::optional<std::size_t> first_ended() const;
  [[nodiscard]] bool is_next(std::size_t first);
  void settle_wait(Seat& seat, double& to) const;

  mutable std::mutex mutex_;  // of what seats were asked, and what came of it
  std::condition_variable ended_;
  std::vector<std::unique_ptr<Seat>> seats_;
  std::function<void()> at_handover_;
  Stopwatch watch_;
  std::int64_t now_ = 0;  // the end of the last delivery
  bool closing_ = false, halted_ = false;
  Waits waits_;
  double seconds_ = 0.0;
};

}  // namespace kiteknot::mip
