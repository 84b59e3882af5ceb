// The executable: hands its arguments, streams and terminals to run(), and leaves nothing half-written when told to
// stop.
#include <truecurve/io/files.hpp>

#include "run.hpp"
#include "terminal.hpp"

#include <csignal>
#include <cstddef>
#include <exception>
#include <iostream>
#include <new>
#include <string_view>
#include <system_error>
#include <thread>

#include <pthread.h>
#include <sys/resource.h>
#include <unistd.h>

namespace {

void wait_for_stop(const sigset_t& stops) {
  int signal = 0;
  sigwait(&stops, &signal);
  truecurve::remove_unfinished();
  if (isatty(STDERR_FILENO)) (void)!write(STDERR_FILENO, "\r\033[K", 4);  // the line of progress
  struct sigaction deadly {};
  deadly.sa_handler = SIG_DFL;
  sigaction(signal, &deadly, nullptr);
  pthread_sigmask(SIG_UNBLOCK, &stops, nullptr);
  kill(getpid(), signal);
}

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
  try {
    std::thread([stops] { wait_for_stop(stops); }).detach();
  } catch (const std::system_error&) {  // the system gives no thread: a signal then ends the process as it does
    pthread_sigmask(SIG_UNBLOCK, &stops, nullptr);
  }
}

int run_command(int count, char** values) {
  const int code = truecurve::app::run({values + 1, values + count},
                                       {std::cin, std::cout, std::cerr, truecurve::app::terminal_of_process()});
  std::cout.flush();
  if (!std::cout) {
    std::cerr << "truecurve: standard output could not be written\n";
    return 5;
  }
  return code;
}

// Small matrices lie on the stack: where the process has little of it, a thread with enough runs the command.
int run_with_room(int count, char** values) {
  constexpr std::size_t enough = std::size_t{4} << 20;
  rlimit limit{};
  if (getrlimit(RLIMIT_STACK, &limit) != 0 || limit.rlim_cur >= enough) return run_command(count, values);
  struct Call {
    int count;
    char** values;
    int code;
  };
  Call call{count, values, 1};
  pthread_attr_t roomy{};
  pthread_attr_init(&roomy);
  pthread_attr_setstacksize(&roomy, enough);
  pthread_setattr_default_np(&roomy);  // for those that libraries begin, as for fonts
  pthread_t thread{};
  const auto run = [](void* of) -> void* {
    auto& asked = *static_cast<Call*>(of);
    asked.code = run_command(asked.count, asked.values);
    return nullptr;
  };
  const int failed = pthread_create(&thread, &roomy, run, &call);
  pthread_attr_destroy(&roomy);
  if (failed != 0) {
    std::cerr << "truecurve: the stack is limited to " << limit.rlim_cur / 1024
              << " kB, and the system gives no thread with more\n  allow a larger stack (ulimit -s 8192)\n";
    return 1;
  }
  pthread_join(thread, nullptr);
  return call.code;
}

// Without memory for an exception, or for what follows one, all that is left is to say so. Before anything else of the
// command is made, as that takes memory, too.
__attribute__((constructor(101))) void say_where_memory_ends() {
  static std::terminate_handler otherwise;
  otherwise = std::set_terminate([] {
    try {
      if (std::current_exception() != nullptr) throw;
    } catch (const std::bad_alloc&) {
    } catch (...) {
      otherwise();
    }
    constexpr std::string_view said =
        "truecurve: there is not enough memory to go on\n  allow more of it (ulimit -v), or end other programs\n";
    (void)!write(STDERR_FILENO, said.data(), said.size());
    _exit(1);
  });
}

}  // namespace

int main(int count, char** values) {
  std::signal(SIGXFSZ, SIG_IGN);  // a limit on the size of files is a fault of writing, not an end
  std::ios::sync_with_stdio(false);
  try {
    watch_for_stop();
    return run_with_room(count, values);
  } catch (const std::exception& error) {  // before or after the command, as where there is next to no memory
    std::cerr << "truecurve: the system gives too little to work with: " << error.what() << '\n';
    return 1;
  }
}
