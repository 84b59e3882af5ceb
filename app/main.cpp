// The executable: hands its arguments, streams and terminals to run(), and leaves nothing half-written when told to
// stop.
#include <truecurve/io/files.hpp>

#include "run.hpp"
#include "terminal.hpp"

#include <csignal>
#include <iostream>
#include <thread>

#include <unistd.h>

namespace {

// A thread waits for the signals, as no handler may touch files; the process then dies of the same signal.
void watch_for_stop() {
  sigset_t stops;
  sigemptyset(&stops);
  for (const int signal : {SIGINT, SIGTERM, SIGHUP}) {
    struct sigaction before {};
    sigaction(signal, nullptr, &before);
    if (before.sa_handler != SIG_IGN) sigaddset(&stops, signal);  // as nohup wishes
  }
  pthread_sigmask(SIG_BLOCK, &stops, nullptr);
  std::thread([stops] {
    int signal = 0;
    sigwait(&stops, &signal);
    truecurve::remove_unfinished();
    if (isatty(STDERR_FILENO)) (void)!write(STDERR_FILENO, "\r\033[K", 4);  // the line of progress
    struct sigaction deadly {};
    deadly.sa_handler = SIG_DFL;
    sigaction(signal, &deadly, nullptr);
    pthread_sigmask(SIG_UNBLOCK, &stops, nullptr);
    kill(getpid(), signal);
  }).detach();
}

}  // namespace

int main(int count, char** values) {
  std::signal(SIGXFSZ, SIG_IGN);  // a limit on the size of files is a fault of writing, not an end
  watch_for_stop();
  std::ios::sync_with_stdio(false);
  const int code = truecurve::app::run({values + 1, values + count},
                                       {std::cin, std::cout, std::cerr, truecurve::app::terminal_of_process()});
  std::cout.flush();
  if (!std::cout) {
    std::cerr << "truecurve: standard output could not be written\n";
    return 5;
  }
  return code;
}
