// Rules that are too many to state: no two lanterns too near each other, added where a plan breaks
// one.
#include <iostream>

#include "kiteknot/generator.hpp"
#include "kiteknot/solve.hpp"

namespace kk = kiteknot;

class Apart final : public kk::Generator {
 public:
  explicit Apart(kk::Decisions hangs) : hangs_(std::move(hangs)) {}
  void look(const kk::Candidate& candidate, kk::Additions& additions) override {
    for (int a = 0; a < hangs_.size(); ++a)
      for (int b = a + 1; b < hangs_.size() && b <= a + 2; ++b)
        if (candidate[hangs_.member(a)] + candidate[hangs_.member(b)] > 1.5)
          additions.rule("apart " + std::to_string(a) + " " + std::to_string(b),
                         hangs_.member(a) + hangs_.member(b) <= 1);
  }
  std::unique_ptr<kk::Generator> twin() const override { return std::make_unique<Apart>(*this); }

 private:
  kk::Decisions hangs_;
};

int main() {
  const auto hooks = kk::Table::of_figures(
      "hooks", "hook", "light", {{"a", 5}, {"b", 8}, {"c", 6}, {"d", 4}, {"e", 7}, {"f", 3}});
  kk::Model model{"Lanterns"};
  const auto hangs = model.binary("hangs", hooks);
  model.maximize("light", total(hooks, [&](kk::Row h) { return h.number("light") * hangs[h]; }));
  kk::SolveOptions options;
  options.generator = std::make_shared<Apart>(hangs);
  const kk::Result best = kk::solve(model, options);
  std::cout << "light " << best.goal() << " with " << best.generated.size() << " rules added\n";
  for (const auto& name : best.chosen(hangs)) std::cout << "  " << name << "\n";
}
