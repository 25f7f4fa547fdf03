// `pristine archive`: a project with all that was removed in one compact file.

#include <fmt/format.h>

#include "cli/command.h"
#include "core/store/project.h"

namespace pristine::cli {

void add_archive(CLI::App& app) {
    struct Request {
        std::string input, output;
        bool size_only = false;
        Common common;
    };
    auto* sub = app.add_subcommand("archive", "A project with all that was removed in one compact file");
    auto r = std::make_shared<Request>();
    reads(sub->add_option("IN", r->input, "Project"), r->common)->required();
    auto* out = writes(sub->add_option("-o,--output", r->output, "Archive: .pristine"), r->common);
    sub->add_flag("--size", r->size_only, "Say how large it would be, and write nothing")->excludes(out);
    add_common(*sub, r->common, false, true);
    sub->callback([=] {
        if (r->output.empty() && !r->size_only)
            throw Error(ErrorCode::Usage, "It is not said where to", {}, "Give -o, or --size.");
        std::uint64_t bytes = 0;
        with_progress(r->common, [&](Progress&) {
            const auto project = store::Project::open(r->input, store::Project::Access::Read);
            bytes = project->copy_bytes();
            if (!r->size_only) project->copy_to(r->output, r->common.force);
        });
        print(r->common,
              {{"input", r->input}, {"output", r->output}, {"bytes", bytes}, {"written", !r->size_only}},
              r->size_only ? fmt::format("about {:.1f} MB\n", static_cast<double>(bytes) / 1e6)
                           : fmt::format("Written: {}\n", r->output));
    });
}

}  // namespace pristine::cli
