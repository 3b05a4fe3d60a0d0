// Any lines at all are steps at a tableau or answered with messages, and what was done can be taken
// back and told.
#include <cstdint>
#include <cstdlib>

#include "kiteknot/kiteknot.hpp"

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
  static const kiteknot::Model model =
      kiteknot::parse_knot(
          "model \"Hour\"\ndecide box integer 0 .. inf\ndecide delta integer 0 .. 6\ndecide sled "
          "real -1 .. inf\n"
          "maximize joy: 3 * box + 9 * delta + 7 * sled\nrule spars: 4 * box + delta + 2 * sled <= "
          "11\n"
          "rule cord: 3 <= 4 * box + 3 * delta + 2 * sled <= 16\nrule even: box - sled = 0\n",
          "hour.knot", "")
          .value();
  kiteknot::Workbench bench(model);
  const std::string first = kiteknot::tableau_page(bench.tableau());
  const std::string text(reinterpret_cast<const char*>(data), size);
  constexpr int kMostSteps = 40;
  std::size_t at = 0;
  for (int step = 0; step < kMostSteps && at < text.size(); ++step) {
    const std::size_t end = std::min(text.find('\n', at), text.size());
    const auto deed = bench.step(text.substr(at, end - at));
    if (deed.ok()) (void)kiteknot::deed_page(bench, deed.value());
    at = end + 1;
  }
  (void)kiteknot::story_document(bench, {.form = kiteknot::PageForm::tex});
  while (bench.num_deeds() > 0)
    if (!bench.step("undo").ok()) std::abort();
  if (kiteknot::tableau_page(bench.tableau()) != first) std::abort();
  return 0;
}
