#include <fmt/format.h>

#include "cli/command.h"
#include "core/io/fence_file.h"
#include "core/io/keep.h"
#include "core/select/fence.h"

namespace pristine::cli {
namespace {

struct SelectRequest {
    std::string input, output, fence;
    std::string mark;
    bool inside = false, outside = false;
    Common common;
};

void run(const SelectRequest& r) {
    std::uint64_t before = 0, after = 0;
    with_progress(r.common, [&](Progress& p) {
        const auto cloud = read_input(r.input, r.common, p).cloud;
        const std::vector<Polygon> rings = read_rings_in(r.fence, cloud->reference());
        const ElementSet in = select::plan_fence(*cloud, rings, ElementSet::all(cloud->size()), p);
        const auto keep = io::keep_all_but(*cloud, r.outside ? in : ~in, p);
        before = cloud->size();
        const io::Dropped dropped = r.mark == "withheld"  ? io::Dropped::Withheld
                                    : r.mark == "class"   ? io::Dropped::Noise
                                    : r.mark == "class18" ? io::Dropped::HighNoise
                                                          : io::Dropped::LeftOut;
        const auto written = io::write_cloud({{cloud, keep, dropped}}, r.output, {r.common.force}, p);
        after = dropped == io::Dropped::LeftOut ? written : keep->count();
    });
    print(r.common, {{"before", before}, {"after", after}, {"output", r.output}},
          fmt::format("{} of {} points lie {} the fence and were written to {}\n", after, before,
                      r.outside ? "outside" : "inside", r.output));
}

}  // namespace

void add_select(CLI::App& app) {
    auto* sub = app.add_subcommand("select", "Keep what lies inside (or outside) closed lines in plan");
    auto r = std::make_shared<SelectRequest>();
    reads(sub->add_option("IN", r->input, "Input file"), r->common)->required();
    reads(sub->add_option("--fence", r->fence,
                          "File with closed lines: GeoJSON, or text with 'x y' on each line"),
          r->common)
        ->required();
    auto* inside = sub->add_flag("--inside", r->inside, "Keep what lies inside (the default)");
    sub->add_flag("--outside", r->outside, "Keep what lies outside")->excludes(inside);
    sub->add_option("--mark", r->mark, "Write the others too, marked: withheld flag, or class 7 (LAS, LAZ)")
        ->check(CLI::IsMember({"withheld", "class", "class18"}));
    writes(sub->add_option("-o,--output", r->output, "Output file"), r->common)->required();
    add_common(*sub, r->common, true, true);
    sub->callback([=] { run(*r); });
}

}  // namespace pristine::cli
