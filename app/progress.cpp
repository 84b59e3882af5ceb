// A thread that writes a line a few times a second.
#include "progress.hpp"

#include "terminal.hpp"

#include <condition_variable>
#include <mutex>
#include <ostream>
#include <set>
#include <system_error>
#include <thread>

#include <fmt/format.h>

namespace truecurve::app {
namespace {

using Time = std::chrono::steady_clock;
constexpr auto between_lines = std::chrono::milliseconds(200);
constexpr const char* wipe = "\r\033[K";

}  // namespace

struct Progress::Clock {
  std::ostream& stream;
  std::string what{};
  std::set<std::string> written{};
  bool is_shown = false;
  bool is_done = false;
  std::mutex turn{};
  std::condition_variable told{};
  std::thread thread{};

  void tick(std::chrono::milliseconds patience) {
    const auto start = Time::now();
    std::unique_lock lock(turn);
    for (auto next = start + patience; !told.wait_until(lock, next, [this] { return is_done; });
         next = Time::now() + between_lines) {
      const auto seconds = std::chrono::duration_cast<std::chrono::seconds>(Time::now() - start).count();
      stream << fmt::format("{}  {}, {} s", wipe, what.empty() ? "working" : what, seconds) << std::flush;
      is_shown = true;
    }
    if (is_shown) stream << wipe << std::flush;
  }
};

Progress::Progress(std::ostream& terminal) : clock_(new Clock{.stream = terminal}) {}

Progress::~Progress() { end(); }

void Progress::begin(std::chrono::milliseconds patience) {
  try {
    clock_->thread = std::thread([this, patience] { clock_->tick(patience); });
  } catch (const std::system_error&) {  // the system gives no thread: it works in silence
  }
}

void Progress::say(std::string what) {
  const std::lock_guard lock(clock_->turn);
  clock_->what = std::move(what);
}

void Progress::write(const std::string& line) {
  const std::lock_guard lock(clock_->turn);
  if (!clock_->written.insert(line).second) return;
  clock_->stream << (clock_->is_shown ? wipe : "") << line;
}

void Progress::end() {
  if (!clock_->thread.joinable()) return;
  {
    const std::lock_guard lock(clock_->turn);
    clock_->is_done = true;
  }
  clock_->told.notify_all();
  clock_->thread.join();
}

void say(const Streams& streams, std::string what) {
  if (streams.progress != nullptr) streams.progress->say(std::move(what));
}

void end_progress(const Streams& streams) {
  if (streams.progress != nullptr) streams.progress->end();
}

void remark(const Streams& streams, const std::string& text) {
  const std::string line = complaint(text, streams.terminal.remarks);
  if (streams.progress != nullptr) {
    streams.progress->write(line);
  } else {
    streams.error << line;
  }
}

}  // namespace truecurve::app
