#include "core/base/log.h"

#include <spdlog/sinks/rotating_file_sink.h>
#include <spdlog/spdlog.h>

#include <algorithm>
#include <cctype>
#include <fstream>
#include <mutex>
#include <regex>

#include "core/base/error.h"

namespace pristine::log {
namespace {

constexpr std::size_t kSize = 1u << 20, kOlder = 3;
constexpr std::size_t kWholeDigits = 5;

std::mutex mutex;
std::shared_ptr<spdlog::logger> logger;
std::filesystem::path written;

std::shared_ptr<spdlog::logger> now() {
    const std::lock_guard<std::mutex> guard(mutex);
    return logger;
}

// Whoever names a scan by mistake does not want lines at its end.
void require_log(const std::filesystem::path& path) {
    std::ifstream in(path, std::ios::binary);
    std::string line(64, '\0');
    in.read(line.data(), static_cast<std::streamsize>(line.size()));
    line.resize(static_cast<std::size_t>(std::max<std::streamsize>(0, in.gcount())));
    static const std::regex ours("^[0-9]{4}-[0-9]{2}-[0-9]{2} [0-9]{2}:[0-9]{2}:[0-9]{2}\\.[0-9]{3} [IE] ");
    if (!line.empty() && !std::regex_search(line, ours))
        throw Error(ErrorCode::Usage, "The file for the log exists and is no log", path.string(),
                    "Name another file.");
}

bool is_digit(char c) {
    return c >= '0' && c <= '9';
}

}  // namespace

std::string redacted(const std::string& s) {
    std::string out;
    for (std::size_t i = 0; i < s.size();) {
        if (!is_digit(s[i])) {
            out += s[i++];
            continue;
        }
        std::size_t end = i;
        bool mark = false;
        while (end < s.size() && (is_digit(s[end]) || ((s[end] == '.' || s[end] == ',') &&
                                                       end + 1 < s.size() && is_digit(s[end + 1])))) {
            mark |= !is_digit(s[end]);
            ++end;
        }
        // Parts of a name, as in EPSG:25832 or day-20261130.las, are no measured values.
        const bool in_name = i > 0 && (std::isalpha(static_cast<unsigned char>(s[i - 1])) ||
                                       s[i - 1] == ':' || s[i - 1] == '-' || s[i - 1] == '_');
        const bool value = !in_name && (mark || end - i >= kWholeDigits);
        if (value)
            out += '#';
        else
            out.append(s, i, end - i);
        i = end;
    }
    return out;
}

void open(const std::filesystem::path& path) {
    require_log(path);
    try {
        if (!path.parent_path().empty()) std::filesystem::create_directories(path.parent_path());
        auto sink = std::make_shared<spdlog::sinks::rotating_file_sink_mt>(path.string(), kSize, kOlder);
        auto fresh = std::make_shared<spdlog::logger>("pristine", std::move(sink));
        fresh->set_pattern("%Y-%m-%d %H:%M:%S.%e %L %v");
        fresh->flush_on(spdlog::level::info);
        const std::lock_guard<std::mutex> guard(mutex);
        logger = std::move(fresh);
        written = path;
    } catch (const std::exception& e) {
        throw Error(ErrorCode::Io, std::string("The log cannot be written: ") + e.what(), path.string(),
                    "Name another file, or leave --log out.");
    }
}

void close() {
    const std::lock_guard<std::mutex> guard(mutex);
    logger = nullptr;
    written.clear();
}

std::filesystem::path file() {
    const std::lock_guard<std::mutex> guard(mutex);
    return written;
}

void info(const std::string& sentence) {
    if (const auto l = now()) l->info(redacted(sentence));
}

void info(const std::string& sentence, double seconds) {
    if (const auto l = now()) l->info("{} ({:.2f} s)", redacted(sentence), seconds);
}

void error(const std::string& sentence) {
    if (const auto l = now()) l->error(redacted(sentence));
}

}  // namespace pristine::log
