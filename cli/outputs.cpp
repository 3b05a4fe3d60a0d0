#include "outputs.hpp"

#include <filesystem>

#include "terminal.hpp"

namespace kiteknot::cli {
namespace fs = std::filesystem;
namespace {

bool same_place(const std::string& a, const std::string& b) {
  std::error_code code;
  if (fs::equivalent(a, b, code)) return true;
  const fs::path first = fs::weakly_canonical(a, code), second = fs::weakly_canonical(b, code);
  return !first.empty() && first == second;
}

// A file of a folder that is read as a whole.
bool lies_in(const std::string& file, const std::string& folder) {
  std::error_code code;
  return fs::is_directory(folder, code) && same_place(fs::path(file).parent_path(), folder);
}

}  // namespace

void need_apart(const std::vector<std::pair<std::string, std::string>>& outputs,
                const std::vector<std::string>& inputs) {
  for (std::size_t k = 0; k < outputs.size(); ++k) {
    const auto& [option, file] = outputs[k];
    if (file.empty()) continue;
    for (const std::string& input : inputs)
      if (!input.empty() && (same_place(file, input) || lies_in(file, input)))
        throw CommandLineError(option + " " + file + " would overwrite what this run reads" +
                               (input == file ? "" : " (" + input + ")"));
    std::error_code code;
    if (!fs::is_regular_file(file, code) && fs::exists(file, code)) continue;  // a device takes all
    for (std::size_t j = 0; j < k; ++j)
      if (!outputs[j].second.empty() && same_place(file, outputs[j].second))
        throw CommandLineError(outputs[j].first + " and " + option + " name the same file, " +
                               file);
  }
}

void Outputs::attempt(const std::function<void()>& write) {
  try {
    write();
  } catch (const std::bad_alloc&) {
    failures_.emplace_back("memory ran out while an answer was written");
  } catch (const std::exception& e) {
    failures_.emplace_back(e.what());
  }
}

int Outputs::end(int code) const {
  for (const std::string& failure : failures_) print_error(failure);
  return failures_.empty() ? code : kFailed;
}

}  // namespace kiteknot::cli
