// A line on the terminal that says what takes so long.
#pragma once

#include "run.hpp"

#include <chrono>
#include <memory>
#include <string>

namespace truecurve::app {

/// Shows nothing for the first second, then what is being done and for how long; the line is wiped at the end.
class Progress {
 public:
  explicit Progress(std::ostream& terminal);
  ~Progress();
  Progress(const Progress&) = delete;
  Progress& operator=(const Progress&) = delete;

  void begin(std::chrono::milliseconds patience = std::chrono::seconds(1));
  /// What is being done from now on: "fitting".
  void say(std::string what);
  /// A line on the same terminal, between the lines of progress; what was written already is not written again, as of
  /// several candidates that take the same columns.
  void write(const std::string& line);
  /// Nothing more is shown: for results and complaints to be written.
  void end();

 private:
  struct Clock;
  std::unique_ptr<Clock> clock_;
};

/// Tells the progress of the streams, where they have one.
void say(const Streams& streams, std::string what);
void end_progress(const Streams& streams);
/// "truecurve: TEXT" on standard error.
void remark(const Streams& streams, const std::string& text);

}  // namespace truecurve::app
