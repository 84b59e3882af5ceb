// TBB, or under the thread sanitizer what it can follow.
#include "parallel.hpp"

#if defined(TRUECURVE_WATCHED_THREADS)
#include <algorithm>
#include <atomic>
#include <exception>
#include <mutex>
#include <thread>
#else
#include <truecurve/base/error.hpp>

#include <exception>
#include <stdexcept>
#include <string_view>

#include <tbb/parallel_for.h>
#include <tbb/parallel_sort.h>
#endif

namespace truecurve::detail {

#if defined(TRUECURVE_WATCHED_THREADS)

void in_parallel(std::size_t tasks, const std::function<void(std::size_t)>& body) {
  std::atomic<std::size_t> next = 0;
  std::mutex turn;
  std::exception_ptr failure;
  std::vector<std::thread> threads;
  for (std::size_t k = 0; k < std::min<std::size_t>(4, tasks); ++k) {
    threads.emplace_back([&] {
      try {
        for (std::size_t task = next++; task < tasks; task = next++) body(task);
      } catch (...) {
        const std::scoped_lock lock(turn);
        failure = std::current_exception();
      }
    });
  }
  for (std::thread& thread : threads) thread.join();
  if (failure) std::rethrow_exception(failure);
}

void sort_in_parallel(std::vector<std::pair<double, std::ptrdiff_t>>& values) {
  std::sort(values.begin(), values.end());
}

#else

namespace {

// TBB says so in words of its own.
[[noreturn]] void fail_without_threads() {
  throw Error({.code = ErrorCode::internal,
               .message = "the system lets this process start no thread",
               .subject = "threads",
               .remedy = "allow this process more threads or more memory"});
}

bool tells_of_threads(const std::exception& error) {
  return std::string_view(error.what()).find("pthread_create") != std::string_view::npos;
}

}  // namespace

void in_parallel(std::size_t tasks, const std::function<void(std::size_t)>& body) {
  try {
    tbb::parallel_for(std::size_t{0}, tasks, body);
  } catch (const std::runtime_error& error) {
    if (tells_of_threads(error)) fail_without_threads();
    throw;
  }
}

void sort_in_parallel(std::vector<std::pair<double, std::ptrdiff_t>>& values) {
  try {
    tbb::parallel_sort(values.begin(), values.end());
  } catch (const std::runtime_error& error) {
    if (tells_of_threads(error)) fail_without_threads();
    throw;
  }
}

#endif

}  // namespace truecurve::detail
