// Runs one case by name, or each of those that begin with a prefix in a process of its own.
// Usage: misuse NAME | misuse --each [PREFIX] | misuse --page
// --page: what is refused and the words for it, as docs/refused.md has them.

#include <algorithm>
#include <cstring>
#include <iostream>

#include <sys/wait.h>
#include <unistd.h>

#include "misuse.hpp"

namespace {

constexpr unsigned kSeconds = 30;

int run(const misuse::Case& one) {
  try {
    one.run();
  } catch (const kiteknot::UsageError& e) {
    if (!one.says.empty() && std::strstr(e.what(), one.says.c_str()) != nullptr) return 0;
    std::cerr << one.name << ": " << e.what() << "\n";
    return 1;
  } catch (const std::exception& e) {
    std::cerr << one.name << " throws what is not promised: " << e.what() << "\n";
    return 1;
  }
  if (one.says.empty()) return 0;
  std::cerr << one.name << ": nothing was refused\n";
  return 1;
}

// As a child, which may crash, hang or end the program.
bool stands_alone(const misuse::Case& one) {
  std::cout << std::flush;
  const pid_t child = fork();
  if (child == 0) {
    alarm(kSeconds);
    const int code = run(one);
    std::cerr << std::flush;
    std::_Exit(code);
  }
  int status = 0;
  if (child < 0 || waitpid(child, &status, 0) != child) return false;
  if (WIFSIGNALED(status))
    std::cerr << one.name << ": "
              << (WTERMSIG(status) == SIGALRM ? "it does not end" : strsignal(WTERMSIG(status)))
              << "\n";
  else if (WEXITSTATUS(status) > 1)
    std::cerr << one.name << ": ended with " << WEXITSTATUS(status) << "\n";
  return WIFEXITED(status) && WEXITSTATUS(status) == 0;
}

// "table: row made up" of table_row_made_up
std::string told(std::string name) {
  std::replace(name.begin(), name.end(), '_', ' ');
  return name.replace(name.find(' '), 1, ": ");
}

void print_page() {
  for (const misuse::Case& one : misuse::cases()) {
    if (one.says.empty()) continue;
    try {
      one.run();
    } catch (const kiteknot::UsageError& e) {
      const std::string message = e.what();
      if (message.find("misuse-") == std::string::npos)  // the name of a file that was
        std::cout << "| " << told(one.name) << " | " << message << " |\n";
    }
  }
}

}  // namespace

int main(int count, char** words) {
  const std::string first = count > 1 ? words[1] : "--each";
  if (first == "--page") {
    print_page();
    return 0;
  }
  const std::string prefix = first == "--each" ? (count > 2 ? words[2] : "") : first;
  int tried = 0, bad = 0;
  for (const misuse::Case& one : misuse::cases()) {
    if (first != "--each") {
      if (one.name == prefix) return run(one);
      continue;
    }
    if (!one.name.starts_with(prefix)) continue;
    ++tried;
    bad += stands_alone(one) ? 0 : 1;
  }
  std::cout << tried << " wrong uses, " << bad << " neither refused nor harmless\n";
  return bad == 0 && tried > 0 ? 0 : 1;
}
