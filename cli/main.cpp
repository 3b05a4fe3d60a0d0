#include "command.hpp"

int main(int count, char** arguments) {
  return kiteknot::cli::run_tool(count, arguments);
}
