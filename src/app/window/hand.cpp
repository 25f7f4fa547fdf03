#include "app/window/hand.h"

#include <QMouseEvent>
#include <QSettings>
#include <algorithm>
#include <cmath>
#include <utility>

#include "app/cards/work_card.h"
#include "app/look/theme.h"
#include "app/model/document.h"
#include "app/model/jobs.h"
#include "app/model/stroke.h"
#include "app/panes/panorama_pane.h"
#include "app/panes/section_pane.h"
#include "app/tools/path_tools.h"
#include "app/window/scene_view.h"
#include "app/window/status_line.h"
#include "core/cloud/triangles.h"
#include "core/select/panorama.h"
#include "core/select/solid.h"
#include "core/select/triangle_fence.h"
#include "core/select/triangle_solid.h"
#include "render/renderer.h"

namespace pristine::app {

Hand::Hand(Desk& desk) : Part(desk) {
    document_->reach = [this] { return reach(*document_->site()); };
    connect(card_, &WorkCard::all_shown_changed, this, [this] {
        document_->update_numbers();
        desk_.view->show_scene();
        commands_.refresh();
    });
    stage_->installEventFilter(this);
    connect_stage(stage_);
    connect_stage(&section_->stage());
    connect(&panorama_->view(), &PanoramaView::fence_closed, this, &Hand::close_panorama_fence);
    connect(&panorama_->view(), &PanoramaView::stroke_step, this, &Hand::panorama_stroke_step);
    connect(&panorama_->view(), &PanoramaView::stroke_ended, this, &Hand::stroke_ended);
}

Hand::~Hand() = default;

Hand::Selected Hand::selected_now() const {
    return {document_->site()->selection, document_->site()->origin};
}

void Hand::set_among_removed(bool on) {
    if (among_removed_ == on) return;
    among_removed_ = on;
    emit among_removed_changed();
    commands_.refresh();
}

void Hand::add_commands() {
    for (const ToolSpec& t : tool_specs())
        commands_.add({QString::fromLatin1(t.command),
                       t.title,
                       t.help,
                       t.icon,
                       t.key,
                       t.new_group ? tr("-Tools") : tr("Tools"),
                       [this, id = t.id] { take_tool(id); },
                       {},
                       [this, id = t.id] { return tool_id_ == id; },
                       {}});
}

void Hand::take_tool(ToolId id) {
    tool_id_ = id;
    const ToolSpec& spec = spec_of(id);
    auto fresh = spec.make(), fresh_section = spec.make();
    stage_->set_tool(fresh.get());
    section_->stage().set_tool(fresh_section.get());
    tool_ = std::move(fresh);
    section_tool_ = std::move(fresh_section);
    panorama_->view().set_tool(nullptr);
    panorama_tool_ = spec.in_panorama ? spec.make() : nullptr;
    panorama_->view().set_tool(panorama_tool_.get());
    emit taken(id);
    desk_.view->show_guides();
    card_->set_tool(spec);
    commands_.refresh();
}

void Hand::connect_stage(Stage* stage) {
    connect(stage, &Stage::fence_closed, this,
            [this, stage](const select::Fence& f, Qt::KeyboardModifiers m) { close_fence(stage, f, m); });
    connect(stage, &Stage::stroke_step, this,
            [this, stage](const select::Fence& f, Qt::KeyboardModifiers m) { stroke_step(stage, f, m); });
    connect(stage, &Stage::stroke_ended, this, &Hand::stroke_ended);
    connect(stage, &Stage::refused, this, &Hand::say_refused);
}

void Hand::pick_next(const QString& ask, std::function<void(const Vec3&)> picked) {
    picked_ = std::move(picked);
    stage_->setCursor(Qt::CrossCursor);
    status_->say(ask, false);
}

void Hand::drop_pick() {
    picked_ = nullptr;
    stage_->unsetCursor();
}

bool Hand::eventFilter(QObject* watched, QEvent* event) {
    if (!picked_ || watched != stage_ || event->type() != QEvent::MouseButtonPress)
        return Part::eventFilter(watched, event);
    const auto* e = static_cast<QMouseEvent*>(event);
    if (e->button() != Qt::LeftButton) return false;  // the view can be turned meanwhile
    const PixelPoint p{e->position().x(), e->position().y()};
    const auto place = stage_->measured_at(p);
    if (!place) {
        say_refused(tr("There is no point here."));
        return true;
    }
    const auto picked = std::exchange(picked_, nullptr);
    stage_->unsetCursor();
    picked(*place);  // it may ask again
    return true;
}

site::Combine Hand::combine_for(Qt::KeyboardModifiers modifiers) const {
    if (modifiers & Qt::ShiftModifier) return site::Combine::Add;
    if (modifiers & Qt::ControlModifier) return site::Combine::TakeAway;
    return card_->combine();
}

site::Reach Hand::reach(const site::Site& s) const {
    return site::reach_of(s, card_->all_shown());
}

ElementSet Hand::within_reach(const site::Item& item, const Stage* stage) const {
    ElementSet set = among_removed_ ? site::eligible_removed(item) : site::eligible(item);
    if (stage == &section_->stage()) {
        const site::SetPtr strip = section_->strip_of(item.cloud.get());
        return strip ? set & *strip : ElementSet(item.cloud->size());
    }
    return set;
}

std::vector<Hand::Target> Hand::targets(const site::Site& s, const Stage* stage) const {
    std::vector<Target> all;
    for (const std::uint64_t id : reach(s)) {
        const site::ItemPtr item = s.item(id);
        all.push_back({item, within_reach(*item, stage)});
    }
    return all;
}

void Hand::finish_selecting(const std::vector<Target>& of, const site::Parts& taken, const Way& way) {
    // Items may have been closed or exchanged meanwhile: then the result speaks of nothing.
    const site::SitePtr now = document_->site();
    site::Parts parts;
    for (const Target& t : of) {
        const site::ItemPtr same = now->item(t.item->id);
        if (!same || same->cloud != t.item->cloud || (of.size() == 1 && now->active != same->id)) continue;
        if (const auto set = taken.find(same->id); set != taken.end()) parts.insert(*set);
    }
    if (parts.empty() && !taken.empty())
        return say_refused(tr("The item in work changed meanwhile; the selection was dropped."));
    const QString title = way.combine == site::Combine::TakeAway ? tr("Take %1 from the selection")
                          : way.combine == site::Combine::Add    ? tr("Add %1 to the selection")
                                                                 : tr("Select %1");
    document_->apply(title.arg(counted(*now, parts)), [&](const site::Site& site) {
        site::Site from = site;
        if (way.before) {
            from.selection = way.before->parts;
            from.origin = way.before->origin;
        }
        return among_removed_ ? site::select_removed(from, parts, way.combine, way.origin)
                              : site::select(from, parts, way.combine, way.origin);
    });
    if (site::count_of(parts) > 0) return;
    say_refused(way.empty.arg(of.size() == 1 ? QString::fromStdString(of.front().item->name)
                                             : tr("the items that are shown")));
}

void Hand::select_in(std::vector<Target> targets, Shape shape, Way way, std::function<void()> done) {
    if (targets.empty()) {
        const site::ItemPtr item = document_->site()->active_item();
        return say_refused(item ? tr("Nothing that is shown can be selected.") : tr("Open a scan first."));
    }
    const auto of = std::make_shared<const std::vector<Target>>(std::move(targets));
    const auto taken = std::make_shared<site::Parts>();
    jobs_->start(
        tr("Selecting"),
        [=](Progress& p) {
            for (std::size_t k = 0; k < of->size(); ++k) {
                const Target& t = (*of)[k];
                const Progress::Part part(p, static_cast<double>(k) / static_cast<double>(of->size()),
                                          static_cast<double>(k + 1) / static_cast<double>(of->size()),
                                          p.label());
                (*taken)[t.item->id] =
                    std::make_shared<const ElementSet>(shape(*t.item->cloud, t.eligible, p));
            }
        },
        [this, of, taken, way, done] {
            finish_selecting(*of, *taken, way);
            if (done) done();
        },
        {}, Jobs::Show::IfLong);
}

void Hand::close_fence(Stage* stage, const select::Fence& fence, Qt::KeyboardModifiers modifiers) {
    const site::SitePtr s = document_->site();
    if (!s->active_item()) return say_refused(tr("Open a scan first."));
    if (fence.corners.size() > 2 && tool_id_ != ToolId::Across) {
        last_fence_.clear();
        for (const PixelPoint& p : fence.corners) last_fence_.push_back(stage->anchor(p));
    }
    const bool visible_only = card_->visible_only() && !among_removed_;
    const bool across = tool_id_ == ToolId::Across;
    std::vector<Target> of = targets(*s, stage);
    if (across) {
        std::erase_if(of, [](const Target& t) { return !t.item->cloud->triangles(); });
        if (of.empty())
            return say_refused(
                tr("A line crosses triangles; the item in work is made of points. Take a fence."));
        if (fence.corners.size() < 2) return select_edge(stage, fence, modifiers);
    }
    // What hides what is asked once, of all that is drawn.
    struct Seen {
        render::Picture picture;
        std::vector<float> depths;
        select::DepthPicture depth;
    };
    const auto seen = std::make_shared<Seen>();
    const auto scene = std::make_shared<const render::Scene>(stage->scene());
    // The mask of a fence is painted once, in the job, for all items.
    const auto prepared = std::make_shared<std::optional<select::PreparedFence>>();
    select_in(std::move(of),
              [=, options = fence_options()](const cloud::PointCloud& c, const ElementSet& eligible,
                                             Progress& p) mutable {
                  if (visible_only && seen->depths.empty()) {
                      seen->picture = render::render_picture(scene, fence.view);
                      seen->depths = seen->picture.depths();
                      seen->depth = {seen->picture.width, seen->picture.height, seen->depths};
                  }
                  if (visible_only) options.seen = &seen->depth;
                  if (across) return select::across_line(c, fence.view, fence.corners, eligible, options, p);
                  if (!*prepared) prepared->emplace(fence);
                  return select::fence(c, **prepared, eligible, options, p);
              },
              {combine_for(modifiers), tr("The fence holds no points of %1."), hand_origin()});
}

select::FenceOptions Hand::fence_options() const {
    select::FenceOptions options;
    options.reach = card_->reach_of();
    options.towards_only = card_->towards_only();
    return options;
}

// The triangles on both sides of the edge that was clicked.
void Hand::select_edge(Stage* stage, const select::Fence& at, Qt::KeyboardModifiers modifiers) {
    constexpr double kWithin_px = 8;
    const site::SitePtr s = document_->site();
    const auto id = stage->seen_at(at.corners[0]);
    if (!id) return say_refused(tr("There is no triangle here."));
    const render::Scene::PageRef ref = stage->scene().pages()[*id >> 16];
    const site::Reach ids = reach(*s);
    const site::ItemPtr item = s->item(stage->scene().items()[ref.item].id);
    if (!item || !item->cloud->triangles() || std::find(ids.begin(), ids.end(), item->id) == ids.end())
        return say_refused(tr("This triangle is not of the item in work."));
    const std::uint64_t t = std::uint64_t{ref.page} * kPageSize + (*id & 0xFFFFu);
    const auto edge = select::edge_near(*item->cloud, at.view, t, at.corners[0], kWithin_px);
    if (!edge) return say_refused(tr("Click nearer to an edge, or draw a line across the triangles."));
    ElementSet set(item->cloud->size());
    set.insert(t);
    const std::uint32_t o = cloud::adjacency_of(*item->cloud)->across[t][static_cast<std::size_t>(*edge)];
    if (o != topology::kNone) set.insert(o);
    ElementSet eligible = within_reach(*item, stage);
    const auto taken = std::make_shared<const ElementSet>(set & eligible);
    finish_selecting(
        {{item, std::move(eligible)}}, {{item->id, taken}},
        {combine_for(modifiers), tr("The triangles at this edge of %1 are out or guarded."), hand_origin()});
}

std::shared_ptr<Stroke> Hand::begun_stroke(Stage* stage, Qt::KeyboardModifiers modifiers) const {
    const site::SitePtr s = document_->site();
    auto stroke = std::make_shared<Stroke>();
    // Brushes that move corners work on the item in work: it comes first, whatever else is reached.
    const site::ItemPtr in_work = s->active_item();
    stroke->of.push_back({in_work, within_reach(*in_work, stage), ElementSet(in_work->cloud->size())});
    for (Target& t : targets(*s, stage))
        if (t.item != in_work)
            stroke->of.push_back({t.item, std::move(t.eligible), ElementSet(t.item->cloud->size())});
    stroke->combine = combine_for(modifiers);
    stroke->visible_only = card_->visible_only() && tool_id_ == ToolId::Brush && !among_removed_;
    stroke->picture = stage->picture();
    if (const auto& picture = stroke->picture; stroke->visible_only && picture) {
        stroke->depths = picture->depths();
        stroke->seen = {picture->width, picture->height, stroke->depths};
    }
    return stroke;
}

site::Parts Hand::taken_of(const Stroke& stroke) {
    site::Parts parts;
    for (const Stroke::Of& o : stroke.of) parts[o.item->id] = std::make_shared<const ElementSet>(o.taken);
    return parts;
}

// Runs on this thread: a step touches few pages, and the eye wants to see it at once.
void Hand::stroke_step(Stage* stage, const select::Fence& fence, Qt::KeyboardModifiers modifiers) {
    const site::SitePtr s = document_->site();
    if (!s->active_item()) return;
    if (!stroke_) stroke_ = begun_stroke(stage, modifiers);
    if (own_.step && own_.step(stage, fence, *stroke_)) {
        // It knows what it took.
    } else if (tool_id_ == ToolId::BallBrush) {
        const auto* brush = static_cast<const BrushTool*>(stage->tool());
        const auto place =
            stroke_->picture ? Stage::place_in(*stroke_->picture, brush->pointer()) : std::nullopt;
        if (!place) return;
        if (stroke_->ball_radius == 0)
            stroke_->ball_radius = brush->radius_px() / fence.view.pixels_per_unit(fence.view.depth(*place));
        for (Stroke::Of& o : stroke_->of)
            o.taken = o.taken | select::in_ball(*o.item->cloud, *place, stroke_->ball_radius, o.eligible,
                                                card_->reach_of());
    } else {
        select::FenceOptions options = fence_options();
        if (stroke_->visible_only) options.seen = &stroke_->seen;
        const select::PreparedFence prepared(fence);
        for (Stroke::Of& o : stroke_->of)
            o.taken = o.taken | select::fence(*o.item->cloud, prepared, o.eligible, options);
    }
    show_stroke(*s);
}

// A glance at what the selection will be, without a commit.
void Hand::show_stroke(const site::Site& s) {
    try {
        const site::Parts taken = taken_of(*stroke_);
        desk_.view->show_scene_of(among_removed_ ? site::select_removed(s, taken, stroke_->combine)
                                                 : site::select(s, taken, stroke_->combine));
    } catch (const Error& e) {
        say_refused(QString::fromStdString(e.what()));
    }
}

void Hand::panorama_stroke_step(const Polygon& corners, Qt::KeyboardModifiers modifiers) {
    const site::SitePtr s = document_->site();
    if (!s->active_item()) return;
    if (!panorama_->is_current()) return say_refused(tr("The panorama is still being drawn."));
    if (!stroke_) stroke_ = begun_stroke(stage_, modifiers);
    const select::RangePicture* seen = stroke_->visible_only ? panorama_->seen().get() : nullptr;
    for (Stroke::Of& o : stroke_->of)
        o.taken =
            o.taken | select::panorama_fence(*o.item->cloud, panorama_->frame(), corners, o.eligible, seen);
    show_stroke(*s);
}

void Hand::stroke_ended() {
    if (!stroke_) return;
    const std::shared_ptr<Stroke> done = std::move(stroke_);
    if (own_.ended && own_.ended(done)) return;
    std::vector<Target> of;
    for (const Stroke::Of& o : done->of) of.push_back({o.item, ElementSet(o.item->cloud->size())});
    finish_selecting(of, taken_of(*done),
                     {done->combine, tr("The brush met no points of %1."), hand_origin()});
    desk_.view->show_scene();
}

void Hand::select_shape(const QString& what, Stage* stage, Qt::KeyboardModifiers modifiers,
                        const site::Origin& origin, Shape shape) {
    select_in(
        targets(*document_->site(), stage), std::move(shape),
        {combine_for(modifiers), tr("%1 holds no points of %2.").arg(what, QStringLiteral("%1")), origin});
}

site::Origin Hand::hand_origin() const {
    const ToolSpec& tool = spec_of(tool_id_);
    site::Act act{.kind = site::Act::Kind::Tool, .id = tool.command};
    if (tool.settings.depth) act.settings["visible_only"] = card_->visible_only() && !among_removed_;
    const QString reason = QSettings().value(QStringLiteral("reasons/") + tool.command).toString();
    return {site::by(std::move(act)), reason.toStdString()};
}

void Hand::close_panorama_fence(const Polygon& corners, Qt::KeyboardModifiers modifiers) {
    if (!panorama_->is_current()) return say_refused(tr("The panorama is still being drawn."));
    const bool visible_only = card_->visible_only();
    site::Origin origin = hand_origin();
    origin.cause.acts.front().settings["panorama"] = true;
    select_shape(tr("The fence"), stage_, modifiers, origin,
                 [corners, frame = panorama_->frame(), seen = panorama_->seen(), visible_only](
                     const cloud::PointCloud& c, const ElementSet& e, Progress& p) {
                     return select::panorama_fence(c, frame, corners, e, visible_only ? seen.get() : nullptr,
                                                   p);
                 });
}

}  // namespace pristine::app
