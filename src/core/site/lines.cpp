// Lines of the site: drawn in the view, or brought by a file.

#include <algorithm>

#include "core/base/error.h"
#include "core/site/site.h"

namespace pristine::site {
namespace {

std::vector<LinePtr>::iterator find_line(Site& site, std::uint64_t id) {
    const auto at =
        std::find_if(site.lines.begin(), site.lines.end(), [&](const LinePtr& l) { return l->id == id; });
    if (at == site.lines.end()) throw Error(ErrorCode::Usage, "This line is not there any more");
    return at;
}

}  // namespace

LinePtr Site::line(std::uint64_t id) const {
    for (const LinePtr& l : lines)
        if (l->id == id) return l;
    return nullptr;
}

SitePtr put_lines(const Site& site, std::vector<Line> lines) {
    auto next = std::make_shared<Site>(site);
    for (Line& l : lines) {
        if (l.points.size() < (l.closed ? 3u : 2u))
            throw Error(ErrorCode::Usage,
                        l.closed ? "A closed line needs three corners" : "A line needs two places");
        if (l.id == 0) {
            l.id = next->next_id++;
            next->lines.push_back(std::make_shared<const Line>(std::move(l)));
        } else {
            const auto at = find_line(*next, l.id);
            *at = std::make_shared<const Line>(std::move(l));
        }
    }
    return next;
}

SitePtr drop_line(const Site& site, std::uint64_t id) {
    auto next = std::make_shared<Site>(site);
    next->lines.erase(find_line(*next, id));
    return next;
}

namespace {

Error no_group(const std::string& group) {
    return Error(ErrorCode::Usage, "There are no lines of '" + group + "' any more");
}

}  // namespace

SitePtr show_lines(const Site& site, const std::string& group, bool visible) {
    auto next = std::make_shared<Site>(site);
    bool any = false;
    for (LinePtr& l : next->lines) {
        if (l->group != group) continue;
        any = true;
        auto changed = std::make_shared<Line>(*l);
        changed->visible = visible;
        l = std::move(changed);
    }
    if (!any) throw no_group(group);
    return next;
}

SitePtr drop_lines(const Site& site, const std::string& group) {
    auto next = std::make_shared<Site>(site);
    if (std::erase_if(next->lines, [&](const LinePtr& l) { return l->group == group; }) == 0)
        throw no_group(group);
    return next;
}

double length_of(const Line& line) {
    double sum = 0;
    for (std::size_t i = 0; i + (line.closed ? 0 : 1) < line.points.size(); ++i) {
        const Vec3 d = line.points[(i + 1) % line.points.size()] - line.points[i];
        sum += std::sqrt(dot(d, d));
    }
    return sum;
}

}  // namespace pristine::site
