// The live numbers of the selection: counts at once, heights and a picture from a job.

#include <set>

#include "app/look/theme.h"
#include "app/model/document.h"
#include "app/model/jobs.h"
#include "core/base/units.h"

namespace pristine::app {
namespace {

// Sampled, so that the first selection is measured soon even on a large site.
terrain::GroundOptions rough_ground(const site::Item& item) {
    terrain::GroundOptions options;
    options.metres_per_unit = length_unit(item.cloud->unit()).metres;
    options.most_points = 4'000'000;
    return options;
}

}  // namespace

void Document::update_numbers() {
    const site::SitePtr s = site();
    const site::ItemPtr item = s->active_item();
    numbers_ = {};
    numbers_for_ = s->selection;
    numbers_.count = s->selected();
    const auto touchable = [s](const site::Item& i) {
        return s->of_removed ? site::eligible_removed(i) : site::eligible(i);
    };
    std::set<std::uint64_t> counted;
    for (const std::uint64_t id : reach ? reach() : site::reach_of(*s, false)) counted.insert(id);
    for (const auto& [id, part] : s->selection) counted.insert(id);
    for (const std::uint64_t id : counted)
        if (const site::ItemPtr i = s->item(id)) numbers_.of += touchable(*i).count();
    emit numbers_changed();
    if (s->selection.empty()) return measuring_.drop();
    const bool alone = s->selection.size() == 1 && s->selection.contains(s->active);
    struct Result {
        select::Summary detail;
        std::shared_ptr<const terrain::GroundModel> ground;
        std::shared_ptr<const site::Thumbnail> picture;
    };
    measuring_.start<Result>(
        tr("Measuring the selection"),
        [s, item, alone, touchable, ground = alone && ground_of_ == item->cloud.get() ? ground_ : nullptr,
         picture = picture_maker ? picture_maker(s) : PictureMaker{}](Progress& p, Result& result) {
            result.ground = ground;
            if (alone && !result.ground)
                result.ground = std::make_shared<const terrain::GroundModel>(
                    *item->cloud, ElementSet::all(item->cloud->size()), rough_ground(*item), p);
            for (const auto& [id, part] : s->selection) {
                const site::ItemPtr of = s->item(id);
                const select::Summary one =
                    select::summarise(*of->cloud, *part, touchable(*of), result.ground.get(), p);
                result.detail = alone ? one : select::together(result.detail, one);
            }
            if (picture) result.picture = picture(result.detail.box);
        },
        [this, s, item](Result& result) {
            if (result.ground) {
                ground_ = result.ground;
                ground_of_ = item->cloud.get();
            }
            if (numbers_for_ != s->selection) return;  // the selection changed meanwhile
            numbers_.detail = result.detail;
            numbers_.picture = result.picture;
            numbers_.ready = true;
            emit numbers_changed();
        },
        {}, Jobs::Show::IfLong);
}

namespace {

QString points_text(std::uint64_t n) {
    return n == 1 ? Document::tr("1 point") : Document::tr("%1 points").arg(grouped(n));
}

QString triangles_text(std::uint64_t n) {
    return n == 1 ? Document::tr("1 triangle") : Document::tr("%1 triangles").arg(grouped(n));
}

}  // namespace

QString counted(const site::Site& s, const site::Parts& parts) {
    std::uint64_t points = 0, triangles = 0;
    for (const auto& [id, part] : parts)
        if (const site::ItemPtr item = s.item(id); item && part)
            (item->cloud->triangles() ? triangles : points) += part->count();
    if (triangles == 0) return points_text(points);
    if (points == 0) return triangles_text(triangles);
    return Document::tr("%1 points and %2 triangles").arg(grouped(points), grouped(triangles));
}

QString counted(const Document& document, std::uint64_t n) {
    const site::ItemPtr item = document.site()->active_item();
    return item && item->cloud->triangles() ? triangles_text(n) : points_text(n);
}

}  // namespace pristine::app
