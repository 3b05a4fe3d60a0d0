#include "base/lanes.hpp"

#include <algorithm>
#include <atomic>
#include <exception>
#include <mutex>
#include <system_error>
#include <thread>
#include <vector>

namespace kiteknot {
namespace {

// What was thrown first, by the order of jobs.
class FirstError {
 public:
  template <class Act>
  void guard(std::size_t job, Act&& act) {
    try {
      act();
    } catch (...) {
      const std::scoped_lock lock(mutex_);
      if (!error_ || job < job_) {
        error_ = std::current_exception();
        job_ = job;
      }
      any_ = true;
    }
  }
  [[nodiscard]] bool any() const { return any_; }
  void rethrow() const {
    if (error_) std::rethrow_exception(error_);
  }

 private:
  std::mutex mutex_;
  std::exception_ptr error_;
  std::size_t job_ = 0;
  std::atomic<bool> any_ = false;
};

void run_lanes(std::size_t lanes, const std::function<void(std::size_t lane)>& lane) {
  std::vector<std::thread> threads;
  std::size_t next = 1;
  try {
    for (; next < lanes; ++next) threads.emplace_back([&lane, next] { lane(next); });
  } catch (const std::system_error&) {  // the rest is done by the caller
  }
  lane(0);
  for (; next < lanes; ++next) lane(next);
  for (std::thread& t : threads) t.join();
}

}  // namespace

void in_lanes(std::size_t jobs, std::size_t lanes,
              const std::function<void(std::size_t job, std::size_t lane)>& act) {
  FirstError error;
  lanes = std::clamp<std::size_t>(lanes, 1, std::max<std::size_t>(jobs, 1));
  run_lanes(lanes, [&](std::size_t lane) {
    for (std::size_t job = lane; job < jobs && !error.any(); job += lanes)
      error.guard(job, [&] { act(job, lane); });
  });
  error.rethrow();
}

void as_they_come(std::size_t jobs, std::size_t lanes,
                  const std::function<void(std::size_t job)>& act) {
  FirstError error;
  std::atomic<std::size_t> next = 0;
  run_lanes(std::clamp<std::size_t>(lanes, 1, std::max<std::size_t>(jobs, 1)), [&](std::size_t) {
    for (std::size_t job = next++; job < jobs && !error.any(); job = next++)
      error.guard(job, [&] { act(job); });
  });
  error.rethrow();
}

}  // namespace kiteknot
