#include "words.hpp"

#include "command.hpp"

namespace kiteknot::cli {
namespace {

class PlainWords final : public CLI::Formatter {
 public:
  std::string make_option_opts(const CLI::Option* option) const override {
    if (option->get_type_size() == 0) return {};
    const std::string type = option->get_type_name();
    std::string words = type == "TEXT"                    ? " ..."
                        : type == "INT" || type == "UINT" ? " N"
                        : type == "FLOAT"                 ? " X"
                                                          : " " + type;
    return words;
  }
  // A file that has to be there needs no word for it.
  std::string make_positionals(const CLI::App* app) const override {
    std::string out = "\n";
    for (const CLI::Option* option :
         app->get_options([](const CLI::Option* o) { return o->get_positional(); }))
      out += "  " + option->get_name(true) +
             std::string(
                 option->get_name(true).size() < kName ? kName - option->get_name(true).size() : 1,
                 ' ') +
             option->get_description() + "\n";
    return out.size() == 1 ? "" : out;
  }

 private:
  static constexpr std::size_t kName = 28;
};

}  // namespace

std::string first_steps() {
  return "Kite Knot: whole decisions, solved to proof and told in your own names.\n"
         "\n"
         "  kiteknot show MODEL       read a model back before you trust it\n"
         "  kiteknot check MODEL --plan PLAN.csv   try a plan by hand\n"
         "  kiteknot solve MODEL      the best plan, with its proof\n"
         "  kiteknot compare MODEL    beside the relaxation, rounding, and what people do by hand\n"
         "  kiteknot vary MODEL       scenarios, sweeps, one rule left out after the other\n"
         "  kiteknot explain MODEL    why nothing is feasible, or why a thing is not in the plan\n"
         "  kiteknot tour STOPS       the shortest round trip\n"
         "  kiteknot demo             all of it, at one kite festival\n"
         "\n"
         "'kiteknot help COMMAND' tells the options; a model is a text file: docs/language.md.\n";
}

std::shared_ptr<CLI::Formatter> plain_words() {
  auto words = std::make_shared<PlainWords>();
  words->column_width(30);
  return words;
}

}  // namespace kiteknot::cli
