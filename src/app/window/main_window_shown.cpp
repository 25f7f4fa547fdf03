// What is shown: the scene, ghosts, the wipe, the legend, places flown to.

#include "app/cards/holes_card.h"
#include "app/look/lengths.h"
#include "app/window/main_window.h"

#include <QCloseEvent>
#include <QDragEnterEvent>
#include <QFileDialog>
#include <QHBoxLayout>
#include <QInputDialog>
#include <QLabel>
#include <QMenu>
#include <QMenuBar>
#include <QMimeData>
#include <QPushButton>
#include <QSettings>
#include <QSplitter>
#include <QTimer>
#include <QToolButton>
#include <QVBoxLayout>
#include <nlohmann/json.hpp>

#include "app/cards/rule_card.h"
#include "app/cards/side_card.h"
#include "app/cards/work_card.h"
#include "app/look/theme.h"
#include "app/model/thumbnails.h"
#include "app/panes/epoch_pane.h"
#include "app/panes/panorama_pane.h"
#include "app/panes/profile_pane.h"
#include "app/panes/section_pane.h"
#include "app/window/contents_panel.h"
#include "app/window/decision_bar.h"
#include "app/window/ledger_strip.h"
#include "app/window/legend.h"
#include "app/window/manual_window.h"
#include "app/window/notice.h"
#include "app/window/status_line.h"
#include "app/window/text_import.h"
#include "core/base/units.h"
#include "core/cloud/classes.h"
#include "core/io/cloud_io.h"
#include "core/select/summary.h"
#include "core/site/making.h"

namespace pristine::app {

void MainWindow::refresh() {
    show_scene();
    follow_clip();
    follow_solid();
    for (SideCard* card : cards_) card->refresh();
    profile_->refresh();
    epochs_->refresh();
    follow_lines();
    contents_->refresh();
    ledger_->refresh();
    status_->refresh();
    commands_.refresh();
    const site::ItemPtr item = document_->site()->active_item();
    working_on_->setVisible(item != nullptr);
    if (item) {
        const site::Making* making = site::making_of_item(*document_->site(), item->id);
        const bool stale = making && site::is_stale(*document_->site(), *making);
        working_on_->setText((stale ? tr("Working on %1, out of date ▾") : tr("Working on %1 ▾"))
                                 .arg(QString::fromStdString(item->name)));
    }
    place_stage_corner();
    setWindowTitle(tr("%1 – Pristine Cloud").arg(document_->title()));
}

void MainWindow::show_scene() {
    const site::SitePtr s = document_->site();
    // A rule colours the elements that there are.
    if (ahead_ && (ahead_of_ != s || rule_->is_open())) ahead_ = nullptr;
    show_scene_of(ahead_ ? ahead_ : s);
}

namespace {

// A fill that is not made yet, in a colour that no mesh has.
render::Scene with_preview(const render::Scene& scene, std::shared_ptr<const cloud::PointCloud> fill) {
    std::vector<render::DrawItem> items = scene.items();
    render::DrawItem item;
    item.cloud = std::move(fill);
    item.style.colour_by = site::ColourBy::Single;
    item.style.single_colour = 0xF2A93B;
    item.style.faces = site::Faces::Solid;
    items.push_back(std::move(item));
    return render::Scene(std::move(items));
}

}  // namespace

void MainWindow::show_scene_of(const site::SitePtr& s) {
    site::SetPtr ghosts;
    if (const site::ItemPtr item = s->active_item()) {
        if (const site::LedgerEntry* e = item->entry(ghost_entry_))
            ghosts = e->elements;
        else if (ghosts_shown_ || among_removed_ || s->of_removed)
            ghosts = std::make_shared<const ElementSet>(item->taken());
    }
    drawn_site_ = s;
    section_->refresh(s, ghosts);
    panorama_->refresh(s);
    show_wipe(s);
    // A rule in hand may colour the item in work by its values; the item's own style stays as it is.
    const auto by_rule = rule_->colours();
    const auto column_of = [&](const site::Item& i) {
        return by_rule && i.id == s->active ? by_rule : document_->column_of(i);
    };
    site::Site shown = *s;
    if (by_rule)
        for (site::ItemPtr& i : shown.items)
            if (i->id == s->active) {
                auto coloured = std::make_shared<site::Item>(*i);
                coloured->style.colour_by = site::ColourBy::Column;
                coloured->style.own_range = false;
                i = std::move(coloured);
            }
    render::Scene scene = render::scene_of(shown, ghosts, column_of);
    if (const auto fill = holes_->preview()) scene = with_preview(scene, fill);
    stage_->set_scene(std::make_shared<const render::Scene>(std::move(scene)));
    show_legend();
}

// Before: everything that is out is there again.
void MainWindow::show_wipe(const site::SitePtr& s) {
    if (!wipe_) {
        if (stage_->wiping()) stage_->set_before(nullptr);
        return;
    }
    const render::Scene now =
        render::scene_of(*s, nullptr, [this](const site::Item& i) { return document_->column_of(i); });
    std::vector<render::DrawItem> items = now.items();
    for (render::DrawItem& d : items) {
        if (const site::ItemPtr item = s->item(d.id))
            d.hidden = std::make_shared<const ElementSet>((*item->absent - *item->removed) | item->made());
        d.selected = nullptr;
    }
    stage_->set_before(std::make_shared<const render::Scene>(std::move(items)));
}

namespace {

// What the values of a column of words stand for; empty: the column holds numbers.
std::vector<std::pair<double, QString>> names_of(const cloud::PointCloud& cloud, const std::string& column) {
    std::vector<std::pair<double, QString>> names;
    const cloud::Field* f = cloud.records()->layout().find(column);
    if (!f || !f->words) return names;
    for (std::size_t k = 0; k < f->words->size(); ++k)
        if (!(*f->words)[k].empty())
            names.emplace_back(static_cast<double>(k), QString::fromStdString((*f->words)[k]));
    return names;
}

}  // namespace

// The classes that there are, each with its colour.
void MainWindow::show_class_key(const site::Item& item) {
    std::vector<Legend::Entry> key;
    for (const auto& [code, count] : document_->classes_of(item)) {
        const std::string name = cloud::class_name(code);
        key.push_back({QColor::fromRgb(render::class_colour(code)),
                       name.empty() ? QString::number(code)
                                    : QStringLiteral("%1 %2").arg(code).arg(QString::fromStdString(name))});
    }
    legend_->set_key(tr("Class"), std::move(key));
}

void MainWindow::show_legend() {
    const site::ItemPtr item = document_->site()->active_item();
    if (item && item->visible && item->style.colour_by == site::ColourBy::Class && !rule_->colours() &&
        item->cloud->classification())
        return show_class_key(*item);
    std::optional<render::ColourRange> range;
    if (item && item->visible)
        for (const render::DrawItem& d : stage_->scene().items())
            if (d.id == item->id) range = render::colour_range(d);
    if (!range) return legend_->set({}, false, std::nullopt);
    if (rule_->colours()) {
        legend_->set(rule_->title(), false, range, rule_->per_shown());
        return legend_->set_names(names_of(*item->cloud, rule_->column()));
    }
    const site::Style& style = item->style;
    const bool grey = style.colour_by == site::ColourBy::Intensity && item->cloud->intensity();
    const bool height = !grey && style.colour_by != site::ColourBy::Column;
    const Lengths lengths(*document_->site());
    // Heights may count otherwise than the plan.
    const std::string& up = item->cloud->height_unit();
    const QString unit = !up.empty() ? QStringLiteral(" [%1]").arg(QString::fromUtf8(length_unit(up).symbol))
                         : lengths.known() ? QStringLiteral(" [%1]").arg(lengths.suffix().trimmed())
                                           : tr(" (unit not set)");
    const site::Making* making = site::making_of_item(*document_->site(), item->id);
    const QString stale =
        making && site::is_stale(*document_->site(), *making) ? tr(", out of date") : QString();
    const bool deviation = style.column == render::kDeviationColumn && item->cloud->triangles();
    const bool length = height || range->change || deviation;
    legend_->set(grey            ? tr("Intensity")
                 : height        ? tr("Height%1").arg(unit)
                 : range->change ? tr("Change%1%2").arg(unit, stale)
                 : deviation     ? tr("Deviation%1").arg(unit)
                                 : QString::fromStdString(style.column),
                 grey, range, up.empty() && length ? lengths.data(1) : 1);
    if (!grey && !height) legend_->set_names(names_of(*item->cloud, style.column));
}

void MainWindow::connect_legend() {
    const auto with_range = [this](double lo, double hi, bool own) {
        site::Style style = document_->site()->active_item()->style;
        style.own_range = own;
        style.range_lo = own ? lo : 0;
        style.range_hi = own ? hi : 0;
        return style;
    };
    connect(legend_, &Legend::dragged, this, [this, with_range](double lo, double hi) {
        const site::SitePtr s = document_->site();
        show_scene_of(site::set_style(*s, s->active, with_range(lo, hi, true)));
    });
    connect(legend_, &Legend::changed, this, [this, with_range](double lo, double hi) {
        document_->apply(tr("Colour range"), [&](const site::Site& s) {
            return site::set_style(s, s.active, with_range(lo, hi, true));
        });
    });
    connect(legend_, &Legend::reset, this, [this, with_range] {
        document_->apply(tr("Usual colour range"), [&](const site::Site& s) {
            return site::set_style(s, s.active, with_range(0, 0, false));
        });
    });
}

void MainWindow::set_ghosts(std::uint64_t entry) {
    if (ghost_entry_ == entry) return;
    ghost_entry_ = entry;
    show_scene();
}

void MainWindow::fly_to_entry(std::uint64_t id) {
    const site::ItemPtr item = document_->site()->active_item();
    const site::LedgerEntry* e = item ? item->entry(id) : nullptr;
    if (!e) return;
    const auto box = std::make_shared<Box3>();
    jobs_->start(
        tr("Looking for the points"),
        [item, elements = e->elements, box](Progress& p) {
            *box = select::summarise(*item->cloud, *elements, *elements, nullptr, p).box;
        },
        [this, box] {
            const double margin = std::max(box->diagonal() * 0.3, 0.1);
            box->lo = box->lo - Vec3{margin, margin, margin};
            box->hi = box->hi + Vec3{margin, margin, margin};
            stage_->look_at(*box);
        },
        {}, Jobs::Show::IfLong);
}

void MainWindow::fly_to_item(std::uint64_t id) {
    if (const site::ItemPtr item = document_->site()->item(id)) stage_->look_at(item->cloud->robust_bounds());
}

void MainWindow::choose_item() {
    QMenu menu(this);
    for (const site::ItemPtr& item : document_->site()->items)
        menu.addAction(QString::fromStdString(item->name), this, [this, id = item->id, name = item->name] {
            document_->apply(tr("Work on %1").arg(QString::fromStdString(name)),
                             [id](const site::Site& s) { return site::activate(s, id); });
        });
    menu.exec(working_on_->mapToGlobal(QPoint(0, working_on_->height())));
}

void MainWindow::say_refused(const QString& why) {
    status_->say(why, true);
}

}  // namespace pristine::app
