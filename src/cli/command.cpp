#include "cli/command.h"

#include <fmt/format.h>
#include <unistd.h>

#include <chrono>
#include <condition_variable>
#include <cstdio>
#include <thread>

#include "core/base/memory.h"

namespace pristine::cli {

void add_common(CLI::App& app, Common& c, bool reads, bool writes) {
    app.add_flag("--json", c.json, "Print one JSON object on standard output");
    if (reads)
        app.add_flag("--partial", c.partial, "Read what a broken file still holds instead of refusing it");
    if (reads)
        app.add_option_function<std::string>(
            "--memory", [](const std::string& text) { set_memory_budget(parse_bytes(text)); },
            "How much memory may be used, e.g. 2G; clouds that do not fit go through a scratch file");
    if (writes) app.add_flag("--force", c.force, "Replace an existing output file");
}

void with_progress(const std::function<void(Progress&)>& work) {
    Progress progress;
    if (!isatty(STDERR_FILENO)) return work(progress);
    std::mutex mutex;
    std::condition_variable done;
    bool finished = false;
    std::thread watcher([&] {
        std::unique_lock<std::mutex> lock(mutex);
        while (!done.wait_for(lock, std::chrono::milliseconds(500), [&] { return finished; }))
            fmt::print(stderr, "\r{:<32} {:3.0f} %", progress.label(), 100 * progress.fraction());
        fmt::print(stderr, "\r{:<40}\r", "");
    });
    const auto stop = [&] {
        {
            const std::lock_guard<std::mutex> guard(mutex);
            finished = true;
        }
        done.notify_all();
        watcher.join();
    };
    try {
        work(progress);
    } catch (...) {
        stop();
        throw;
    }
    stop();
}

io::ReadResult read_input(const std::filesystem::path& path, const Common& c, Progress& progress) {
    io::ReadOptions options;
    options.accept_partial = c.partial;
    progress.stretch(0, 0.5, "Reading points");
    io::ReadResult r = io::read_cloud(path, options, progress);
    for (const std::string& w : r.warnings) fmt::print(stderr, "{}: {}\n", path.filename().string(), w);
    return r;
}

void refuse_overwriting_input(const std::vector<std::string>& inputs, const std::string& output) {
    for (const std::string& in : inputs) {
        std::error_code error;
        if (std::filesystem::equivalent(in, output, error))
            throw Error(ErrorCode::Usage, "The output would overwrite its input", output,
                        "Choose another name.");
    }
}

void print(const Common& c, const nlohmann::json& j, const std::string& text) {
    // Names in files need not be valid UTF-8; what is not is replaced, so that the output is always valid
    // JSON.
    const std::string out =
        c.json ? j.dump(2, ' ', false, nlohmann::json::error_handler_t::replace) + "\n" : text;
    std::fwrite(out.data(), 1, out.size(), stdout);
}

}  // namespace pristine::cli
