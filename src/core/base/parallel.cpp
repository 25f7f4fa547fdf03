#include "core/base/parallel.h"

#include <tbb/blocked_range.h>
#include <tbb/info.h>
#include <tbb/parallel_for.h>
#include <tbb/task_arena.h>

#include <atomic>
#include <memory>
#include <mutex>

namespace pristine::parallel {
namespace {

std::atomic<std::size_t> g_limit{0};  // 0: no limit

std::size_t hardware() {
    return static_cast<std::size_t>(std::max(1, tbb::info::default_concurrency()));
}

}  // namespace

std::size_t workers() {
    const std::size_t limit = g_limit;
    return limit == 0 ? hardware() : std::min(limit, hardware());
}

void for_each(std::size_t count, const std::function<void(std::size_t)>& work) {
    if (workers() == 1 || count < 2) {
        for (std::size_t i = 0; i < count; ++i) work(i);
        return;
    }
    tbb::parallel_for(std::size_t{0}, count, [&](std::size_t i) { work(i); });
}

void for_ranges(std::size_t count, std::size_t grain,
                const std::function<void(std::size_t, std::size_t)>& work) {
    if (count == 0) return;
    if (workers() == 1 || count <= grain) {
        work(0, count);
        return;
    }
    tbb::parallel_for(tbb::blocked_range<std::size_t>(0, count, grain),
                      [&](const tbb::blocked_range<std::size_t>& r) { work(r.begin(), r.end()); });
}

WorkerLimit::WorkerLimit(std::size_t limit) : before_(g_limit.exchange(limit)) {}
WorkerLimit::~WorkerLimit() {
    g_limit = before_;
}

}  // namespace pristine::parallel
