#include "mip/parallel/crew.hpp"

#include <algorithm>

#include "base/check.hpp"

namespace kiteknot::mip {

Crew::Crew(Worker& first, WorkClock& first_clock, std::vector<Maker> others,
           std::function<void()> at_handover)
    : at_handover_(std::move(at_handover)) {
  seats_.push_back(std::make_unique<Seat>());
  seats_[0]->worker = &first;
  seats_[0]->clock = &first_clock;
  first_clock.set(0);
  for (Maker& make : others) {
    seats_.push_back(std::make_unique<Seat>());
    Seat& seat = *seats_.back();
    seat.make = std::move(make);
    seat.clock = &seat.own_clock;
  }
  for (const auto& seat : seats_)
    seat->clock->when_reached([this] {
      { const std::scoped_lock lock(mutex_); }  // whoever looks has begun to wait
      ended_.notify_one();
    });
  try {
    for (const auto& seat : seats_)
      seat->thread = std::thread([this, s = seat.get()] { serve(*s); });
  } catch (...) {  // the machine has no thread left
    stop();
    throw;
  }
}

Crew::~Crew() {
  stop();
}

void Crew::stop() {
  halt();
  {
    const std::scoped_lock lock(mutex_);
    if (!std::exchange(closing_, true)) seconds_ = watch_.seconds();
    for (const auto& seat : seats_) seat->called.notify_one();
  }
  for (const auto& seat : seats_)
    if (seat->thread.joinable()) seat->thread.join();
}

void Crew::halt() noexcept {
  halted_ = true;
  for (const auto& seat : seats_) seat->clock->halt();
}

bool Crew::all_idle() const {
  return std::all_of(seats_.begin(), seats_.end(),
                     [](const auto& seat) { return seat->given == 0; });
}

void Crew::give(std::size_t k, Order order) {
  Seat& seat = *seats_[k];
  const std::scoped_lock lock(mutex_);
  ++seat.given;
  if (!seat.busy && seat.asked.empty())
    settle_wait(seat, seat.ended.empty() ? waits_.idle : waits_.ahead);
  seat.asked.push_back({std::move(order), now_});
  seat.called.notify_one();
}

// It has had nothing to do: until now for the others' sake, from now on for want of a branch.
void Crew::settle_wait(Seat& seat, double& to) const {
  const double now = watch_.seconds();
  to += now - std::exchange(seat.since, now);
}

std::optional<std::size_t> Crew::first_ended() const {
  std::optional<std::size_t> first;
  for (std::size_t k = 0; k < seats_.size(); ++k)
    if (!seats_[k]->ended.empty() &&
        (!first || seats_[k]->ended.front().units < seats_[*first]->ended.front().units))
      first = k;
  return first;
}

// Whether nothing that ends later comes before it; what is behind tells when it has come as far.
bool Crew::is_next(std::size_t first) {
  if (halted_) return true;
  const std::int64_t end = seats_[first]->ended.front().units;
  for (std::size_t k = 0; k < seats_.size(); ++k) {
    Seat& seat = *seats_[k];
    if (!seat.ended.empty() || (!seat.busy && seat.asked.empty())) continue;
    if (!seat.busy && seat.asked.front().not_before > end) continue;
    const std::int64_t past = k < first ? end + 1 : end;  // of equals the first seat comes first
    if (seat.clock->units() >= past) continue;
    seat.clock->await(past);
    if (seat.clock->units() < past) return false;
  }
  return true;
}

Delivery Crew::next() {
  std::unique_lock lock(mutex_);
  std::optional<std::size_t> k;
  ended_.wait(lock, [&] { return (k = first_ended()) && is_next(*k); });
  Seat& seat = *seats_[*k];
  Ended ended = std::move(seat.ended.front());
  seat.ended.pop_front();
  --seat.given;
  if (!seat.busy && seat.asked.empty()) settle_wait(seat, waits_.ahead);
  if (ended.error) std::rethrow_exception(ended.error);
  now_ = std::max(now_, ended.units);
  return {*k, std::move(ended.outcomes)};
}

void Crew::serve(Seat& seat) {
  std::unique_lock lock(mutex_);
  for (;;) {
    seat.called.wait(lock, [&] { return closing_ || !seat.asked.empty(); });
    if (seat.asked.empty()) return;
    const Asked asked = std::move(seat.asked.front());
    seat.asked.pop_front();
    seat.busy = true;
    lock.unlock();
    Ended ended;
    try {
      if (at_handover_) at_handover_();
      ended.outcomes = work(seat, asked);
      if (at_handover_) at_handover_();
    } catch (...) {
      ended.error = std::current_exception();
    }
    ended.units = seat.clock->units();
    lock.lock();
    seat.busy = false;
    seat.ended.push_back(std::move(ended));
    if (seat.asked.empty()) seat.since = watch_.seconds();
    ended_.notify_one();
  }
}

std::vector<std::vector<NodeOutcome>> Crew::work(Seat& seat, const Asked& asked) {
  if (seat.worker == nullptr) {
    seat.own = seat.make(*seat.clock);
    seat.worker = seat.own.get();
  }
  if (asked.not_before > seat.clock->units()) seat.clock->set(asked.not_before);
  return seat.worker->work_through(asked.order.tasks, asked.order.known, asked.order.limits);
}

}  // namespace kiteknot::mip
