#include "cli/run_record.h"

#include <fcntl.h>
#include <fmt/format.h>
#include <unistd.h>

#include <filesystem>
#include <fstream>

#include "core/base/error.h"

namespace pristine::cli {
namespace {

namespace fs = std::filesystem;
using nlohmann::json;

// Changes whenever the file does.
std::string state_of(const fs::path& input) {
    std::error_code none;
    const auto bytes = fs::file_size(input, none);
    const auto time = fs::last_write_time(input, none);
    return none ? std::string() : fmt::format("{} {}", bytes, time.time_since_epoch().count());
}

}  // namespace

RunRecord::RunRecord(const fs::path& folder, std::string job)
    : path_(folder / "pristine-run.jsonl"), job_(std::move(job)) {
    std::ifstream in(path_);
    for (std::string line; std::getline(in, line);) {
        const json j = json::parse(line, nullptr, false);
        if (j.is_object() && j.value("output", json()).is_string()) lines_[j["output"]] = j;
    }
}

RunRecord::~RunRecord() {
    if (fd_ >= 0) ::close(fd_);
}

std::optional<json> RunRecord::made(const std::string& input, const std::string& output) const {
    const auto line = lines_.find(fs::path(output).filename().string());
    if (line == lines_.end() || !fs::exists(output)) return std::nullopt;
    const json& j = line->second;
    if (j.value("job", json()) != job_ || j.value("input", json()) != fs::absolute(input).string() ||
        j.value("state", json()) != state_of(input) || !j.value("result", json()).is_object())
        return std::nullopt;
    return j["result"];
}

void RunRecord::add(const std::string& input, const std::string& output, const json& result) {
    const json j{{"output", fs::path(output).filename().string()},
                 {"input", fs::absolute(input).string()},
                 {"state", state_of(input)},
                 {"job", job_},
                 {"result", result}};
    // After a line that was cut off the next one begins anew.
    std::string line = j.dump(-1, ' ', false, json::error_handler_t::replace) + "\n";
    const std::lock_guard<std::mutex> guard(mutex_);
    if (fd_ < 0) {
        fd_ = ::open(path_.c_str(), O_WRONLY | O_CREAT | O_APPEND | O_NOFOLLOW | O_CLOEXEC, 0666);
        line = "\n" + line;
    }
    if (fd_ < 0 || ::write(fd_, line.data(), line.size()) != static_cast<ssize_t>(line.size()) ||
        ::fdatasync(fd_) != 0)
        throw Error(ErrorCode::Io, "The record of the run could not be written", path_.string());
}

}  // namespace pristine::cli
