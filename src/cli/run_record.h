// What `run` has finished in an output folder, so that a run that was ended goes on where it stopped.
//
// The file pristine-run.jsonl has a line of JSON for each finished input: what was printed of it, with the
// recipe and the state of the input. A line is written before its output appears; an output that exists and
// has a line was therefore made by that recipe from that input, and outputs are whole or absent.

#pragma once

#include <map>
#include <mutex>
#include <nlohmann/json.hpp>
#include <optional>
#include <string>

namespace pristine::cli {

class RunRecord {
  public:
    /// Reads what is there; a last line that was cut off does not count. `job`: what results depend on
    /// besides the input (recipe, marks, buffer).
    RunRecord(const std::filesystem::path& folder, std::string job);
    ~RunRecord();
    RunRecord(const RunRecord&) = delete;
    RunRecord& operator=(const RunRecord&) = delete;

    /// What was printed when this output was made from the input as it is now, by this job.
    std::optional<nlohmann::json> made(const std::string& input, const std::string& output) const;
    /// Adds a line and brings it to the disk. Thread safe. Throws Error(Io).
    void add(const std::string& input, const std::string& output, const nlohmann::json& result);

  private:
    std::filesystem::path path_;
    std::string job_;
    std::map<std::string, nlohmann::json> lines_;  // by output
    std::mutex mutex_;
    int fd_ = -1;
};

}  // namespace pristine::cli
