// Parallel work through three named primitives. Only parallel.cpp knows the threading library.
//
// Laws (tested): 1. Every primitive gives the same result for any number of workers. 2. An exception thrown
// by a piece of work reaches the caller. 3. With a limit of one worker everything runs on the calling thread,
// in order.

#pragma once

#include <cstddef>
#include <functional>
#include <vector>

namespace pristine::parallel {

/// Calls work(i) once for each i in [0, count), in no particular order. The work must not touch shared state.
void for_each(std::size_t count, const std::function<void(std::size_t)>& work);

/// As for_each, in contiguous runs of at least `grain` indices: work(begin, end).
void for_ranges(std::size_t count, std::size_t grain,
                const std::function<void(std::size_t, std::size_t)>& work);

/// The results of work(0), work(1), …, in that order, so that a fold over them does not depend on the number
/// of workers.
template <class T>
std::vector<T> map(std::size_t count, const std::function<T(std::size_t)>& work) {
    std::vector<T> results(count);
    for_each(count, [&](std::size_t i) { results[i] = work(i); });
    return results;
}

/// How many workers there are, at least 1.
std::size_t workers();

/// While it lives, at most `limit` workers are used (process-wide). For tests and for the sequential twin.
class WorkerLimit {
  public:
    explicit WorkerLimit(std::size_t limit);
    ~WorkerLimit();
    WorkerLimit(const WorkerLimit&) = delete;
    WorkerLimit& operator=(const WorkerLimit&) = delete;

  private:
    std::size_t before_;
};

}  // namespace pristine::parallel
