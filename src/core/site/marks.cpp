#include "core/site/marks.h"

#include <algorithm>

#include "core/base/error.h"
#include "core/site/making.h"

namespace pristine::site {
namespace {

std::vector<MarkPtr>::iterator find_mark(Site& site, std::uint64_t id) {
    const auto at =
        std::find_if(site.marks.begin(), site.marks.end(), [&](const MarkPtr& m) { return m->id == id; });
    if (at == site.marks.end()) throw Error(ErrorCode::Usage, "This mark is not there any more");
    return at;
}

}  // namespace

MarkPtr Site::mark(std::uint64_t id) const {
    for (const MarkPtr& m : marks)
        if (m->id == id) return m;
    return nullptr;
}

SitePtr put_mark(const Site& site, Mark mark) {
    (void)mark_figures(mark.kind, mark.points);
    auto next = std::make_shared<Site>(site);
    if (mark.id == 0) {
        mark.id = next->next_id++;
        next->marks.push_back(std::make_shared<const Mark>(std::move(mark)));
    } else {
        const auto at = find_mark(*next, mark.id);
        *at = std::make_shared<const Mark>(std::move(mark));
    }
    return next;
}

SitePtr drop_mark(const Site& site, std::uint64_t id) {
    auto next = std::make_shared<Site>(site);
    next->marks.erase(find_mark(*next, id));
    return next;
}

SitePtr show_marks(const Site& site, bool visible) {
    auto next = std::make_shared<Site>(site);
    for (MarkPtr& m : next->marks) {
        if (m->visible == visible) continue;
        auto changed = std::make_shared<Mark>(*m);
        changed->visible = visible;
        m = std::move(changed);
    }
    return next;
}

std::string why_stale(const Site& site, const Mark& mark) {
    if (mark.over == 0) return {};
    const ItemPtr item = site.item(mark.over);
    if (!item) return "what it was measured over is gone";
    return stamp_of(*item) == mark.stamp ? std::string() : item->name + " changed";
}

}  // namespace pristine::site
