#include "core/site/written.h"

#include <algorithm>

#include "core/io/keep.h"
#include "core/site/item_classes.h"
#include "core/site/surface_source.h"

namespace pristine::site {
namespace {

io::WriteItem whole(const Item& item, Progress& progress) {
    io::WriteItem out{item.cloud};
    out.name = item.name;
    out.classes = classes_by_record(item, progress);
    if (!item.source) return out;
    const surface::Definition& d = item.source->definition;
    for (const surface::Breakline& b : d.breaklines) out.breaklines.push_back({b.name, b.points, b.closed});
    for (const auto& ring : d.boundary) out.boundaries.push_back({"boundary", ring, true});
    return out;
}

}  // namespace

io::WriteItem without(const Item& item, const ElementSet& gone, Progress& progress) {
    io::WriteItem out = whole(item, progress);
    if (!gone.empty()) out.keep = io::keep_all_but(*item.cloud, gone, progress);
    return out;
}

io::WriteItem only(const Item& item, const ElementSet& kept, Progress& progress) {
    io::WriteItem out = whole(item, progress);
    out.keep = io::keep_only(*item.cloud, kept, progress);
    return out;
}

std::vector<OutByReason> out_by_reason(const Item& item) {
    std::vector<OutByReason> out;
    ElementSet known(item.cloud->size());
    for (const LedgerEntry& e : item.ledger) {
        if (!e.active || !e.removes() || e.edit != 0) continue;
        ElementSet fresh = *e.elements - known;
        known = known | *e.elements;
        const auto it =
            std::find_if(out.begin(), out.end(), [&](const OutByReason& r) { return r.reason == e.reason; });
        if (it == out.end())
            out.push_back({e.reason, std::move(fresh)});
        else
            it->elements = it->elements | fresh;
    }
    return out;
}

}  // namespace pristine::site
