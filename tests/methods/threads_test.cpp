// Several searches at the same time in one program: they share nothing that changes; or they search
// one tree, with letters that somebody else carries.
#include <deque>
#include <mutex>
#include <thread>

#include <catch2/catch.hpp>

#include "base/random.hpp"
#include "kiteknot/kiteknot.hpp"
#include "support/knot.hpp"

using namespace kiteknot;

namespace {

// Items for bags with a logical rule, a curve and a real decision.
std::string bags(std::uint64_t seed) {
  Random random(seed);
  std::string text = "table item key name rows\n  name,weight,worth\n";
  for (int k = 0; k < 14; ++k)
    text += "  i" + std::to_string(k) + "," + std::to_string(random.between(3, 30)) + "," +
            std::to_string(random.between(5, 60)) + "\n";
  return text +
         "decide take[i in item] binary\n"
         "decide cord real 0 .. 40\n"
         "maximize worth: total(i.worth * take[i] over i in item) - 1.5 * cord\n"
         "rule room: total(i.weight * take[i] over i in item) <= 70 + cord\n"
         "rule both: take[\"i0\"] implies take[\"i3\"]\n"
         "rule few: total(take[i] over i in item) <= 6\n";
}

}  // namespace

TEST_CASE("two searches of one model at the same time answer like one", "[methods][threads]") {
  const Model model = test::model_of(bags(4));
  const Result alone = solve(model);
  REQUIRE(alone.outcome == Outcome::optimal);
  std::vector<std::optional<Result>> found(2);
  std::thread first([&] { found[0] = solve(model); });
  std::thread second([&] { found[1] = solve(model); });
  first.join();
  second.join();
  for (const auto& r : found) {
    REQUIRE(r->outcome == Outcome::optimal);
    CHECK(r->goal() == alone.goal());
    CHECK(r->plan->values() == alone.plan->values());
    CHECK(r->search.nodes == alone.search.nodes);
  }
}

TEST_CASE("a search, a question and a sweep run beside each other, and one of them can be stopped",
          "[methods][threads]") {
  const Model model = test::model_of(bags(9));
  const Result alone = solve(model);
  const StopSwitch by_hand;
  std::optional<Result> stopped;
  std::optional<Firmness> firm;
  std::optional<Variation> rules;
  std::thread first([&] {
    SolveOptions options;
    options.stop = by_hand.token();
    stopped = solve(model, options);
  });
  std::thread second([&] { firm = firmness(model, {}, 60); });
  std::thread third([&] { rules = without_each(model); });
  by_hand.press();
  first.join();
  second.join();
  third.join();
  CHECK((stopped->outcome == Outcome::optimal || stopped->search.stopped_by == "hand"));
  CHECK(firm->best.goal() == alone.goal());
  CHECK(rules->base.goal == alone.goal());
}

TEST_CASE("copies of one model are changed, studied and solved beside each other",
          "[methods][threads]") {
  const Model model = test::model_of(bags(3));
  const Rational alone = solve(model).goal();
  constexpr int kThreads = 4, kRounds = 10;
  std::vector<Rational> goals(kThreads), studied(kThreads);
  std::vector<std::thread> threads;
  for (std::size_t t = 0; t < kThreads; ++t)
    threads.emplace_back([&, t] {
      for (int round = 0; round < kRounds; ++round) {
        Model own = model;  // shares its data with the others until it changes
        const Decision more = own.binary("more " + std::to_string(t)).only();
        own.add_to_goal(0, more * static_cast<int>(t));
        const Model kept = own;
        own.rule("none of it", more <= 0);
        Study study(own);
        studied[t] = study.solve().goal();
        goals[t] = solve(kept).goal();
      }
    });
  for (std::thread& thread : threads) thread.join();
  const int sign = model.goal_sense() == Sense::maximize ? 1 : 0;
  for (std::size_t t = 0; t < kThreads; ++t) {
    CHECK(studied[t] == alone);
    CHECK(goals[t] == alone + Rational(sign * static_cast<int>(t)));
  }
}

namespace {

// What a user may bring: boxes under one lock.
struct Boxes {
  std::mutex mutex;
  std::vector<std::deque<Letter>> letters;
};
class OwnTransport final : public Transport {
 public:
  OwnTransport(std::shared_ptr<Boxes> boxes, int rank) : boxes_(std::move(boxes)), rank_(rank) {}
  int rank() const override { return rank_; }
  int ranks() const override { return static_cast<int>(boxes_->letters.size()); }
  void send(int to, std::string bytes) override {
    const std::scoped_lock lock(boxes_->mutex);
    boxes_->letters[static_cast<std::size_t>(to)].push_back({rank_, std::move(bytes)});
  }
  std::optional<Letter> receive(double seconds) override {
    for (int look = 0; look < 2; ++look) {
      {
        const std::scoped_lock lock(boxes_->mutex);
        auto& own = boxes_->letters[static_cast<std::size_t>(rank_)];
        if (!own.empty()) {
          Letter letter = std::move(own.front());
          own.pop_front();
          return letter;
        }
      }
      if (look == 0) std::this_thread::sleep_for(std::chrono::duration<double>(seconds));
    }
    return std::nullopt;
  }

 private:
  std::shared_ptr<Boxes> boxes_;
  int rank_;
};

}  // namespace

TEST_CASE("ranks with a transport of the user's own answer as one does", "[methods][threads]") {
  const std::string text = [] {
    Random random(12);
    std::string rows, limits;
    for (int k = 0; k < 40; ++k) {
      rows += "  i" + std::to_string(k) + "," + std::to_string(random.between(300, 700));
      for (int r = 0; r < 4; ++r) rows += "," + std::to_string(random.between(1, 1000));
      rows += "\n";
    }
    for (int r = 0; r < 4; ++r) {
      const std::string name(1, static_cast<char>('a' + r));
      limits += "rule r" + name + ": total(i." + name + " * take[i] over i in item) <= 10000\n";
    }
    return "table item key name rows\n  name,worth,a,b,c,d\n" + rows +
           "decide take[i in item] binary\n"
           "maximize worth: total(i.worth * take[i] over i in item)\n" +
           limits;
  }();
  const Result alone = solve(test::model_of(text), {.threads = 1});
  REQUIRE(alone.outcome == Outcome::optimal);
  const auto boxes = std::make_shared<Boxes>();
  boxes->letters.resize(3);
  std::vector<std::optional<Result>> found(3);
  std::vector<std::thread> threads;
  for (int r = 0; r < 3; ++r)
    threads.emplace_back([&, r] {
      StopSwitch stop;
      SolveOptions options;
      options.threads = 1;
      options.stop = stop.token();
      options.ranks = std::make_shared<RankGroup>(std::make_unique<OwnTransport>(boxes, r),
                                                  [&stop] { stop.press(); });
      found[static_cast<std::size_t>(r)] = solve(test::model_of(text), options);
    });
  for (std::thread& t : threads) t.join();
  CHECK(found[0]->outcome == Outcome::optimal);
  CHECK(found[0]->goal() == alone.goal());
}
