#include "mip/parallel/post_office.hpp"

#include <algorithm>
#include <chrono>

namespace kiteknot::mip {
namespace {

double now() {
  return std::chrono::duration<double>(std::chrono::steady_clock::now().time_since_epoch()).count();
}

}  // namespace

class PostOffice::Window final : public Transport {
 public:
  Window(PostOffice& office, int rank) : office_(office), rank_(rank) {}
  int rank() const override { return rank_; }
  int ranks() const override { return static_cast<int>(office_.boxes_.size()); }
  void send(int to, std::string bytes) override { office_.put(rank_, to, std::move(bytes)); }
  std::optional<Letter> receive(double seconds) override { return office_.take(rank_, seconds); }

 private:
  PostOffice& office_;
  int rank_;
};

std::unique_ptr<Transport> PostOffice::of(int rank) {
  return std::make_unique<Window>(*this, rank);
}

void PostOffice::put(int from, int to, std::string bytes) {
  const double way = way_ ? way_(from, to) : 0.0;
  if (way < 0.0) return;
  Box& box = boxes_[static_cast<std::size_t>(to)];
  const std::scoped_lock lock(box.mutex);
  double at = now() + way;
  for (const Waiting& w : box.letters)
    if (w.letter.from == from) at = std::max(at, w.at);
  box.letters.push_back({at, {from, std::move(bytes)}});
  box.came.notify_one();
}

std::optional<Letter> PostOffice::take(int rank, double seconds) {
  Box& box = boxes_[static_cast<std::size_t>(rank)];
  std::unique_lock lock(box.mutex);
  const double until = now() + seconds;
  for (;;) {
    const double time = now();
    double next = until;
    for (auto w = box.letters.begin(); w != box.letters.end(); ++w) {
      if (w->at <= time) {
        Letter letter = std::move(w->letter);
        box.letters.erase(w);
        return letter;
      }
      next = std::min(next, w->at);
    }
    if (time >= until) return std::nullopt;
    box.came.wait_for(lock, std::chrono::duration<double>(next - time));
  }
}

}  // namespace kiteknot::mip
