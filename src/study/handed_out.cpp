#include "study/handed_out.hpp"

#include <algorithm>
#include <atomic>
#include <condition_variable>
#include <deque>
#include <list>
#include <mutex>
#include <thread>
#include <vector>

#include "base/lanes.hpp"
#include "base/pack.hpp"
#include "base/work.hpp"
#include "kiteknot/errors.hpp"

namespace kiteknot {
namespace {

constexpr std::uint32_t kHandedVersion = 1;  // changes whenever a letter does
constexpr double kLook = 0.02, kSign = 1.0;  // seconds

enum class Word : std::uint8_t {
  wants,    // a process has a lane free; with the mark of what it was asked
  job,      // its number
  done,     // what came of it
  back,     // it could not be done there
  sign,     // still there
  nothing,  // is left for it
  over      // nor is anything wanted any more
};

template <class... T>
std::string letter_of(Word word, const T&... values) {
  Packer packer;
  packer(kHandedVersion, word, values...);
  return packer.take();
}

Word word_of(Unpacker& unpacker) {
  std::uint32_t version = 0;
  Word word{};
  unpacker(version, word);
  if (version != kHandedVersion) throw DamagedBytes();
  return word;
}

// Rank 0's: what is left, and who has what.
class Dispatcher {
 public:
  Dispatcher(Transport& transport, const HandedOut& work)
      : transport_(transport),
        work_(work),
        heard_(static_cast<std::size_t>(transport.ranks()), 0.0),
        has_(work.jobs, 0) {
    for (std::size_t job = 0; job < work.jobs; ++job) left_.push_back(job);
  }

  void run() {
    std::thread carrier([this] { carry(); });
    try {
      in_lanes(work_.lanes, work_.lanes, [this](std::size_t, std::size_t) { lane(); });
    } catch (...) {
      end();
      carrier.join();
      throw;
    }
    end();
    carrier.join();
    if (!trouble_.empty()) throw UsageError(trouble_);
  }

 private:
  void end() {
    const std::scoped_lock lock(mutex_);
    over_ = true;
    changed_.notify_all();
  }

  // Nothing: all is done, or nothing more is to be begun.
  std::optional<std::size_t> next() {
    std::unique_lock lock(mutex_);
    for (;;) {
      if (over_ || !trouble_.empty() || work_.stopped()) return std::nullopt;
      if (!left_.empty()) {
        const std::size_t job = left_.front();
        left_.pop_front();
        return job;
      }
      if (away_ == 0) return std::nullopt;
      // What is away may come back undone.
      changed_.wait_for(lock, std::chrono::duration<double>(kLook));
    }
  }

  void lane() {
    while (const std::optional<std::size_t> job = next()) {
      const std::string came = work_.act(*job);
      const std::scoped_lock lock(taking_);
      work_.take(*job, came);
    }
  }

  void carry() {
    try {
      for (;;) {
        {
          const std::scoped_lock lock(mutex_);
          if (over_) break;
        }
        if (std::optional<Letter> came = transport_.receive(kLook)) handle(*came);
        miss_the_silent();
      }
      for (int r = 1; r < transport_.ranks(); ++r) transport_.send(r, letter_of(Word::over));
    } catch (const std::exception&) {  // it carries nothing any more: all is done here
      const std::scoped_lock lock(mutex_);
      for (std::size_t job = 0; job < has_.size(); ++job) take_back(job);
    }
  }

  void handle(const Letter& came) {
    const auto from = static_cast<std::size_t>(came.from);
    Unpacker unpacker(came.bytes);
    const Word word = word_of(unpacker);
    {
      const std::scoped_lock lock(mutex_);
      heard_[from] = clock_.seconds();
    }
    if (word == Word::wants) {
      std::uint64_t mark = 0;
      unpacker(mark);
      answer(came.from, mark);
    } else if (word == Word::done || word == Word::back) {
      std::uint64_t job = 0;
      std::string bytes;
      unpacker(job, bytes);
      if (job >= has_.size()) throw DamagedBytes();
      const bool done = word == Word::done && settle(static_cast<std::size_t>(job), came.from);
      if (done) {
        const std::scoped_lock lock(taking_);
        work_.take(static_cast<std::size_t>(job), bytes);
      }
      const std::scoped_lock lock(mutex_);
      if (done) --away_;  // its result is there before anybody can think that all is
      if (word == Word::back) take_back(static_cast<std::size_t>(job));
      changed_.notify_all();
    }
  }

  // Whether the job was his: what was taken from one who fell silent is another's.
  bool settle(std::size_t job, int from) {
    const std::scoped_lock lock(mutex_);
    if (has_[job] != from) return false;
    has_[job] = 0;
    return true;
  }

  void answer(int to, std::uint64_t mark) {
    std::optional<std::size_t> job;
    {
      const std::scoped_lock lock(mutex_);
      if (mark != work_.mark && trouble_.empty())
        trouble_ =
            "process " + std::to_string(to) + " has other cases or wishes, or another version";
      if (trouble_.empty() && !work_.stopped() && !left_.empty()) {
        job = left_.front();
        left_.pop_front();
        has_[*job] = to;
        ++away_;
      }
      changed_.notify_all();
    }
    if (job)
      transport_.send(to, letter_of(Word::job, static_cast<std::uint64_t>(*job)));
    else
      transport_.send(to, letter_of(Word::nothing));
  }

  // With mutex_ held.
  void take_back(std::size_t job) {
    if (has_[job] == 0) return;
    has_[job] = 0;
    --away_;
    left_.push_front(job);
    changed_.notify_all();
  }

  void miss_the_silent() {
    const std::scoped_lock lock(mutex_);
    for (std::size_t job = 0; job < has_.size(); ++job)
      if (has_[job] != 0 &&
          clock_.seconds() > heard_[static_cast<std::size_t>(has_[job])] + work_.silent)
        take_back(job);
  }

  Transport& transport_;
  const HandedOut& work_;
  std::mutex mutex_, taking_;
  std::condition_variable changed_;
  std::deque<std::size_t> left_;
  std::vector<double> heard_;  // by rank: when
  std::vector<int> has_;       // by job: the rank that it was given to; 0: none
  std::size_t away_ = 0;
  bool over_ = false;
  std::string trouble_;
  Stopwatch clock_;
};

}  // namespace

void hand_out(Transport& transport, const HandedOut& work) {
  Dispatcher(transport, work).run();
}

void do_handed_out(Transport& transport, const HandedOut& work) {
  struct Lane {
    std::thread thread;
    std::uint64_t job = 0;
    std::string came;
    bool failed = false;
    std::atomic<bool> ended = false;
  };
  std::list<Lane> lanes;
  const Stopwatch clock;
  std::size_t asked = 0;
  bool nothing = false;
  double told = 0.0, heard = 0.0;
  const auto begin = [&](std::uint64_t job) {
    Lane& lane = lanes.emplace_back();
    lane.job = job;
    lane.thread = std::thread([&lane, &work] {
      try {
        lane.came = work.act(static_cast<std::size_t>(lane.job));
      } catch (const std::exception&) {  // rank 0 will see for itself
        lane.failed = true;
      }
      lane.ended = true;
    });
  };
  const auto gather = [&] {
    for (auto it = lanes.begin(); it != lanes.end();) {
      if (!it->ended) {
        ++it;
        continue;
      }
      it->thread.join();
      transport.send(0, letter_of(it->failed ? Word::back : Word::done, it->job, it->came));
      it = lanes.erase(it);
    }
  };
  try {
    while (!nothing || !lanes.empty()) {
      while (!nothing && asked + lanes.size() < work.lanes) {
        transport.send(0, letter_of(Word::wants, work.mark));
        ++asked;
      }
      if (const std::optional<Letter> came = transport.receive(kLook)) {
        heard = clock.seconds();
        Unpacker unpacker(came->bytes);
        const Word word = word_of(unpacker);
        if (word == Word::nothing || word == Word::over) nothing = true;
        if (word == Word::over && !lanes.empty()) work.unwanted();
        if (word == Word::job) {
          --asked;
          std::uint64_t job = 0;
          unpacker(job);
          if (job >= work.jobs) throw DamagedBytes();
          begin(job);
        }
      }
      gather();
      if (clock.seconds() > told + kSign) {
        told = clock.seconds();
        transport.send(0, letter_of(Word::sign));
      }
      // Nobody answers: whoever asked is gone.
      if (lanes.empty() && clock.seconds() > heard + work.silent) nothing = true;
    }
  } catch (...) {
    for (Lane& lane : lanes) lane.thread.join();
    throw;
  }
}

}  // namespace kiteknot
