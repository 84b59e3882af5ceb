// The whole command line as one call.
#pragma once

#include <iosfwd>
#include <string>
#include <vector>

namespace truecurve::app {

/// The streams a command works on; passed in, so that a test needs no process.
struct Streams {
  std::istream& in;
  std::ostream& out;
  std::ostream& error;
};

/// Runs the command line (without the program's name) and returns its exit code: 0 done; 1 internal fault; 2 wrong
/// usage or model text; 3 bad data; 4 the fit failed or can't be trusted; 5 an output could not be written.
int run(std::vector<std::string> arguments, Streams streams);

}  // namespace truecurve::app
