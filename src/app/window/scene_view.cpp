#include "app/window/scene_view.h"

#include "app/cards/holes_card.h"
#include "app/cards/rule_card.h"
#include "app/cards/work_card.h"
#include "app/look/lengths.h"
#include "app/model/class_text.h"
#include "app/model/document.h"
#include "app/model/jobs.h"
#include "app/model/thumbnails.h"
#include "app/panes/panorama_pane.h"
#include "app/panes/section_pane.h"
#include "app/stage/stage.h"
#include "app/window/hand.h"
#include "app/window/legend.h"
#include "app/window/status_line.h"
#include "core/base/units.h"
#include "core/select/summary.h"
#include "core/site/item_classes.h"
#include "core/site/making.h"
#include "core/site/surface_edits.h"

namespace pristine::app {

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

SceneView::SceneView(Desk& desk) : Part(desk), legend_(desk.legend), holes_(desk.find<HolesCard>()) {
    connect_legend();
    connect(document_, &Document::columns_changed, this, [this] { show_scene(); });
    connect(section_, &SectionPane::changed, this, [this] {
        show_guides();
        commands_.refresh();
    });
    connect(rule_, &RuleCard::closed, this, [this] {
        show_scene();
        show_guides();
    });
    connect(rule_, &RuleCard::colour_changed, this,
            [this] { show_scene_of(drawn_site_ ? drawn_site_ : document_->site()); });
    make_pictures();
}

// For the ledger: as the camera is now.
void SceneView::make_pictures() {
    document_->picture_maker = [this](const site::SitePtr& s) {
        return
            [s, camera = stage_->camera()](const Box3& box) { return selection_thumbnail(*s, box, camera); };
    };
    document_->picture_of = [this]() -> Document::PictureOf {
        const site::ItemPtr item = document_->site()->active_item();
        return [style = item ? item->style : site::Style(), camera = stage_->camera()](
                   const std::shared_ptr<const cloud::PointCloud>& c, const ElementSet& set) {
            return thumbnail_of(c, set, style, camera);
        };
    };
}

void SceneView::add_commands() {
    add_line_places();
    commands_.add({"view.ghosts",
                   tr("Ghosts of what is out"),
                   tr("Shows removed points faintly where they were"),
                   "",
                   QKeySequence(Qt::Key_G),
                   tr("-View"),
                   [this] {
                       ghosts_shown_ = !ghosts_shown_;
                       show_scene();
                   },
                   [this] { return needs_item(); },
                   [this] { return ghosts_shown_; },
                   {}});
    commands_.add({"view.wipe",
                   tr("Wipe between before and after"),
                   tr("Left of a line that you can drag, what is out is there again"),
                   "",
                   QKeySequence(Qt::SHIFT | Qt::Key_G),
                   tr("View"),
                   [this] {
                       wipe_ = !wipe_;
                       show_wipe(document_->site());
                       say_wipe();
                   },
                   [this] { return needs_item(); },
                   [this] { return wipe_; },
                   {}});
}

void SceneView::add_line_places() {
    commands_.add({"view.line_places",
                   tr("Vertices and heights of lines"),
                   tr("Shows the vertices of lines as dots, with their heights where there is room"),
                   "",
                   {},
                   tr("View"),
                   [this] {
                       line_places_ = !line_places_;
                       show_guides();
                   },
                   {},
                   [this] { return line_places_; },
                   {}});
}

void SceneView::say_wipe() {
    const site::ItemPtr item = document_->site()->active_item();
    status_->say(!wipe_ ? tr("Before and after: off")
                 : item && item->removed->empty()
                     ? tr("Before and after: nothing is out of %1, both sides are alike")
                           .arg(QString::fromStdString(item->name))
                     : tr("Before and after: drag the line in the view; %1 ends it")
                           .arg(commands_.find(QStringLiteral("view.wipe"))->key.toString()),
                 false);
}

void SceneView::look_ahead(site::SitePtr s) {
    const bool same = s == ahead_;
    ahead_ = std::move(s);
    ahead_of_ = document_->site();
    if (!same || ahead_) show_scene();
}

void SceneView::show_guides() {
    const site::SitePtr s = document_->site();
    const bool editing = desk_.hand->id() == ToolId::Line;
    std::vector<Stage::Guide> shown;
    const Lengths lengths(*s);
    for (const site::LinePtr& l : s->lines) {
        if (!l->visible || (editing && l->id == desk_.line_in_work)) continue;
        shown.push_back({l->points, QString::fromStdString(l->label), l->thick});
        Guide& g = shown.back();
        g.snaps = true;
        if (line_places_) {
            g.places = true;
            for (const Vec3& p : l->points) g.beside.push_back(lengths.number(p.z));
        }
        if (l->closed) g.points.push_back(l->points.front());
    }
    std::vector<Guide> in_section = shown;
    for (const Drawn& marks : marks_)
        for (Guide& g : marks()) {
            if (section_->is_open() && section_->is_near(g.points)) in_section.push_back(g);
            shown.push_back(std::move(g));
        }
    section_->stage().set_guides(std::move(in_section));
    panorama_->set_guides(shown);
    if (section_->is_open()) shown.push_back({section_->outline()});
    for (const Lines& lines : guides_)
        for (auto& l : lines()) shown.push_back({std::move(l)});
    for (const Drawn& drawn : drawn_)
        for (Stage::Guide& g : drawn()) shown.push_back(std::move(g));
    stage_->set_guides(std::move(shown));
}

void SceneView::show_scene() {
    const site::SitePtr s = document_->site();
    // A rule colours the elements that there are.
    if (ahead_ && (ahead_of_ != s || rule_->is_open())) ahead_ = nullptr;
    show_scene_of(ahead_ ? ahead_ : s);
}

// What is out and shown all the same: one decision, or all of what tools reach.
site::Parts SceneView::ghosts_of(const site::Site& s) const {
    site::Parts ghosts;
    for (const site::ItemPtr& item : site::items_of_decision(s, ghost_entry_))
        ghosts[item->id] = item->entry(ghost_entry_)->elements;
    if (ghosts.empty() && (ghosts_shown_ || desk_.hand->among_removed() || s.of_removed))
        for (const std::uint64_t id : desk_.hand->reach(s))
            ghosts[id] = std::make_shared<const ElementSet>(s.item(id)->taken());
    return ghosts;
}

void SceneView::show_scene_of(const site::SitePtr& s) {
    const site::Parts ghosts = ghosts_of(*s);
    drawn_site_ = s;
    section_->refresh(s, ghosts);
    panorama_->refresh(s, card_->all_shown());
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
void SceneView::show_wipe(const site::SitePtr& s) {
    if (!wipe_) {
        if (stage_->wiping()) stage_->set_before(nullptr);
        return;
    }
    const render::Scene now =
        render::scene_of(*s, {}, [this](const site::Item& i) { return document_->column_of(i); });
    std::vector<render::DrawItem> items = now.items();
    for (render::DrawItem& d : items) {
        if (const site::ItemPtr item = s->item(d.id))
            d.hidden = std::make_shared<const ElementSet>((*item->absent - *item->removed) | item->made());
        d.selected = nullptr;
    }
    stage_->set_before(std::make_shared<const render::Scene>(std::move(items)));
}

// The classes that there are, each with its colour.
void SceneView::show_class_key(const site::ItemPtr& item) {
    std::vector<Legend::Entry> key;
    const site::SitePtr s = document_->site();
    for (const auto& [code, count] : document_->classes_of(item)) {
        if (std::binary_search(item->unseen_classes.begin(), item->unseen_classes.end(), code)) continue;
        key.push_back({QColor::fromRgb(site::class_colour(*s, code)), class_text(*s, code)});
    }
    legend_->set_key(tr("Class"), std::move(key));
}

void SceneView::show_legend() {
    const site::ItemPtr item = document_->site()->active_item();
    if (item && item->visible && item->style.colour_by == site::ColourBy::Class && !rule_->colours() &&
        (item->cloud->classification() || item->decided))
        return show_class_key(item);
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

void SceneView::connect_legend() {
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

void SceneView::set_ghosts(std::uint64_t entry) {
    if (ghost_entry_ == entry) return;
    ghost_entry_ = entry;
    show_scene();
}

namespace {

// Of a change of what a surface is built from; of one of no place, the surface.
Box3 place_of_change(const site::Item& item, std::uint32_t number) {
    const auto known = item.source ? item.source->edits.find(number) : decltype(item.source->edits.end())();
    const bool any = item.source && known != item.source->edits.end();
    const Box3 box = any ? site::place_of(known->second, *item.source, number) : Box3();
    return box.empty() ? item.cloud->robust_bounds() : box;
}

}  // namespace

void SceneView::fly_to_entry(std::uint64_t id) {
    const std::vector<site::ItemPtr> items = site::items_of_decision(*document_->site(), id);
    if (items.empty()) return;
    const auto box = std::make_shared<Box3>();
    jobs_->start(
        tr("Looking for the points"),
        [items, id, box](Progress& p) {
            for (const site::ItemPtr& item : items) {
                const site::LedgerEntry& entry = *item->entry(id);
                if (entry.edit != 0) {
                    box->add(place_of_change(*item, entry.edit));
                    continue;
                }
                const ElementSet& set = *entry.elements;
                box->add(select::summarise(*item->cloud, set, set, nullptr, p).box);
            }
        },
        [this, box] {
            const double margin = std::max(box->diagonal() * 0.3, 0.1);
            box->lo = box->lo - Vec3{margin, margin, margin};
            box->hi = box->hi + Vec3{margin, margin, margin};
            stage_->look_at(*box);
        },
        {}, Jobs::Show::IfLong);
}

void SceneView::fly_to_item(std::uint64_t id) {
    if (const site::ItemPtr item = document_->site()->item(id)) stage_->look_at(item->cloud->robust_bounds());
}

void SceneView::fly_to_line(std::uint64_t id) {
    const site::LinePtr line = document_->site()->line(id);
    if (!line) return;
    Box3 box;
    for (const Vec3& p : line->points) box.add(p);
    stage_->look_at(box);
}

}  // namespace pristine::app
