#include <filesystem>

#include "command.hpp"
#include "outputs.hpp"
#include "terminal.hpp"

namespace kiteknot::cli {

Run add_convert(CLI::App& app, CLI::App*& command) {
  command = app.add_subcommand("convert", "write a model as MPS, with a table of its names");
  const auto source = std::make_shared<ModelArguments>();
  source->add_to(*command);
  const auto target = std::make_shared<std::string>();
  command->add_option("target", *target, "the file to write, ending in .mps")->required();
  return [source, target] {
    const Model model = source->load();
    if (std::filesystem::path(*target).extension() != ".mps")
      throw CommandLineError(*target + " does not end in .mps; that is all that is written");
    need_apart({{"convert", *target}, {"convert", *target + ".names.csv"}}, model.inputs());
    const std::vector<std::string> notes = write_mps(*target, model);
    for (const std::string& note : notes) print_error(note);
    print("Written: " + *target + ", and what its names stand for in " + *target + ".names.csv\n");
    return kDone;
  };
}

}  // namespace kiteknot::cli
