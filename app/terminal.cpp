// Asks the system about its terminals, and sets colours.
#include "terminal.hpp"

#include <truecurve/report/page_width.hpp>

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

std::string painted(const std::string& text, Paint paint) {
  if (paint == Paint::plain) return text;
  std::istringstream lines(text);
  std::string result;
  std::string line;
  bool opens = true;  // the first line, and the first one after a blank one
  while (std::getline(lines, line)) {
    const bool is_heading = opens && !line.empty() && line[0] != ' ';
    if (is_heading) line = (line == "Cautions" ? careful : bold) + line + plain;
    opens = line.empty();
    result += line + "\n";
  }
  return result;
}

std::string with_headings_broken(const std::string& text, std::size_t columns) {
  if (columns == 0) return text;
  std::istringstream lines(text);
  std::string result;
  for (std::string line; std::getline(lines, line);)
    result += line.empty() || line[0] == ' ' ? line + "\n" : on_page(line);
  return result;
}

std::string complaint(const std::string& text, Paint paint) {
  return (paint == Paint::plain ? "truecurve:" : std::string(wrong) + "truecurve:" + plain) + " " + text + "\n";
}

}  // namespace truecurve::app
