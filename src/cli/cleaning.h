// What `clean` and `run` share: one file cleaned by a recipe.

#pragma once

#include <memory>
#include <nlohmann/json.hpp>
#include <string>
#include <vector>

#include "cli/command.h"
#include "core/recipe/recipe.h"

namespace pristine::cli {

struct CleanRequest {
    std::vector<std::string> rules, inputs;
    std::string recipe, output, mark, removed, ledger, reference, centreline;
    bool keep = false, dry_run = false;
    unsigned jobs = 0;  // 0: as many as the cores and the memory allow
    double buffer = 0;  // of tiles, data unit; 0: each input stands alone
    Common common;
};

using CloudPtr = std::shared_ptr<const cloud::PointCloud>;

// What rules compare with, or go by, whatever its name.
class Given {
  public:
    Given(const CleanRequest&, Progress&);
    /// For data of that reference: the line is brought to it.
    score::ScanContext company(const cloud::Reference& of) const;

  private:
    CloudPtr other_;
    ElementSet members_;
    std::string centreline_;
};

/// The rules of the recipe file and of the options. Throws Error(Usage) when there are none.
score::Recipe recipe_of(const CleanRequest&);

/// What a recipe takes of a cloud, seen together with what lies within the buffer round it.
std::vector<score::Removal> removals_of(const score::Recipe&, const CloudPtr&,
                                        const std::vector<CloudPtr>& others, const Given&, double buffer,
                                        Progress&);
/// The class of each record after the steps that give one; null: none does.
std::shared_ptr<const std::vector<std::uint8_t>> classes_after(const std::vector<score::Removal>&,
                                                               const CloudPtr&, Progress&);
/// Union of what steps took out.
ElementSet taken_out(const std::vector<score::Removal>&, std::uint64_t size);

/// Cleans one file; what is printed of it. `others`: the neighbours of a tile, within the buffer. The files
/// appear when the group of the caller commits.
nlohmann::json clean(const score::Recipe&, const std::string& input, const std::string& output,
                     const CleanRequest&, const std::vector<CloudPtr>& others, const Given&, Progress&);
std::string text_of(const nlohmann::json& cleaned);

/// Adds what rules may compare with.
void add_given(CLI::App&, CleanRequest&);

}  // namespace pristine::cli
