#include "keeping.hpp"

#include <fstream>
#include <sstream>

#include <fmt/format.h>
#include <stdlib.h>

namespace kiteknot::cli {
namespace fs = std::filesystem;
namespace {

constexpr const char* kModel = "model";
constexpr const char* kScenario = "scenario";
constexpr const char* kSetting = "set";
constexpr const char* kFile = "file ";  // and where it stood

std::string whole(const std::string& path) {
  std::ifstream in(path, std::ios::binary);
  std::ostringstream text;
  text << in.rdbuf();
  if (!in) throw IoError(path + ": cannot be read once more, to be kept with the search");
  return text.str();
}

std::string full(const std::string& path) {
  return fs::absolute(path).lexically_normal().string();
}

}  // namespace

std::shared_ptr<const Keeping> keeping_of(const std::string& file, double every,
                                          const ModelArguments& arguments, const Model& model) {
  Keeping keeping{file, every, {}};
  keeping.beside.emplace_back(kModel, full(arguments.file));
  keeping.beside.emplace_back(kScenario, arguments.scenario);
  for (const std::string& setting : arguments.settings)
    keeping.beside.emplace_back(kSetting, setting);
  for (const std::string& input : model.inputs()) {
    if (input == "-")
      throw CommandLineError(
          "--keep: a table came from standard input, which is not there a second time");
    keeping.beside.emplace_back(kFile + full(input), whole(input));
  }
  return std::make_shared<const Keeping>(std::move(keeping));
}

std::shared_ptr<const Keeping> keeping_on(const std::string& file, double every,
                                          const KeptSearch& kept) {
  return std::make_shared<const Keeping>(Keeping{file, every, kept.beside()});
}

UnpackedModel::UnpackedModel(const KeptSearch& kept) {
  const std::optional<std::string> model = kept.beside(kModel);
  if (!model)
    throw CommandLineError("the search was kept without its model, by a program of its own");
  const std::string file = kFile;
  for (const auto& [name, content] : kept.beside()) {
    if (name == kScenario) arguments_.scenario = content;
    if (name == kSetting) arguments_.settings.push_back(content);
    if (!name.starts_with(file)) continue;
    const fs::path place = inside(name.substr(file.size()));
    fs::create_directories(place.parent_path());
    std::ofstream out(place, std::ios::binary);
    out << content;
    out.close();
    if (!out) throw OutputError(place.string() + ": cannot be written");
  }
  name_ = *model;
  arguments_.file = inside(*model).string();
}

// Files that somebody else made may say anything.
fs::path UnpackedModel::inside(const std::string& name) const {
  const fs::path path = fs::path(name).relative_path();
  for (const fs::path& part : path)
    if (part == "..") throw IoError(name + ": no file of a kept search is named like that");
  return folder_.path / path;
}

UnpackedModel::Folder::Folder() {
  std::string pattern = (fs::temp_directory_path() / "kiteknot-kept-XXXXXX").string();
  if (::mkdtemp(pattern.data()) == nullptr)
    throw OutputError(pattern + ": no folder can be made there");
  path = pattern;
}

UnpackedModel::Folder::~Folder() {
  std::error_code ignored;
  fs::remove_all(path, ignored);
}

}  // namespace kiteknot::cli
