// What is told besides an answer must never cost the answer.

#include <exception>

#include <fmt/format.h>

#include "base/text.hpp"
#include "report/forms/page.hpp"

namespace kiteknot {
namespace report {

void tell_besides(Page& page, const std::string& what, const std::function<void()>& tell) {
  try {
    tell();
  } catch (const std::exception& e) {
    page.say(fmt::format("({} is left out: {}.)", what, visible(e.what())), 2);
  }
}

}  // namespace report

std::string besides(const std::string& what, const std::function<std::string()>& page,
                    const PageOptions& options) {
  try {
    return page();
  } catch (const std::exception& e) {
    report::Page word(options);
    word.say(fmt::format("({} is left out: {}.)", what, visible(e.what())));
    return word.take();
  }
}

}  // namespace kiteknot
