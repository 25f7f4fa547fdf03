#include <fmt/format.h>

#include "cli/command.h"
#include "core/io/keep.h"
#include "core/objects/objects.h"
#include "core/score/suggest.h"

namespace pristine::cli {
namespace {

using nlohmann::json;

struct ObjectsRequest {
    std::string input, output;
    std::vector<std::string> remove;
    Common common;
};

json object_json(const score::Object& o) {
    return {{"kind", score::name_of(o.kind)},
            {"points", o.count},
            {"centre", {o.centre.x, o.centre.y, o.centre.z}},
            {"length", o.length},
            {"width", o.width},
            {"height", o.height},
            {"footprint", o.footprint},
            {"planarity", o.planarity},
            {"scatter", o.scatter}};
}

void run(const ObjectsRequest& r) {
    json list = json::array(), kinds = json::object();
    std::string text;
    std::uint64_t before = 0, after = 0;
    with_progress(r.common, [&](Progress& progress) {
        const auto c = read_input(r.input, r.common, progress).cloud;
        const ElementSet all = ElementSet::all(c->size());
        const score::Input in{*c, all};
        const score::Column above = score::compute(score::find("ground"), in, {}, progress);
        const score::Objects objects(in, above, score::suggested_objects(*c), progress);
        std::uint64_t of[score::kObjectKinds] = {};
        for (const score::Object& o : objects.list()) {
            ++of[static_cast<std::size_t>(o.kind)];
            list.push_back(object_json(o));
            text += fmt::format(
                "{:<11} {:>9} points  {:5.1f} x {:4.1f} m, {:4.1f} m high, at {:.1f} {:.1f}\n",
                score::name_of(o.kind), o.count, o.length, o.width, o.height, o.centre.x, o.centre.y);
        }
        ElementSet gone(c->size());
        for (std::size_t k = 0; k < score::kObjectKinds; ++k) {
            const auto kind = static_cast<score::ObjectKind>(k);
            kinds[score::name_of(kind)] = of[k];
            if (std::find(r.remove.begin(), r.remove.end(), score::name_of(kind)) != r.remove.end())
                gone = gone | objects.of(kind);
        }
        before = c->size();
        after = before - gone.count();
        io::WriteOptions options;
        options.replace = r.common.force;
        if (!r.output.empty())
            io::write_cloud({{c, io::keep_all_but(*c, gone, progress)}}, r.output, options, progress);
    });
    print(r.common, {{"objects", list}, {"kinds", kinds}, {"before", before}, {"after", after}}, text);
}

}  // namespace

void add_objects(CLI::App& app) {
    auto* sub = app.add_subcommand("objects", "What stands on the ground, by kind");
    auto r = std::make_shared<ObjectsRequest>();
    std::vector<std::string> kinds;
    for (std::size_t k = 0; k < score::kObjectKinds; ++k)
        kinds.push_back(score::name_of(static_cast<score::ObjectKind>(k)));
    reads(sub->add_option("IN", r->input, "Point cloud"), r->common)->required();
    auto* out = writes(sub->add_option("-o,--output", r->output, "Write what is left"), r->common);
    sub->add_option("--remove", r->remove, "Kinds that are taken away, separated by commas")
        ->delimiter(',')
        ->check(CLI::IsMember(kinds))
        ->needs(out);
    add_common(*sub, r->common, true, true);
    sub->callback([=] { run(*r); });
}

}  // namespace pristine::cli
