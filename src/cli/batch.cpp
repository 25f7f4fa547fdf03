#include "cli/batch.h"

#include <fmt/format.h>

#include <algorithm>
#include <filesystem>
#include <map>

#include "core/base/output.h"

namespace pristine::cli {

namespace fs = std::filesystem;
using nlohmann::json;

std::vector<std::string> outputs_in(const std::string& folder, const std::vector<std::string>& inputs) {
    std::vector<std::string> outputs;
    std::map<std::string, std::string>
        taken;  // by name, whatever the case: some disks do not tell them apart
    for (const std::string& input : inputs) {
        const std::string name = fs::path(input).filename().string();
        std::string key = name;
        std::transform(key.begin(), key.end(), key.begin(),
                       [](char c) { return 'A' <= c && c <= 'Z' ? static_cast<char>(c + 32) : c; });
        const auto [other, fresh] = taken.emplace(key, input);
        if (!fresh)
            throw Error(ErrorCode::Usage,
                        fmt::format("'{}' and '{}' would be written to one name", other->second, input),
                        (fs::path(folder) / name).string(), "Run them into folders of their own.");
        outputs.push_back((fs::path(folder) / name).string());
    }
    return outputs;
}

void make_folder(const std::string& folder) {
    std::error_code error;
    fs::create_directories(folder, error);
    if (error || !fs::is_directory(folder))
        throw Error(ErrorCode::Io, "The folder for the results cannot be made", folder,
                    error ? error.message() + "." : "There is a file of that name.");
}

void add_batch(CLI::App& app, Batch& b, Common& c, const std::string& dry_run_help) {
    reads(app.add_option("IN", b.inputs, "Input files, or folders of them"), c)->required();
    auto* output = writes(app.add_option("-o,--output", b.output, "Output file, of one input"), c);
    auto* folder =
        app.add_option("--out-dir", b.folder, "Folder for the results of several inputs, under their names");
    output->excludes(folder);
    app.add_flag("--dry-run", b.dry_run, dry_run_help)->excludes(output)->excludes(folder);
}

namespace {

// Lengths with a unit wait for the unit of the data anew with each input: not all count in one.
class Lengths {
  public:
    explicit Lengths(const Common& c) : common_(c), given_(*c.lengths) {}
    void wait_again() const {
        *common_.lengths = given_;
        std::string unit;
        for (const Common::Length& l : given_) split_length(l.typed, *l.value, unit);
    }

  private:
    const Common& common_;
    std::vector<Common::Length> given_;
};

void require_outputs(const Batch& b, bool many) {
    if (b.dry_run) return;
    if (b.output.empty() && b.folder.empty())
        throw Error(ErrorCode::Usage, "There is no output", {},
                    many ? "Give --out-dir, or --dry-run." : "Give -o, or --dry-run.");
    if (many && b.folder.empty())
        throw Error(ErrorCode::Usage, "Several inputs cannot go into one output", b.output,
                    "Give --out-dir; 'pristine merge' makes one file of several.");
}

// Nothing is begun when a result is in the way of anything.
std::vector<std::string> outputs_of(const Batch& b, const Common& c) {
    if (b.dry_run) return std::vector<std::string>(b.inputs.size());
    if (b.folder.empty()) return {b.output};
    std::vector<std::string> outputs = outputs_in(b.folder, b.inputs);
    make_folder(b.folder);
    for (const std::string& out : outputs) {
        OutputGroup guard(inputs_of(c));
        guard.expect(out, c.force);
    }
    return outputs;
}

}  // namespace

void run_batch(Batch b, Common& c,
               const std::function<json(const std::string& input, const std::string& output, Progress&)>& one,
               const std::function<std::string(const json&)>& said) {
    expand_folders(b.inputs);
    const bool many = b.inputs.size() > 1;
    require_outputs(b, many);
    const std::vector<std::string> outputs = outputs_of(b, c);
    const Lengths lengths(c);
    if (!many) {
        json j;
        // Its output is known by another option than the one that names it when it lies in a folder.
        with_progress([&](Progress& p) {
            OutputGroup together(inputs_of(c));
            for (const std::filesystem::path& out : files_of(c.outputs)) together.expect(out, c.force);
            if (!b.folder.empty()) together.expect(outputs[0], c.force);
            j = one(b.inputs[0], outputs[0], p);
            together.commit();
        });
        return print(c, j, said(j));
    }
    json results = json::array();
    std::string text;
    std::size_t failed = 0;
    with_progress([&](Progress& p) {
        for (std::size_t i = 0; i < b.inputs.size(); ++i) {
            lengths.wait_again();
            const Progress::Part part(p, static_cast<double>(i) / static_cast<double>(b.inputs.size()),
                                      static_cast<double>(i + 1) / static_cast<double>(b.inputs.size()),
                                      p.label());
            try {
                OutputGroup together(inputs_of(c));
                if (!outputs[i].empty()) together.expect(outputs[i], c.force);
                json j = one(b.inputs[i], outputs[i], p);
                together.commit();
                text += said(j);
                results.push_back(std::move(j));
            } catch (const Cancelled&) {
                throw;
            } catch (const std::exception& e) {
                results.push_back({{"input", b.inputs[i]}, {"error", e.what()}});
                text += fmt::format("{}: {}\n", b.inputs[i], e.what());
                ++failed;
            }
        }
    });
    print(c, {{"results", results}, {"failed", failed}}, text);
    if (failed > 0)
        throw Error(ErrorCode::Format,
                    fmt::format("{} of {} files could not be worked on", failed, b.inputs.size()));
}

}  // namespace pristine::cli
