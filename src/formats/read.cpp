#include "kiteknot/read.hpp"

#include <filesystem>

#include <fmt/format.h>

#include "base/text.hpp"
#include "data/files.hpp"
#include "data/tables/csv.hpp"
#include "formats/knot/binder.hpp"
#include "formats/knot/parser.hpp"
#include "model/model_data.hpp"

namespace kiteknot {

namespace {

Reading<Model> parsed(const std::string& text, const formats::knot::BindSource& source) {
  const std::string& file = source.file;
  Diagnostics notes;
  data::need_utf8(text, file, 1, notes);
  if (notes.has_errors()) return notes;
  auto raw = formats::knot::lex(text, file, notes);
  if (raw.empty() && !notes.has_errors()) {
    notes.error({file, 0, 0, "the file is empty; a model starts with: model \"title\"", false});
    return notes;
  }
  auto statements = formats::knot::parse(std::move(raw), file, notes);
  return formats::knot::bind(std::move(statements), source, std::move(notes));
}

}  // namespace

Reading<Model> parse_knot(const std::string& text, const std::string& file,
                          const std::string& folder, const std::string& scenario) {
  formats::knot::BindSource source;
  source.file = file;
  source.folder = folder;
  source.scenario = scenario;
  return parsed(text, source);
}

Reading<Model> read_model(const std::string& path, const std::string& scenario,
                          const std::vector<OtherData>& other) {
  const std::filesystem::path p(path);
  const std::string ending = p.extension().string();
  if (ending != ".knot" && ending != ".mps") {
    Diagnostics notes;
    notes.error({path, 0, 0, "a model file ends in .knot or .mps", false});
    return notes;
  }
  const std::string text = data::read_file(path);
  if (ending == ".mps" && !other.empty()) {
    Diagnostics notes;
    notes.error({path, 0, 0, "an MPS file has no tables that other data could stand for", false});
    return notes;
  }
  formats::knot::BindSource source;
  source.file = path;
  source.folder = p.parent_path().string();
  source.scenario = scenario;
  source.other_data = other;
  Reading<Model> read = ending == ".knot" ? parsed(text, source) : parse_mps(text, path);
  if (!read.ok()) return read;
  Diagnostics notes = read.notes();
  Model model = std::move(read).value();
  model.add_source(path);
  return {std::move(model), std::move(notes)};
}

Reading<Question> read_question(const std::string& path, const std::string& condition,
                                const std::string& scenario) {
  Diagnostics notes;
  const std::filesystem::path p(path);
  if (p.extension() != ".knot") {
    notes.error({path, 0, 0, "a condition is asked of a .knot model", false});
    return notes;
  }
  const std::string named = "the condition";
  const formats::knot::NodePtr node = formats::knot::parse_question(condition, named, notes);
  if (notes.has_errors()) return notes;
  const std::string text = data::read_file(path);
  data::need_utf8(text, path, 1, notes);
  if (notes.has_errors()) return notes;
  auto raw = formats::knot::lex(text, path, notes);
  auto statements = formats::knot::parse(std::move(raw), path, notes);
  return formats::knot::bind_question(std::move(statements),
                                      {path, p.parent_path().string(), scenario, node.get(), named},
                                      std::move(notes));
}

void write_text(const std::string& path, const std::string& text) {
  data::write_file(path, text);
}

}  // namespace kiteknot
