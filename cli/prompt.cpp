#include "prompt.hpp"

#include <algorithm>
#include <cstdio>
#include <iostream>

#include <unistd.h>

#ifdef KITEKNOT_LINE_EDITING
#include <histedit.h>
#endif

namespace kiteknot::cli {

bool is_conversation() {
  return ::isatty(STDIN_FILENO) != 0 && ::isatty(STDOUT_FILENO) != 0;
}

#ifdef KITEKNOT_LINE_EDITING

struct Prompt::Editing {
  Editing(std::string with_sign, Completions with)
      : sign(std::move(with_sign)), completions(std::move(with)) {}
  std::string sign;
  Completions completions;
  ::EditLine* editor = nullptr;
  ::History* history = nullptr;
  ::HistEvent event{};

  static Editing& of(::EditLine* editor) {
    void* data = nullptr;
    ::el_get(editor, EL_CLIENTDATA, &data);
    return *static_cast<Editing*>(data);
  }
  static const char* show_sign(::EditLine* editor) { return of(editor).sign.c_str(); }

  // What all completions share is put in; where that is nothing they are listed.
  static unsigned char complete(::EditLine* editor, int) {
    const ::LineInfo* info = ::el_line(editor);
    const std::string typed(info->buffer, info->cursor);
    const std::vector<std::string> all = of(editor).completions(typed);
    if (all.empty()) return CC_REFRESH_BEEP;
    std::string shared = all[0];
    for (const std::string& one : all)
      shared.resize(static_cast<std::size_t>(
          std::mismatch(shared.begin(), shared.end(), one.begin(), one.end()).first -
          shared.begin()));
    if (!shared.empty()) {
      ::el_insertstr(editor, shared.c_str());
      return CC_REFRESH;
    }
    constexpr std::size_t kMost = 40;
    std::fputs("\n", stdout);
    const std::size_t word =
        typed.find_last_of(' ') == std::string::npos ? 0 : typed.find_last_of(' ') + 1;
    for (std::size_t k = 0; k < all.size() && k < kMost; ++k)
      std::fputs(("  " + typed.substr(word) + all[k] + "\n").c_str(), stdout);
    if (all.size() > kMost) std::fputs("  ...\n", stdout);
    std::fflush(stdout);
    return CC_REDISPLAY;
  }
};

Prompt::Prompt(std::string sign, Completions completions)
    : editing_(std::make_unique<Editing>(std::move(sign), std::move(completions))) {
  Editing& e = *editing_;
  if (!is_conversation()) return;
  e.editor = ::el_init("kiteknot", stdin, stdout, stderr);
  if (e.editor == nullptr) return;
  constexpr int kRemembered = 500;
  e.history = ::history_init();
  ::history(e.history, &e.event, H_SETSIZE, kRemembered);
  ::el_set(e.editor, EL_CLIENTDATA, &e);
  ::el_set(e.editor, EL_PROMPT, &Editing::show_sign);
  ::el_set(e.editor, EL_EDITOR, "emacs");
  ::el_set(e.editor, EL_HIST, ::history, e.history);
  ::el_set(e.editor, EL_SIGNAL, 1);
  ::el_set(e.editor, EL_ADDFN, "kiteknot-complete", "names of the tableau", &Editing::complete);
  ::el_set(e.editor, EL_BIND, "^I", "kiteknot-complete", nullptr);
}

Prompt::~Prompt() {
  if (editing_->history != nullptr) ::history_end(editing_->history);
  if (editing_->editor != nullptr) ::el_end(editing_->editor);
}

std::optional<std::string> Prompt::line() {
  Editing& e = *editing_;
  std::string line;
  if (e.editor == nullptr) return std::getline(std::cin, line) ? std::optional(line) : std::nullopt;
  int count = 0;
  const char* got = ::el_gets(e.editor, &count);
  if (got == nullptr || count <= 0) return std::nullopt;
  line.assign(got, static_cast<std::size_t>(count));
  while (!line.empty() && (line.back() == '\n' || line.back() == '\r')) line.pop_back();
  if (!line.empty()) ::history(e.history, &e.event, H_ENTER, line.c_str());
  return line;
}

#else

struct Prompt::Editing {
  std::string sign;
};

Prompt::Prompt(std::string sign, Completions)  // NOLINT(performance-unnecessary-value-param)
    : editing_(std::make_unique<Editing>(Editing{std::move(sign)})) {}
Prompt::~Prompt() = default;

std::optional<std::string> Prompt::line() {
  if (is_conversation()) std::cout << editing_->sign << std::flush;
  std::string line;
  return std::getline(std::cin, line) ? std::optional(line) : std::nullopt;
}

#endif

}  // namespace kiteknot::cli
