#include "base/parallel.h"

#include <algorithm>
#include <atomic>
#include <exception>
#include <system_error>
#include <thread>
#include <vector>

namespace periscena {

void parallel_for(std::size_t count, const std::function<void(std::size_t)>& work) {
  std::vector<std::exception_ptr> thrown(count);
  std::atomic<std::size_t> next = 0;
  const auto take = [&] {
    for (std::size_t i = next++; i < count; i = next++) {
      try {
        work(i);
      } catch (...) {
        thrown[i] = std::current_exception();
      }
    }
  };
  std::vector<std::jthread> helpers;
  const std::size_t threads = std::min<std::size_t>(count, std::max(1u, std::thread::hardware_concurrency()));
  try {
    while (helpers.size() + 1 < threads) helpers.emplace_back(take);
  } catch (const std::system_error&) {
    // The system has no more threads: those that are there do it.
  }
  take();
  helpers.clear();
  for (const std::exception_ptr& one : thrown) {
    if (one) std::rethrow_exception(one);
  }
}

}  // namespace periscena
