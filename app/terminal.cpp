// Asks the system about its terminals, and sets colours.
#include "terminal.hpp"

#include <truecurve/base/visible.hpp>

#include <cstdlib>
#include <cstring>
#include <sstream>

#include <sys/ioctl.h>
#include <unistd.h>

namespace truecurve::app {
namespace {

constexpr const char* bold = "\033[1m";
constexpr const char* careful = "\033[1;35m";  // magenta: readable on light and dark grounds
constexpr const char* wrong = "\033[1;31m";
constexpr const char* plain = "\033[0m";

bool allows_colour() {
  const char* const no_colour = std::getenv("NO_COLOR");
  const char* const kind = std::getenv("TERM");
  return (no_colour == nullptr || *no_colour == '\0') && kind != nullptr && std::strcmp(kind, "dumb") != 0;
}

std::size_t columns_of(int stream) {
  winsize size{};
  return ioctl(stream, TIOCGWINSZ, &size) == 0 ? size.ws_col : 0;
}

}  // namespace

Terminal terminal_of_process() {
  const bool colour = allows_colour();
  const auto paint = [colour](int stream) { return colour && isatty(stream) ? Paint::coloured : Paint::plain; };
  return {.columns = isatty(STDOUT_FILENO) ? columns_of(STDOUT_FILENO) : 0,
          .output = paint(STDOUT_FILENO),
          .remarks = paint(STDERR_FILENO),
          .shows_progress = isatty(STDERR_FILENO) != 0};
}

TextStyle text_style(const Terminal& terminal) {
  if (terminal.output == Paint::plain) return {.columns = terminal.columns};
  return {.columns = terminal.columns, .before_heading = bold, .before_cautions = careful, .after_heading = plain};
}

std::string complaint(const std::string& text, Paint paint) {
  // A cell or a name within it may be as long as a file.
  constexpr std::size_t longest_line = 1000;
  std::string said;
  std::istringstream lines(text);
  for (std::string line; std::getline(lines, line);) said += visible(shortened(line, longest_line)) + "\n";
  return (paint == Paint::plain ? "truecurve:" : std::string(wrong) + "truecurve:" + plain) + " " + said;
}

}  // namespace truecurve::app
