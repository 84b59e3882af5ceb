// TBB, or under the thread sanitizer what it can follow.
#include "parallel.hpp"

#if defined(TRUECURVE_WATCHED_THREADS)
#include <algorithm>
#include <atomic>
#include <exception>
#include <mutex>
#include <thread>
#else
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

void in_parallel(std::size_t tasks, const std::function<void(std::size_t)>& body) {
  tbb::parallel_for(std::size_t{0}, tasks, body);
}

void sort_in_parallel(std::vector<std::pair<double, std::ptrdiff_t>>& values) {
  tbb::parallel_sort(values.begin(), values.end());
}

#endif

}  // namespace truecurve::detail
