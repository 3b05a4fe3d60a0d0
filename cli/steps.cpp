#include "steps.hpp"

namespace kiteknot::cli {

std::string step_in(const std::string& line) {
  const std::string text = line.substr(0, line.find('#'));
  const std::size_t from = text.find_first_not_of(" \t\r");
  if (from == std::string::npos) return "";
  return text.substr(from, text.find_last_not_of(" \t\r") - from + 1);
}

std::string note_in(const std::string& line) {
  const std::size_t hash = line.find('#');
  const std::size_t from =
      hash == std::string::npos ? hash : line.find_first_not_of("# \t\r", hash);
  if (from == std::string::npos) return "";
  return line.substr(from, line.find_last_not_of(" \t\r") - from + 1);
}

bool is_end(const std::string& words) {
  return words == "end" || words == "quit" || words == "exit";
}

void take_steps(Workbench& bench, std::istream& in, const std::string& name,
                const std::function<void(const std::string&)>& before,
                const std::function<void(const Deed&)>& after) {
  std::string line;
  for (int number = 1; std::getline(in, line); ++number) {
    const std::string words = step_in(line);
    if (const std::string note = note_in(line); !note.empty()) bench.note(note);
    if (words.empty()) continue;
    if (is_end(words)) return;
    if (before) before(words);
    const Reading<Deed> deed = bench.step(words);
    if (deed.ok()) {
      if (after) after(deed.value());
      continue;
    }
    Diagnostics out;
    for (Diagnostic d : deed.notes().items()) {
      d.file = name;
      d.line = number;
      d.column += static_cast<int>(line.find_first_not_of(" \t"));
      out.error(d);
    }
    throw InputError(out);
  }
}

}  // namespace kiteknot::cli
