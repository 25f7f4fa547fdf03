// `pristine`: the operations of the program as sub-commands, without a window.

#include <fmt/format.h>

#include <chrono>

#include "cli/command.h"
#include "core/base/log.h"
#include "core/base/memory.h"
#include "core/base/output.h"

namespace {

std::string said_by(int argc, char** argv) {
    std::string all;
    for (int k = 1; k < argc; ++k) all += (k > 1 ? " " : "") + std::string(argv[k]);
    return all;
}

}  // namespace

int main(int argc, char** argv) {
    using namespace pristine;
    remove_unfinished_on_signals();
    give_freed_pages_back();
    CLI::App app{"Cleans point clouds, scan meshes and terrain surfaces"};
    app.set_version_flag("--version", PRISTINE_VERSION);
    std::string log_file;
    app.add_option("--log", log_file, "Write what is done, and what goes wrong, to this file")
        ->each([&](const std::string& f) {
            log::open(f);
            log::info("pristine v" PRISTINE_VERSION ": " + said_by(argc, argv));
        });
    app.fallthrough();  // before or after the name of the command
    const auto begun = std::chrono::steady_clock::now();
    app.require_subcommand(1);
    cli::add_info(app);
    cli::add_convert(app);
    cli::add_select(app);
    cli::add_scores(app);
    cli::add_score(app);
    cli::add_clean(app);
    cli::add_classify(app);
    cli::add_thin(app);
    cli::add_place(app);
    cli::add_align(app);
    cli::add_fit(app);
    cli::add_run(app);
    cli::add_tunnel(app);
    cli::add_objects(app);
    cli::add_surface(app);
    cli::add_measure(app);
    cli::add_marks(app);
    cli::add_merge(app);
    cli::add_stockpiles(app);
    cli::add_sections(app);
    cli::add_markers(app);
    cli::add_mesh(app);
    cli::add_difference(app);
    cli::add_report(app);
    cli::add_sheet(app);
    cli::add_deliver(app);
    cli::add_picture(app);
    cli::add_archive(app);
    cli::add_demo(app);
    try {
        app.parse(argc, argv);
    } catch (const CLI::ParseError& e) {
        return app.exit(e) == 0 ? cli::kDone : cli::kWrongUsage;
    } catch (const Error& e) {
        log::error(e.what());
        fmt::print(stderr, "{}\n", cli::told(e));
        return e.code() == ErrorCode::Usage ? cli::kWrongUsage : cli::kFault;
    } catch (const Cancelled&) {
        fmt::print(stderr, "Cancelled.\n");
        return cli::kFault;
    } catch (const std::bad_alloc&) {
        fmt::print(stderr, "There is not enough memory for this.\n");
        return cli::kFault;
    } catch (const std::exception& e) {
        log::error(e.what());
        fmt::print(stderr, "Something went wrong that should not: {}.\n", e.what());
        return cli::kFault;
    }
    log::info("done", std::chrono::duration<double>(std::chrono::steady_clock::now() - begun).count());
    return cli::kDone;
}
