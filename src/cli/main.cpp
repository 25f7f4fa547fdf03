// `pristine`: the operations of the program as sub-commands, without a window.

#include <fmt/format.h>

#include "cli/command.h"
#include "core/base/memory.h"
#include "core/base/output.h"

int main(int argc, char** argv) {
    using namespace pristine;
    remove_unfinished_on_signals();
    give_freed_pages_back();
    CLI::App app{"Cleans point clouds, scan meshes and terrain surfaces"};
    app.set_version_flag("--version", PRISTINE_VERSION);
    app.require_subcommand(1);
    cli::add_info(app);
    cli::add_convert(app);
    cli::add_select(app);
    cli::add_scores(app);
    cli::add_score(app);
    cli::add_clean(app);
    cli::add_run(app);
    cli::add_tunnel(app);
    cli::add_objects(app);
    cli::add_surface(app);
    cli::add_measure(app);
    cli::add_mesh(app);
    cli::add_difference(app);
    cli::add_demo(app);
    try {
        app.parse(argc, argv);
    } catch (const CLI::ParseError& e) {
        return app.exit(e) == 0 ? cli::kDone : cli::kWrongUsage;
    } catch (const Error& e) {
        fmt::print(stderr, "{}\n", cli::told(e));
        return e.code() == ErrorCode::Usage ? cli::kWrongUsage : cli::kFault;
    } catch (const Cancelled&) {
        fmt::print(stderr, "Cancelled.\n");
        return cli::kFault;
    } catch (const std::bad_alloc&) {
        fmt::print(stderr, "There is not enough memory for this.\n");
        return cli::kFault;
    } catch (const std::exception& e) {
        fmt::print(stderr, "Something went wrong that should not: {}.\n", e.what());
        return cli::kFault;
    }
    return cli::kDone;
}
