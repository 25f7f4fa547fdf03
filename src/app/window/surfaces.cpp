#include "app/window/surfaces.h"

#include <QFileDialog>
#include <QInputDialog>
#include <QSettings>

#include "app/cards/surface_card.h"
#include "app/look/lengths.h"
#include "app/model/document.h"
#include "app/model/jobs.h"
#include "app/model/live_surface.h"
#include "app/panes/cross_sections_pane.h"
#include "app/panes/epoch_pane.h"
#include "app/panes/profile_pane.h"
#include "app/stage/stage.h"
#include "app/window/decision_bar.h"
#include "app/window/scene_view.h"
#include "app/window/status_line.h"
#include "core/cloud/triangles.h"
#include "core/io/grid/orthophoto_reader.h"
#include "core/io/mesh/mesh_cloud.h"
#include "core/measure/contours.h"
#include "core/site/surface_edits.h"

namespace pristine::app {

Surfaces::Surfaces(Desk& desk)
    : HandyPart(desk),
      surface_(desk.find<SurfaceCard>()),
      profile_(desk.profile),
      cross_sections_(desk.cross_sections),
      epochs_(desk.epochs),
      live_(new LiveSurface(
          document_, jobs_, [this](const site::SitePtr& s) { view_.look_ahead(s); }, this)) {
    connect(&desk_, &Desk::line_changed, this, &Surfaces::follow_surfaces);
    connect(&desk_, &Desk::line_dragged, live_, &LiveSurface::drag);
    connect(&desk_, &Desk::line_let_go, live_, &LiveSurface::stop);
    connect(&desk_, &Desk::drape_wanted, this, &Surfaces::drape);
    connect(surface_, &SurfaceCard::fly_near, this, [this](const Vec3& place) {
        Box3 box;
        const double near = 0.05 * stage_->scene().bounds().diagonal();
        box.add(place - Vec3{near, near, near});
        box.add(place + Vec3{near, near, near});
        stage_->look_at(box);
    });
    connect(surface_, &SurfaceCard::said, this, [this] {
        if (view_.ahead()) view_.look_ahead(nullptr);  // built, or refused
    });
    connect(epochs_, &EpochPane::closed, this, [this] { commands_.refresh(); });
    connect(cross_sections_, &CrossSectionsPane::closed, this, [this] { commands_.refresh(); });
    connect(cross_sections_, &CrossSectionsPane::fly, this,
            [stage = desk.stage](const Box3& place) { stage->look_at(place); });
    connect(profile_, &ProfilePane::closed, this, [this] { commands_.refresh(); });
    view_.add_guides([this] { return slope_arrows_ ? arrows_now() : std::vector<std::vector<Vec3>>(); });
}

void Surfaces::add_commands() {
    add_surface_cards();
    add_surface_views();
}

// Surfaces built and mended.
void Surfaces::add_surface_cards() {
    add_card(QStringLiteral("tools.surface"));
    add(
        "tools.drop_points", tr("Drop the points of the selected triangles"),
        tr("Takes points out of a surface whose triangles are all selected, such as a rod height typed "
           "wrongly, and builds "
           "it again"),
        {}, tr("Tools"), [this] { drop_points(); },
        [this] {
            const site::ItemPtr item = document_->site()->active_item();
            if (!item || !item->source) return tr("Take a surface in work that was built here.");
            return !document_->site()->selection_in_work() ? tr("Select all triangles round a point first.")
                                                           : QString();
        });
    add(
        "tools.smooth_surface", tr("Smooth a part of the surface…"),
        tr("Evens out the heights inside the selection, none by more than is allowed; lines that the surface "
           "follows, its rims and everything else stay. A card at the bottom that can be lifted"),
        {}, tr("Tools"), [this] { ask_smooth(); },
        [this] {
            const site::ItemPtr item = document_->site()->active_item();
            if (!item || !cloud::is_surface(*item->cloud)) return tr("Take a surface in work first.");
            return document_->site()->selection_in_work() ? QString() : tr("Select a part of it first.");
        });
    commands_.add(
        {"view.profile",
         tr("Profile along a line"),
         tr("Heights of every surface that is shown along a line, of several dates above each other"),
         "",
         QKeySequence(Qt::CTRL | Qt::Key_L),
         tr("View"),
         [this] { profile_->is_open() ? profile_->close_pane() : profile_->open(); },
         [this] {
             return document_->site()->lines.empty() ? tr("Draw or open a line across the surfaces first.")
                                                     : QString();
         },
         [this] { return profile_ && profile_->is_open(); },
         {}});
    commands_.add(
        {"view.cross_sections",
         tr("Sections across a line"),
         tr("Every surface that is shown, cut across a line at an interval: a drawing, areas of cut and "
            "fill, and "
            "volumes by end areas, by prisms and by the triangles"),
         "",
         QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_L),
         tr("View"),
         [this] { cross_sections_->is_open() ? cross_sections_->close_pane() : cross_sections_->open(); },
         [this] {
             return document_->site()->lines.empty()
                        ? tr("Draw or open a line along the middle of the work first.")
                        : QString();
         },
         [this] { return cross_sections_ && cross_sections_->is_open(); },
         {}});
    add(
        "tools.replace_part", tr("Replace a part of the surface"),
        tr("Drops what lies inside the closed line in work (else the closed line drawn last) and "
           "triangulates "
           "there anew, along the other lines that are shown inside it; the rest of the surface stays as it "
           "is"),
        {}, tr("Tools"), [this] { replace_inside(outline_in_work()); },
        [this] {
            const site::ItemPtr item = document_->site()->active_item();
            if (!item || !cloud::is_surface(*item->cloud)) return tr("Take a surface in work first.");
            return outline_in_work() != 0 ? QString() : tr("Draw a closed line round the part first.");
        });
    add(
        "tools.line_round", tr("Line round the surface"),
        tr("The rims of the surface as it is shown, as line objects that lie on it; each can bound the next "
           "build"),
        {}, tr("Tools"), [this] { line_round(); },
        [this] {
            const site::ItemPtr item = document_->site()->active_item();
            return item && item->cloud->triangles() ? QString() : tr("Take a surface in work first.");
        });
}

// Surfaces looked at and measured.
void Surfaces::add_surface_views() {
    commands_.add({"view.slope_arrows",
                   tr("Slope arrows"),
                   tr("Arrows down the slope of the surface in work, longer where it is steeper"),
                   "",
                   QKeySequence(),
                   tr("View"),
                   [this] {
                       slope_arrows_ = !slope_arrows_;
                       view_.show_guides();
                       commands_.refresh();
                   },
                   [this] {
                       const site::ItemPtr item = document_->site()->active_item();
                       return item && cloud::is_surface(*item->cloud) ? QString()
                                                                      : tr("Take a surface in work first.");
                   },
                   [this] { return slope_arrows_; },
                   {}});
    commands_.add({"view.volumes",
                   tr("Volumes by date"),
                   tr("Every surface with a date: its volume above a level, or its cut and fill against the "
                      "one before, "
                      "as a chart and a table"),
                   "",
                   QKeySequence(),
                   tr("View"),
                   [this] { epochs_->is_open() ? epochs_->close_pane() : epochs_->open(); },
                   [this] {
                       for (const site::ItemPtr& i : document_->site()->items)
                           if (!site::date_of(*document_->site(), *i).empty() &&
                               i->role == site::ItemRole::Terrain)
                               return QString();
                       return tr("Give surfaces a date first: right click in the contents.");
                   },
                   [this] { return epochs_ && epochs_->is_open(); },
                   {}});
    add_card(QStringLiteral("tools.measure"));
    add_card(QStringLiteral("tools.piles"));
}

// Surfaces that follow a line, or end there, are built again at once; large ones say that they are out of
// date.
void Surfaces::follow_surfaces(std::uint64_t line) {
    const site::SitePtr s = document_->site();
    for (const site::ItemPtr& i : followers(*s, line)) {
        const site::SourcePtr source = site::with_lines_of(*i->source, *s);
        if (!source) continue;
        const QString name = QString::fromStdString(i->name);
        if (source->definition.points.size() > LiveSurface::kMostPoints) {
            status_->say(tr("%1 is out of date: build it again by Tools › New surface.").arg(name), true);
            continue;
        }
        surface_->build_again(i->id, {.source = source, .cause = {}}, tr("%1 follows its line").arg(name));
    }
}

std::vector<site::Line> Surfaces::lines_round(const site::Item& item, const QString& rim,
                                              const QString& hole) {
    std::vector<site::Line> lines;
    for (const auto& ring : surface::boundary_of(io::mesh_of(*item.cloud, ~*item.absent))) {
        double area = 0;
        for (std::size_t i = 0; i < ring.size(); ++i) {
            const Vec3 p = ring[i] - ring[0], q = ring[(i + 1) % ring.size()] - ring[0];
            area += p.x * q.y - p.y * q.x;
        }
        lines.push_back({0, (area < 0 ? hole : rim).toStdString(), ring, true, true});
        lines.back().role = area < 0 ? LineRole::Hole : LineRole::Boundary;
    }
    return lines;
}

void Surfaces::line_round() {
    const site::ItemPtr item = document_->site()->active_item();
    if (!item || !item->cloud->triangles()) return;
    const QString name = QString::fromStdString(item->name);
    const auto lines = std::make_shared<std::vector<site::Line>>();
    jobs_->start(
        tr("Line round %1").arg(name),
        [=, rim = tr("Rim of %1").arg(name), hole = tr("Hole in %1").arg(name)](Progress&) {
            *lines = lines_round(*item, rim, hole);
        },
        [this, lines, name] {
            if (lines->empty()) return say_refused(tr("The surface has no rim."));
            document_->apply(tr("Line round %1").arg(name),
                             [&](const site::Site& s) { return site::put_lines(s, std::move(*lines)); });
        },
        {}, Jobs::Show::IfLong);
}

// A rod height typed wrongly: the points whose triangles are all selected leave the definition.
void Surfaces::drop_points() {
    const site::SitePtr s = document_->site();
    const site::ItemPtr item = s->active_item();
    if (!item || !item->source || !s->selection_in_work()) return;
    site::Edited dropped;
    try {
        dropped = site::without_points(*item, *s->selection_in_work());
    } catch (const Error& e) {  // its triangles came from a file
        return say_refused(QString::fromStdString(e.what()));
    }
    if (!dropped.source)
        return say_refused(
            tr("No point has all of its triangles selected: select every triangle round it. Points of lines "
               "are moved, not dropped."));
    const QString chosen = desk_.bar ? desk_.bar->chosen_reason() : QString();
    surface_->build_again(item->id, dropped, tr("Drop %n point(s)", "", static_cast<int>(dropped.count)),
                          chosen.isEmpty() ? tr("Wrong points") : chosen);
}

void Surfaces::ask_smooth() {
    const site::SitePtr s = document_->site();
    const Lengths l(*s);
    bool ok = false;
    const double most = QInputDialog::getDouble(
        window_, tr("Smooth a part of the surface"),
        tr("No height changes by more than [%1]").arg(l.known() ? l.suffix().trimmed() : tr("unit not set")),
        l.shown(0.05 / l.data_metres()), 1e-6, 1e6, l.decimals() + 1, &ok);
    if (ok) smooth_part(l.data(most));
}

void Surfaces::smooth_part(double most) {
    const site::SitePtr s = document_->site();
    const site::ItemPtr item = s->active_item();
    const site::SetPtr part = s->selection_in_work();
    if (!item || !part) return;
    struct Smoothed {
        site::Edited edited;
        double largest = 0;
    };
    const auto made = std::make_shared<Smoothed>();
    const Lengths l(*s);
    jobs_->start(
        tr("Smoothing"),
        [=](Progress& p) { made->edited = site::with_smoothed(*item, *part, most, made->largest, p); },
        [this, made, item, l] {
            if (!made->edited.source)
                return say_refused(
                    tr("No height can be moved: only points inside the selection are, and not "
                       "those of lines and rims."));
            const QString chosen = desk_.bar ? desk_.bar->chosen_reason() : QString();
            surface_->build_again(
                item->id, made->edited,
                tr("Smooth %n height(s), by %1 at most", "", static_cast<int>(made->edited.count))
                    .arg(l.spread(made->largest)),
                chosen.isEmpty() ? tr("Smoothed") : chosen);
        },
        [this](const QString& why) { say_refused(why); }, Jobs::Show::IfLong);
}

void Surfaces::choose_drape(std::uint64_t item) {
    const QString file = QFileDialog::getOpenFileName(
        window_, tr("Picture of the ground"), QSettings().value("folder").toString(),
        tr("Pictures with a place (*.tif *.tiff *.jp2 *.png *.jpg);;All files (*)"));
    if (!file.isEmpty()) drape(item, file.toStdString());
}

void Surfaces::drape(std::uint64_t item, const std::filesystem::path& file) {
    const auto picture = std::make_shared<std::shared_ptr<const surface::Orthophoto>>();
    jobs_->start(
        tr("Reading the picture"), [=](Progress& p) { *picture = io::read_orthophoto(file, 50'000'000, p); },
        [this, picture, item, file] {
            document_->apply(tr("Drape %1").arg(QString::fromStdString(file.filename().string())),
                             [&](const site::Site& s) { return site::set_drape(s, item, *picture); });
        },
        [this](const QString& why) { say_refused(why); });
}

// Of the surface in work; made anew only when what is shown of it changed.
const std::vector<std::vector<Vec3>>& Surfaces::arrows_now() {
    const site::ItemPtr item = document_->site()->active_item();
    const bool surface = item && item->visible && cloud::is_surface(*item->cloud);
    const site::SetPtr absent = surface ? item->absent : nullptr;
    if (absent == arrows_of_) return arrows_;
    arrows_of_ = absent;
    arrows_.clear();
    if (!absent) return arrows_;
    const auto made = std::make_shared<std::vector<std::vector<Vec3>>>();
    jobs_->start(
        tr("Slope arrows"),
        [=](Progress&) { *made = measure::slope_arrows(io::mesh_of(*item->cloud, ~*absent), 600); },
        [this, made, absent] {
            if (arrows_of_ != absent) return;
            arrows_ = std::move(*made);
            view_.show_guides();
        },
        {}, Jobs::Show::IfLong);
    return arrows_;
}

std::uint64_t Surfaces::outline_in_work() const {
    const site::SitePtr s = document_->site();
    if (const site::LinePtr l = s->line(desk_.line_in_work); l && l->closed) return l->id;
    for (auto l = s->lines.rbegin(); l != s->lines.rend(); ++l)
        if ((*l)->closed && (*l)->visible) return (*l)->id;
    return 0;
}

// The closed line is the outline; what else is shown inside it becomes lines that the new triangles follow.
void Surfaces::replace_inside(std::uint64_t id) {
    const site::SitePtr s = document_->site();
    const site::ItemPtr item = s->active_item();
    const site::LinePtr outline = s->line(id);
    if (!item || !outline) return;
    std::vector<site::LinePtr> lines;
    for (const site::LinePtr& l : s->lines)
        if (l->visible && l->id != id) lines.push_back(l);
    try {
        const site::Edited replaced = site::with_patch(*site::source_of(*item), *outline, lines);
        surface_->build_again(item->id, replaced,
                              tr("Replace a part along %n line(s)", "", static_cast<int>(replaced.count)),
                              tr("Replaced part"));
    } catch (const Error& e) {
        say_refused(QString::fromStdString(e.what()));
    }
}

}  // namespace pristine::app
