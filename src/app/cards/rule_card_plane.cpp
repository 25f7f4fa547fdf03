// The rule card: the plane that heights are judged over, picked in the stage or fitted instead of typed.

#include <QFormLayout>
#include <QGridLayout>
#include <vector>

#include "app/cards/rule_card.h"
#include "app/look/make.h"
#include "app/model/document.h"
#include "core/geometry/plane_fit.h"

namespace pristine::app {
namespace {

constexpr std::uint64_t kMostFitted = 200'000;  // an even share of a larger selection

std::vector<Vec3> some_of(const cloud::PointCloud& cloud, const ElementSet& set) {
    const std::uint64_t every = set.count() / kMostFitted + 1;
    std::vector<Vec3> places;
    std::uint64_t k = 0;
    set.for_each([&](std::uint64_t e) {
        if (k++ % every == 0) places.push_back(cloud.position(e));
    });
    return places;
}

}  // namespace

void RuleCard::add_plane_picks() {
    plane_places_.clear();
    plane_wants_ = 0;
    auto* row = new QWidget(this);
    auto* buttons = new QGridLayout(row);
    buttons->setContentsMargins(0, 0, 0, 0);
    auto* three = make_button(row, "rulePlaneThree", tr("Three points"),
                              tr("Click three places that lie on the plane"));
    auto* level = make_button(row, "rulePlaneLevel", tr("Level at a point"),
                              tr("A level plane through the place that is clicked"));
    auto* fitted =
        make_button(row, "rulePlaneSelection", tr("Fit to the selection"),
                    tr("The plane that most of the selected points lie on: fence or paint some of it first"));
    buttons->addWidget(three, 0, 0);
    buttons->addWidget(level, 0, 1);
    buttons->addWidget(fitted, 1, 0, 1, 2);
    parameters_->insertRow(0, row);
    connect(three, &QPushButton::clicked, this, [this] { ask_for_plane(3); });
    connect(level, &QPushButton::clicked, this, [this] { ask_for_plane(1); });
    connect(fitted, &QPushButton::clicked, this, [this] {
        const site::SitePtr s = document_->site();
        const site::ItemPtr item = s->active_item();
        const site::SetPtr set = s->of_removed ? nullptr : s->selection_in_work();
        if (!item || !set) return emit said(tr("Select some of the plane first: fence it, or paint on it."));
        const auto plane = fit_plane(some_of(*item->cloud, *set));
        if (!plane) return emit said(tr("What is selected lies on no plane: it is too little, or one line."));
        take_plane(plane->point, plane->normal);
        emit said(tr("The selection lies %1 from the plane, in the mean of squares.")
                      .arg(Lengths(*s).spread(plane->rms)));
    });
}

void RuleCard::ask_for_plane(int places) {
    plane_places_.clear();
    plane_wants_ = static_cast<std::size_t>(places);
    emit pick_wanted(places == 1 ? tr("Click the height of the plane.")
                                 : tr("Click the first of three places."));
}

void RuleCard::plane_picked(const Vec3& place) {
    plane_places_.push_back(place);
    if (plane_places_.size() < plane_wants_)
        return emit pick_wanted(plane_places_.size() == 1 ? tr("Click the second place.")
                                                          : tr("Click the third place."));
    if (plane_wants_ == 1) return take_plane(place, {0, 0, 1});
    const auto& p = plane_places_;
    Vec3 normal = cross(p[1] - p[0], p[2] - p[0]);
    const double sides = norm(p[1] - p[0]) * norm(p[2] - p[0]);
    if (!(norm(normal) > 1e-6 * sides)) {
        ask_for_plane(3);
        return emit said(tr("The three places lie on one line: click three others."));
    }
    // The side that is above, or east of an upright plane, is above zero.
    const double up = normal.z != 0 ? normal.z : normal.x != 0 ? normal.x : normal.y;
    normal = normal * ((up < 0 ? -1 : 1) / norm(normal));
    take_plane((p[0] + p[1] + p[2]) * (1 / 3.0), normal);
}

void RuleCard::take_plane(const Vec3& at, const Vec3& normal) {
    const Lengths l(*document_->site());
    const struct {
        const char* name;
        double value;
    } values[] = {{"x", l.shown(at.x)}, {"y", l.shown(at.y)}, {"z", l.shown(at.z)},
                  {"nx", normal.x},     {"ny", normal.y},     {"nz", normal.z}};
    for (const auto& v : values) set_box(v.name, v.value);
    plane_wants_ = 0;
    compute();
}

}  // namespace pristine::app
