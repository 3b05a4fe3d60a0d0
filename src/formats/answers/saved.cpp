// Saved answers read back.

#include "kiteknot/saved.hpp"

#include <fstream>

#include <nlohmann/json.hpp>

#include "data/files.hpp"
#include "model/model_data.hpp"

namespace kiteknot {
namespace {

using Json = nlohmann::ordered_json;

std::optional<double> number(const Json& of, const char* key) {
  const auto it = of.find(key);
  return it == of.end() || !it->is_number() ? std::nullopt : std::optional(it->get<double>());
}
std::string text(const Json& of, const char* key) {
  const auto it = of.find(key);
  return it == of.end() || !it->is_string() ? "" : it->get<std::string>();
}
std::string name_of(const Json& entry) {
  return full_name(entry.at("name").get<std::string>(),
                   entry.at("index").get<std::vector<std::string>>());
}

SavedAnswer from(const Json& document, const std::string& named) {
  SavedAnswer a;
  a.named = named;
  a.model = document.at("model").get<std::string>();
  a.outcome = document.at("outcome").get<std::string>();
  const auto relaxed = document.find("relaxed");
  if (relaxed != document.end() && relaxed->is_boolean() && relaxed->get<bool>())
    a.outcome += ", relaxed";  // it is no plan of whole decisions
  for (const Json& g : document.at("goals"))
    a.goals.push_back({g.at("name").get<std::string>(), text(g, "sense"), number(g, "value"),
                       number(g, "bound"), number(g, "gap")});
  for (const Json& d : document.at("decisions"))
    a.decisions.push_back({name_of(d), d.at("value").get<double>(), text(d, "exact")});
  for (const Json& r : document.at("rules"))
    a.rules.push_back({name_of(r), number(r, "low"), number(r, "value"), number(r, "high"),
                       r.at("met").get<bool>(), number(r, "left"), number(r, "right")});
  const Json& search = document.at("search");
  a.seconds = number(search, "seconds").value_or(0.0);
  if (const auto progress = search.find("progress"); progress != search.end())
    for (const Json& entry : *progress) {
      Progress p;
      p.seconds = number(entry, "seconds").value_or(0.0);
      p.best = number(entry, "best");
      p.bound = number(entry, "bound");
      p.found_by = text(entry, "found_by");
      a.progress.push_back(std::move(p));
    }
  if (const auto origin = document.find("origin"); origin != document.end()) {
    a.origin = {text(*origin, "file"), text(*origin, "scenario"), {}, text(*origin, "when")};
    if (const auto set = origin->find("set"); set != origin->end())
      a.origin.settings = set->get<std::vector<std::string>>();
  }
  return a;
}

}  // namespace

Reading<SavedAnswer> parse_answer(const std::string& content, const std::string& named) {
  Diagnostics notes;
  const auto wrong = [&](std::string what) {
    notes.error({named, 0, 0, std::move(what), false});
    return Reading<SavedAnswer>(notes);
  };
  const Json document = Json::parse(content, nullptr, false);
  if (document.is_discarded() || !document.is_object() ||
      text(document, "format") != "kiteknot-result")
    return wrong("is no saved answer: a result document was expected");
  if (number(document, "version").value_or(2.0) > 1.0) return wrong("was saved by a later version");
  try {
    return {from(document, named), std::move(notes)};
  } catch (const Json::exception& e) {
    const std::string what = e.what();
    return wrong("is no complete answer: " + what.substr(what.find("] ") + 2));
  }
}

bool is_saved_answer(const std::string& path) {
  constexpr std::size_t kBeginning = 400;
  std::ifstream in(path, std::ios::binary);
  std::string text(kBeginning, '\0');
  in.read(text.data(), static_cast<std::streamsize>(kBeginning));
  text.resize(static_cast<std::size_t>(in.gcount()));
  const std::size_t begin = text.find_first_not_of(" \t\r\n");
  return begin != std::string::npos && text[begin] == '{' &&
         text.find("\"kiteknot-result\"") != std::string::npos;
}

Reading<SavedAnswer> read_answer(const std::string& path) {
  return parse_answer(data::read_file(path), path);
}

}  // namespace kiteknot
