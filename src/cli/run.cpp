#include <fmt/format.h>

#include <algorithm>
#include <atomic>
#include <cmath>
#include <filesystem>
#include <mutex>
#include <thread>

#include "cli/batch.h"
#include "cli/cleaning.h"
#include "cli/run_record.h"
#include "core/base/memory.h"
#include "core/base/output.h"
#include "core/base/parallel.h"
#include "core/base/units.h"
#include "core/terrain/terrain.h"

namespace pristine::cli {
namespace {

using nlohmann::json;
namespace fs = std::filesystem;

// So many inputs at once as the cores and the memory allow; a point takes about 60 bytes while neighbours are
// looked for.
std::size_t jobs_for(const CleanRequest& r) {
    if (r.jobs > 0) return r.jobs;
    std::uint64_t largest = 1;
    for (const std::string& input : r.inputs) {
        std::error_code unknown;
        const auto bytes = fs::file_size(input, unknown);
        if (!unknown) largest = std::max<std::uint64_t>(largest, bytes);
    }
    return std::clamp<std::size_t>(static_cast<std::size_t>(memory_budget() / (3 * largest)), 1,
                                   parallel::workers());
}

// The other inputs, for buffers; what cannot be read is reported where it is cleaned.
std::vector<CloudPtr> read_all(const CleanRequest& r, Progress& progress) {
    std::vector<CloudPtr> clouds;
    for (const std::string& input : r.inputs) {
        try {
            clouds.push_back(read_input(input, r.common, progress).cloud);
        } catch (const Error&) {
            clouds.push_back(nullptr);
        }
    }
    return clouds;
}

// The ground is found in squares, whose side comes from the density of the points: tiles agree on one, which
// the rule then names. Two digits, so that it hardly depends on how the site was cut.
score::Recipe with_one_ground(score::Recipe recipe, const std::vector<CloudPtr>& tiles) {
    for (score::Step& step : recipe) {
        if (step.score != "ground" || (step.parameters.contains("cell") && step.parameters.at("cell") > 0))
            continue;
        std::vector<double> cells;
        for (const CloudPtr& tile : tiles)
            if (tile) {
                const double metres = length_unit(tile->unit()).metres;
                cells.push_back(terrain::cell_for(*tile, ElementSet::all(tile->size()), metres) / metres);
            }
        if (cells.empty()) continue;
        const auto middle = cells.begin() + static_cast<std::ptrdiff_t>(cells.size() / 2);
        std::nth_element(cells.begin(), middle, cells.end());
        const double digit = std::pow(10.0, std::floor(std::log10(*middle)) - 1);
        step.parameters["cell"] = std::round(*middle / digit) * digit;
    }
    return recipe;
}

// Everything that a result depends on besides its input.
std::string job_of(const CleanRequest& r, const score::Recipe& recipe) {
    return score::json_of(recipe) +
           fmt::format("{} {} {} {} {}", r.mark, r.buffer, r.reference, r.centreline, r.common.partial);
}

// Of earlier results: those that this job made are taken over, others are in the way.
std::vector<json> results_before(const CleanRequest& r, const std::vector<std::string>& outputs,
                                 const RunRecord& record) {
    std::vector<json> results(outputs.size());
    for (std::size_t i = 0; i < outputs.size(); ++i) {
        if (!r.common.force)
            if (const auto made = record.made(r.inputs[i], outputs[i])) {
                results[i] = *made;
                results[i]["done_before"] = true;
                continue;
            }
        OutputGroup guard(inputs_of(r.common));
        guard.expect(outputs[i], r.common.force);
    }
    return results;
}

std::string text_of_all(const std::vector<json>& results) {
    std::string text;
    for (const json& j : results)
        text += j.contains("error")
                    ? fmt::format("{}: {}\n", j["input"].get<std::string>(), j["error"].get<std::string>())
                    : (j.contains("done_before") ? "(done before) " : "") + text_of(j);
    return text;
}

// Calls work(i) on so many threads of its own: a thread that waits for parallel work inside one file must not
// begin another, whose outputs it would mix with its own.
void on_threads(std::size_t count, const std::function<void()>& work) {
    std::exception_ptr failure;
    std::mutex mutex;
    {
        std::vector<std::jthread> threads;
        for (std::size_t k = 0; k < count; ++k)
            threads.emplace_back([&] {
                try {
                    work();
                } catch (...) {
                    const std::lock_guard<std::mutex> guard(mutex);
                    failure = std::current_exception();
                }
            });
    }
    if (failure) std::rethrow_exception(failure);
}

// One bad input does not stop the rest.
void run_all(const CleanRequest& r, const std::string& folder) {
    score::Recipe recipe = recipe_of(r);
    const std::vector<std::string> outputs = outputs_in(folder, r.inputs);
    make_folder(folder);
    RunRecord record(folder, job_of(r, recipe));
    std::vector<json> results = results_before(r, outputs, record);
    with_progress([&](Progress& progress) {
        const Given given(r, progress);
        const std::vector<CloudPtr> tiles = r.buffer > 0 ? read_all(r, progress) : std::vector<CloudPtr>();
        recipe = with_one_ground(std::move(recipe), tiles);
        std::atomic<std::size_t> next{0}, done{0};
        on_threads(std::min(jobs_for(r), r.inputs.size()), [&] {
            for (std::size_t i = next++; i < r.inputs.size(); i = next++) {
                if (results[i].is_object()) continue;
                const std::string& input = r.inputs[i];
                std::vector<CloudPtr> others;
                for (std::size_t k = 0; k < tiles.size(); ++k)
                    if (k != i && tiles[k]) others.push_back(tiles[k]);
                Progress own;
                try {
                    progress.check();
                    OutputGroup together(inputs_of(r.common));
                    results[i] = clean(recipe, input, outputs[i], r, others, given, own);
                    record.add(input, outputs[i], results[i]);
                    together.commit();
                } catch (const Cancelled&) {
                    throw;
                } catch (const std::exception& e) {
                    results[i] = {{"input", input}, {"error", e.what()}};
                }
                progress.advance(static_cast<double>(++done) / static_cast<double>(r.inputs.size()));
            }
        });
    });
    const auto failed =
        std::count_if(results.begin(), results.end(), [](const json& j) { return j.contains("error"); });
    print(r.common, {{"results", results}, {"failed", failed}}, text_of_all(results));
    if (failed > 0)
        throw Error(ErrorCode::Format,
                    fmt::format("{} of {} files could not be cleaned", failed, r.inputs.size()));
}

}  // namespace

void add_run(CLI::App& app) {
    auto* sub = app.add_subcommand("run", "Run a recipe on many files");
    auto r = std::make_shared<CleanRequest>();
    auto folder = std::make_shared<std::string>();
    reads(sub->add_option("RECIPE", r->recipe, "File of rules"), r->common)->required();
    reads(sub->add_option("IN", r->inputs, "Input files"), r->common)->required();
    sub->add_option("--out-dir", *folder, "Folder for the results, under the names of the inputs")
        ->required();
    sub->add_option("--jobs", r->jobs, "So many files at once; usually as many as cores and memory allow");
    length_option(*sub, "--buffer", r->buffer,
                  "The inputs are tiles of one site: each is judged together with what others hold within "
                  "this distance of it (unit of the data)",
                  Least::Zero, r->common);
    add_given(*sub, *r);
    add_common(*sub, r->common, true, true);
    sub->callback([=] {
        expand_folders(r->inputs);
        run_all(*r, *folder);
    });
}

}  // namespace pristine::cli
