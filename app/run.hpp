// The whole command line as one call.
#pragma once

#include <cstddef>
#include <filesystem>
#include <iosfwd>
#include <string>
#include <vector>

namespace truecurve {

struct Page;
class Together;

namespace app {

class Progress;

enum class Paint { plain, coloured };

/// What stands at the other end of the streams. Without a terminal: full width, no colour, no progress.
struct Terminal {
  std::size_t columns = 0;       ///< of standard output; 0 where it is no terminal
  Paint output = Paint::plain;   ///< of standard output
  Paint remarks = Paint::plain;  ///< of standard error
  bool shows_progress = false;   ///< standard error is a terminal
};

/// The streams a command works on; passed in, so that a test needs no process.
struct Streams {
  std::istream& in;
  std::ostream& out;
  std::ostream& error;
  Terminal terminal{};
  Progress* progress = nullptr;    ///< set by run(), for its commands
  Together* files = nullptr;       ///< set by run(): what the command has written and not yet published
  std::filesystem::path folder{};  ///< of a study, to which names of files that are read are relative
  Page* page = nullptr;            ///< where a study wants the page of a result instead of its text
};

/// Runs the command line (without the program's name) and returns its exit code: 0 done; 1 internal fault; 2 wrong
/// usage or model text; 3 bad data; 4 the fit failed or can't be trusted; 5 an output could not be written.
int run(std::vector<std::string> arguments, Streams streams);

}  // namespace app
}  // namespace truecurve
