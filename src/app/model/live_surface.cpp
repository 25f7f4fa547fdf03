#include "app/model/live_surface.h"

#include <algorithm>

#include "app/model/document.h"
#include "app/model/jobs.h"
#include "core/site/surface_source.h"

namespace pristine::app {

std::vector<site::ItemPtr> followers(const site::Site& s, std::uint64_t line) {
    std::vector<site::ItemPtr> out;
    for (const site::ItemPtr& i : s.items) {
        if (!i->source) continue;
        const auto has = [&](const std::vector<std::uint64_t>& ids) {
            return std::find(ids.begin(), ids.end(), line) != ids.end();
        };
        const auto& patches = i->source->patch_ids;
        if (has(i->source->breakline_ids) || has(i->source->boundary_ids) ||
            std::any_of(patches.begin(), patches.end(), has))
            out.push_back(i);
    }
    return out;
}

LiveSurface::LiveSurface(Document* document, Jobs* jobs, std::function<void(const site::SitePtr&)> show,
                         QObject* parent)
    : QObject(parent), document_(document), jobs_(jobs), show_(std::move(show)) {}

void LiveSurface::drag(const site::Line& line) {
    wanted_ = line;
    if (!building_) build();
}

void LiveSurface::stop() {
    ++round_;
    shown_ = 0;
    wanted_.reset();
}

void LiveSurface::build() {
    const site::SitePtr before = document_->site();
    std::vector<site::ItemPtr> small = followers(*before, wanted_->id);
    std::erase_if(small, [](const site::ItemPtr& i) {
        return i->source->definition.points.size() > kMostPoints || !i->visible;
    });
    if (small.empty()) return wanted_.reset();
    building_ = true;
    const auto result = std::make_shared<site::SitePtr>();
    const auto next = [this, result, before, round = round_] {
        building_ = false;
        if (round == round_ && *result && document_->site() == before) {
            ++shown_;
            show_(*result);
        }
        if (wanted_) build();
    };
    jobs_->start(
        tr("Following a line"),
        [small, before, result, line = *std::exchange(wanted_, std::nullopt)](Progress& p) {
            site::SitePtr s = site::put_lines(*before, {line});
            for (const site::ItemPtr& i : small)
                if (const site::SourcePtr source = site::with_lines_of(*i->source, *s))
                    s = site::replace_surface(*s, i->id, site::rebuild(*i, *source, p));
            *result = s;
        },
        next,
        // A place at which nothing can be built: the next may do.
        [next](const QString&) { next(); }, Jobs::Show::IfLong);
}

}  // namespace pristine::app
