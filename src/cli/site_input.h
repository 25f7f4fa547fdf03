// A site for the commands that hand over: a project, or data, lines and a recipe put together as one.

#pragma once

#include <string>
#include <vector>

#include "cli/command.h"
#include "core/report/compose.h"
#include "core/site/site.h"

namespace pristine::cli {

struct SiteRequest {
    std::vector<std::string> inputs, lines, dates;
    std::string recipe, name;
    Common common;
};

/// What was read, and what belongs to it.
struct GivenSite {
    site::SitePtr site;
    std::string project;      ///< path; empty: none was given
    std::string setup{};      ///< note of the project
    std::string templates{};  ///< likewise
    std::string recipe{};     ///< as JSON; empty: none was run
};
/// A project as it is after its last step, which may be open in a window; or one item for each that the
/// inputs hold, with the recipe's decisions. Throws Error, Cancelled.
GivenSite read_site(const SiteRequest&, Progress&);

/// IN, --lines, --date, --recipe, --name and what is common.
void add_site_input(CLI::App&, SiteRequest&);

/// What reports, sheets, pictures and deliverables are made of.
report::Material material_of(const GivenSite&);
/// The report's setup as the project keeps it, else as it is proposed. Throws Error(Format).
report::Setup setup_of(const GivenSite&);
/// Takes over what was said; nothing said leaves it as it is.
inline void take_said(std::string& where, const std::string& said) {
    if (!said.empty()) where = said;
}

/// "change.band=0.05" for the parts of that kind: a number, or a word. Throws Error(Usage).
void apply_setting(report::Setup&, const std::string& text);

/// "2026-11-25".
std::string today();

}  // namespace pristine::cli
