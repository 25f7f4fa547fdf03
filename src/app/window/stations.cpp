#include "app/window/stations.h"

#include <QMenu>
#include <QSettings>

#include "app/cards/work_card.h"
#include "app/look/theme.h"
#include "app/model/document.h"
#include "app/model/jobs.h"
#include "app/panes/panorama_pane.h"
#include "app/stage/stage.h"
#include "app/window/hand.h"
#include "app/window/scene_view.h"
#include "app/window/station_dialog.h"
#include "app/window/station_labels.h"
#include "app/window/status_line.h"
#include "core/cloud/stations.h"
#include "core/io/coloured_cloud.h"
#include "core/io/e57/picture.h"
#include "core/site/origin_file.h"

namespace pristine::app {
namespace {

constexpr const char* kOn = "view/stations";
constexpr std::size_t kMostLabels = 300;
constexpr double kAxis = 0.015;  // of the site, long

}  // namespace

Stations::Stations(Desk& desk)
    : Part(desk),
      labels_(new StationLabels(stage_)),
      on_(QSettings().value(QLatin1String(kOn), true).toBool()) {
    connect(&desk_, &Desk::site_changed, this, &Stations::refresh);
    connect(labels_, &StationLabels::pressed, this, &Stations::offer);
    connect(panorama_, &PanoramaPane::said, this, [this](const QString& text) { say_refused(text); });
}

void Stations::add_commands() {
    add(
        "view.stations", tr("Stations"),
        tr("Shows where the scanners stood, with axes and names; a name can be pressed"), {}, tr("-View"),
        [this] {
            on_ = !on_;
            QSettings().setValue(QLatin1String(kOn), on_);
            refresh();
            desk_.view->show_guides();
        },
        [this] {
            for (const site::ItemPtr& i : document_->site()->items)
                if (!i->cloud->stations().empty()) return QString();
            return tr("No item says where its scanner stood; Item › Station… sets it.");
        },
        [this] { return on_; });
    add(
        "item.station", tr("Station…"),
        tr("Where the scanner of the item in work stood: typed, or above a point that is picked"), {},
        tr("Item"), [this] { choose(); },
        [this] {
            if (const QString why = needs_item(); !why.isEmpty()) return why;
            const site::ItemPtr item = document_->site()->active_item();
            if (item->cloud->triangles()) return tr("No station saw triangles.");
            return item->cloud->stations().size() > 1
                       ? tr("The file says where its stations stood; part the item by scan first.")
                       : QString();
        });
    add(
        "item.picture_colours", tr("Colour by its pictures"),
        tr("A new item, coloured by the pictures that the scanner took; they are read from the E57 file that "
           "was opened, and each colours the points of its own scan"),
        {}, tr("Item"), [this] { colour_by_pictures(); }, [this] { return why_not_coloured(); });
    desk_.view->add_drawn([this] {
        std::vector<Stage::Guide> axes;
        const double length = kAxis * stage_->scene().robust_bounds().diagonal();
        constexpr QRgb colours[3] = {0xFFE08A6A, 0xFF8FBF7F, 0xFF7FA6D9};
        for (const StationOf& s : shown_stations())
            for (int a = 0; a < 3; ++a) {
                Vec3 end = s.position;
                end[a] += length;
                axes.push_back({{s.position, end}, {}, true, QColor::fromRgb(colours[a])});
            }
        return axes;
    });
}

std::vector<StationOf> Stations::shown_stations() const {
    std::vector<StationOf> out;
    if (!on_) return out;
    for (const site::ItemPtr& i : document_->site()->items) {
        if (!i->visible) continue;
        const auto& stations = i->cloud->stations();
        for (std::size_t k = 0; k < stations.size() && out.size() < kMostLabels; ++k)
            out.push_back(
                {i->id, k, stations[k].name.empty() ? i->name : stations[k].name, stations[k].position});
    }
    return out;
}

QString Stations::why_not_coloured() const {
    if (const QString why = needs_item(); !why.isEmpty()) return why;
    const std::string why = io::why_no_pictures(*document_->site()->active_item()->cloud);
    return why.empty() ? QString() : tr("%1.").arg(tr(why.c_str()));
}

void Stations::colour_by_pictures() {
    const site::ItemPtr item = document_->site()->active_item();
    struct Made {
        std::shared_ptr<const cloud::PointCloud> cloud;
        std::uint64_t coloured = 0;
        std::vector<std::string> warnings;
    };
    const auto made = std::make_shared<Made>();
    const std::filesystem::path file = site::origin_file(*item);
    jobs_->start(
        tr("Colouring by pictures"),
        [=](Progress& p) {
            p.stretch(0, 0.1, "Reading the pictures");
            const auto pictures = io::read_e57_pictures(file, true, made->warnings, p);
            if (pictures.empty())
                throw Error(ErrorCode::Empty, "The file has no pictures with a place",
                            file.filename().string());
            p.stretch(0.1, 0.6, "Colouring points");
            const io::PictureColours colours = io::colours_by(pictures, *item->cloud, made->warnings, p);
            if (colours.coloured == 0)
                throw Error(ErrorCode::Empty, "No point lies in a picture", file.filename().string());
            const Progress::Part part(p, 0.6, 1, p.label());
            made->cloud = io::coloured(item->cloud, colours.rgb, p);
            made->coloured = colours.coloured;
        },
        [this, made, item] {
            const QString name = QString::fromStdString(item->name);
            document_->apply(tr("Colour %1 by its pictures").arg(name), [&](const site::Site& s) {
                site::SitePtr next =
                    site::add_converted(s, item->id, made->cloud, tr("%1 coloured").arg(name).toStdString(),
                                        "coloured by its pictures");
                site::Style style = next->items.back()->style;
                style.colour_by = site::ColourBy::Rgb;
                return site::set_style(*next, next->items.back()->id, style);
            });
            QString text = made->coloured == made->cloud->size()
                               ? tr("All %1 points lie in a picture.").arg(grouped(made->coloured))
                               : tr("%1 of %2 points lie in a picture; the others keep their colour.")
                                     .arg(grouped(made->coloured), grouped(made->cloud->size()));
            for (const std::string& w : made->warnings) text += QLatin1Char(' ') + QString::fromStdString(w);
            status_->say(text, false);
        });
}

void Stations::refresh() {
    labels_->show_stations(shown_stations());
}

void Stations::offer(const StationOf& station, const QPoint& on_screen) {
    auto* menu = new QMenu(window_);
    menu->setObjectName(QStringLiteral("stationMenu"));
    menu->setAttribute(Qt::WA_DeleteOnClose);
    menu->addAction(tr("Stand here"), this, [=, this] { stand_at(station); });
    menu->addAction(tr("Panorama from here"), this, [=, this] { open_panorama(station); });
    menu->addSeparator();
    menu->addAction(tr("Select what it saw"), this, [=, this] { find_seen(station, Then::Select); });
    menu->addAction(tr("Show only what it saw"), this, [=, this] { find_seen(station, Then::ShowOnly); });
    menu->addSeparator();
    menu->addAction(tr("Switch the stations off"), this,
                    [this] { commands_.trigger(QStringLiteral("view.stations")); });
    menu->popup(on_screen);
}

void Stations::stand_at(const StationOf& station) {
    render::Camera camera = stage_->camera();
    camera.eye = station.position;
    camera.perspective = true;
    camera.pitch_deg = 0;
    stage_->jump_to(camera);
}

void Stations::open_panorama(const StationOf& station) {
    const site::SitePtr s = document_->site();
    if (!s->item(station.item)) return;
    if (s->active != station.item)
        document_->apply(tr("Work on %1").arg(QString::fromStdString(s->item(station.item)->name)),
                         [&](const site::Site& now) { return site::activate(now, station.item); });
    panorama_->open(document_->site(), card_->all_shown(), station.position, stage_->camera().yaw_deg,
                    station.number);
}

void Stations::find_seen(const StationOf& station, Then then) {
    const site::ItemPtr item = document_->site()->item(station.item);
    if (!item) return;
    if (!cloud::knows_stations(*item->cloud))
        return say_refused(tr("The item does not say which points are of which station."));
    const auto seen = std::make_shared<ElementSet>();
    const QString name = QString::fromStdString(station.name);
    jobs_->start(
        tr("Looking for what %1 saw").arg(name),
        [=](Progress& p) {
            *seen = cloud::of_station(*item->cloud, site::eligible(*item), station.number, p);
        },
        [this, seen, item, then, name] {
            if (seen->empty()) return say_refused(tr("%1 saw nothing that is shown.").arg(name));
            const site::Parts part{{item->id, std::make_shared<const ElementSet>(*seen)}};
            const site::Origin origin{site::said(tr("seen from %1").arg(name).toStdString()), {}};
            if (then == Then::Select) {
                document_->apply(tr("Select what %1 saw").arg(name), [&](const site::Site& s) {
                    return site::select(s, part, site::Combine::New, origin);
                });
                return;
            }
            document_->apply(tr("Show only what %1 saw").arg(name), [&](const site::Site& s) {
                site::SitePtr next = site::select(s, part, site::Combine::New, origin);
                next = site::show_only_selection(*next, {item->id});
                for (const site::ItemPtr& other : s.items)
                    if (other->id != item->id && other->visible && !other->cloud->triangles())
                        next = site::set_visible(*next, other->id, false);
                return next;
            });
        });
}

void Stations::choose() {
    const site::SitePtr s = document_->site();
    const site::ItemPtr item = s->active_item();
    if (dialog_ || !item) return;
    const Box3 b = item->cloud->robust_bounds();
    dialog_ = new StationDialog(*s, *item, b.empty() ? Vec3{} : (b.lo + b.hi) * 0.5, window_);
    dialog_->setAttribute(Qt::WA_DeleteOnClose);
    connect(dialog_, &StationDialog::pick_wanted, this, [this] {
        desk_.hand->pick_next(tr("Click the point under the scanner."), [this](const Vec3& place) {
            if (dialog_) dialog_->set_below(place);
        });
    });
    const auto give = [this, id = item->id](const std::optional<std::vector<cloud::Station>>& stations) {
        document_->apply(stations ? tr("Set the station") : tr("The station of the file"),
                         [&](const site::Site& now) { return site::set_stations(now, id, stations); });
    };
    connect(dialog_, &StationDialog::cleared, this, [give] { give(std::nullopt); });
    connect(dialog_, &QDialog::accepted, this,
            [this, give] { give(std::vector<cloud::Station>{dialog_->station()}); });
    connect(dialog_, &QDialog::finished, this, [this] {
        desk_.hand->drop_pick();
        dialog_ = nullptr;
    });
    dialog_->show();
}

}  // namespace pristine::app
