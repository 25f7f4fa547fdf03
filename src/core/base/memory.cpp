#include "core/base/memory.h"

#include <fmt/format.h>
#include <malloc.h>
#include <unistd.h>

#include <algorithm>
#include <atomic>
#include <charconv>
#include <cstdlib>
#include <fstream>
#include <mutex>

#include "core/base/error.h"

namespace pristine {
namespace {

constexpr std::uint64_t kLeastBudget = std::uint64_t{256} << 20;

std::uint64_t machine_memory() {
    const long pages = ::sysconf(_SC_PHYS_PAGES), size = ::sysconf(_SC_PAGE_SIZE);
    return pages > 0 && size > 0 ? static_cast<std::uint64_t>(pages) * static_cast<std::uint64_t>(size)
                                 : std::uint64_t{4} << 30;
}

std::uint64_t budget_at_start() {
    if (const char* text = std::getenv("PRISTINE_MEMORY")) {
        try {
            return std::max(kLeastBudget, parse_bytes(text));
        } catch (const Error&) {  // a variable that says nothing useful is as good as none
        }
    }
    return std::max(kLeastBudget, machine_memory() / 2);
}

std::atomic<std::uint64_t>& budget() {
    static std::atomic<std::uint64_t> bytes{budget_at_start()};
    return bytes;
}

}  // namespace

std::uint64_t resident_now() {
    std::ifstream statm("/proc/self/statm");
    std::uint64_t total = 0, resident = 0;
    statm >> total >> resident;
    return resident * static_cast<std::uint64_t>(::sysconf(_SC_PAGE_SIZE));
}

std::uint64_t memory_budget() {
    return budget();
}
void set_memory_budget(std::uint64_t bytes) {
    budget() = std::max(kLeastBudget, bytes);
}
bool fits_memory(std::uint64_t bytes) {
    const std::uint64_t limit = budget(), now = resident_now();
    return now < limit && bytes <= limit - now;
}

std::uint64_t parse_bytes(const std::string& text) {
    double number = 0;
    const auto [end, problem] = std::from_chars(text.data(), text.data() + text.size(), number);
    const std::string unit(end, text.data() + text.size());
    const std::size_t power = unit.empty() ? 0 : std::string("KMGT").find(unit[0]) + 1;
    double bytes = number;
    for (std::size_t i = 0; i < power; ++i) bytes *= 1024;
    if (problem != std::errc{} || unit.size() > 1 || (!unit.empty() && power == 0) || !(bytes >= 0) ||
        bytes > 1e15)
        throw Error(ErrorCode::Usage, "'" + text + "' is no amount of memory", {},
                    "Write for example 6G or 1536M.");
    return static_cast<std::uint64_t>(bytes);
}

std::string bytes_text(std::uint64_t bytes) {
    const char* units[] = {"bytes", "KiB", "MiB", "GiB", "TiB"};
    auto v = static_cast<double>(bytes);
    std::size_t u = 0;
    for (; v >= 1024 && u < 4; ++u) v /= 1024;
    return u == 0 ? fmt::format("{} bytes", bytes) : fmt::format("{:.1f} {}", v, units[u]);
}

namespace {

std::mutex scratch_mutex;
std::filesystem::path scratch_set;

}  // namespace

void set_scratch_folder(const std::filesystem::path& folder) {
    const std::lock_guard<std::mutex> guard(scratch_mutex);
    scratch_set = folder;
}

std::filesystem::path scratch_folder() {
    namespace fs = std::filesystem;
    if (const char* own = std::getenv("PRISTINE_SCRATCH"); own && *own) return own;
    {
        const std::lock_guard<std::mutex> guard(scratch_mutex);
        std::error_code none;
        if (!scratch_set.empty() && fs::is_directory(scratch_set, none) &&
            ::access(scratch_set.c_str(), W_OK) == 0)
            return scratch_set;
    }
    fs::path folder;
    if (const char* cache = std::getenv("XDG_CACHE_HOME"); cache && *cache)
        folder = cache;
    else if (const char* home = std::getenv("HOME"); home && *home)
        folder = fs::path(home) / ".cache";
    std::error_code failed;
    if (!folder.empty()) {
        folder /= "pristine-cloud";
        fs::create_directories(folder, failed);
        if (!failed && ::access(folder.c_str(), W_OK) == 0) return folder;
    }
    return fs::temp_directory_path();
}

ResidentMemory resident_memory() {
    ResidentMemory memory;
    std::ifstream status("/proc/self/status");
    std::string key;
    std::uint64_t kib = 0;
    while (status >> key) {
        if (key == "VmRSS:" && status >> kib) memory.now = kib * 1024;
        if (key == "VmHWM:" && status >> kib) memory.peak = kib * 1024;
    }
    return memory;
}

void give_freed_pages_back() {
    // A fixed threshold: left alone, glibc raises it after the first large free and then keeps freed pages in
    // its heap.
    mallopt(M_MMAP_THRESHOLD, 128 * 1024);
}

}  // namespace pristine
