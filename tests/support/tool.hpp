#pragma once
// Runs the real executable on files in a scratch folder.

#include <cstdlib>
#include <filesystem>
#include <fstream>
#include <iterator>
#include <string>

#include <sys/wait.h>
#include <unistd.h>

namespace tool {

namespace fs = std::filesystem;

inline const std::string kTool = KITEKNOT_TOOL;
inline const std::string kDemo = KITEKNOT_DEMO_DIR;

struct Ran {
  int code = -1;
  std::string out, err;
};

/// Gone when the tests end.
class Scratch {
 public:
  Scratch() { fs::create_directories(path_); }
  Scratch(const Scratch&) = delete;
  Scratch& operator=(const Scratch&) = delete;
  ~Scratch() {
    std::error_code ignored;
    fs::remove_all(path_, ignored);
  }
  [[nodiscard]] const fs::path& path() const { return path_; }

 private:
  fs::path path_ = fs::temp_directory_path() / ("kiteknot-cli-" + std::to_string(::getpid()));
};

inline fs::path scratch() {
  static const Scratch kFolder;
  return kFolder.path();
}

inline std::string slurp(const fs::path& path) {
  std::ifstream in(path);
  return {std::istreambuf_iterator<char>(in), {}};
}

inline Ran run(const std::string& arguments) {
  const std::string out = (scratch() / "out").string(), err = (scratch() / "err").string();
  const int status =
      std::system(("'" + kTool + "' " + arguments + " >'" + out + "' 2>'" + err + "'").c_str());
  return {WIFEXITED(status) ? WEXITSTATUS(status) : -1, slurp(out), slurp(err)};
}

inline std::string file(const std::string& name, const std::string& text) {
  std::ofstream(scratch() / name) << text;
  return (scratch() / name).string();
}

inline std::string in_demo(const std::string& name) {
  return "'" + kDemo + "/" + name + "'";
}

inline bool has(const std::string& text, const std::string& part) {
  return text.find(part) != std::string::npos;
}

// Packing under five limits, worth tied to all weights: no machine proves it in a minute.
inline std::string long_model() {
  constexpr int kItems = 200, kLimits = 5;
  std::string text = "model \"Long\"\ntable t key k rows\n  k";
  for (int k = 0; k < kLimits; ++k) text += ",w" + std::to_string(k);
  text += ",v\n";
  unsigned state = 12345;
  long sums[kLimits] = {};
  for (int i = 0; i < kItems; ++i) {
    text += "  i" + std::to_string(i);
    long all = 0;
    for (long& sum : sums) {
      state = state * 1103515245u + 12345u;
      const long w = 10000 + state / 65536 % 60000;
      sum += w;
      all += w;
      text += "," + std::to_string(w);
    }
    text += "," + std::to_string(all / kLimits + 10000) + "\n";
  }
  text += "decide x[r in t] binary\nmaximize v: total(r.v * x[r] over r in t)\n";
  for (int k = 0; k < kLimits; ++k)
    text += "rule w" + std::to_string(k) + ": total(r.w" + std::to_string(k) +
            " * x[r] over r in t) <= " + std::to_string(sums[k] / 2) + "\n";
  return file("long.knot", text);
}

}  // namespace tool
