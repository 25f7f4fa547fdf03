#include "app/window/hand.h"

#include <QSettings>
#include <algorithm>
#include <cmath>

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
    connect_stage(stage_);
    connect_stage(&section_->stage());
    connect(&panorama_->view(), &PanoramaView::fence_closed, this, &Hand::close_panorama_fence);
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
    panorama_tool_ = spec.fence ? spec.make() : nullptr;
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

site::Combine Hand::combine_for(Qt::KeyboardModifiers modifiers) const {
    if (modifiers & Qt::ShiftModifier) return site::Combine::Add;
    if (modifiers & Qt::ControlModifier) return site::Combine::TakeAway;
    return card_->combine();
}

ElementSet Hand::within_reach(const site::Site& s, const Stage* stage) const {
    const site::ItemPtr item = s.active_item();
    ElementSet set = among_removed_ ? site::eligible_removed(*item) : site::eligible(*item);
    if (stage == &section_->stage()) {
        const site::SetPtr strip = section_->strip_of(item->cloud.get());
        return strip ? set & *strip : ElementSet(item->cloud->size());
    }
    return set;
}

void Hand::finish_selecting(const site::ItemPtr& item, const ElementSet& set, site::Combine combine,
                            const QString& empty, const site::Origin& origin, const Selected* before) {
    // The item may have been closed or exchanged meanwhile: then the result speaks of nothing.
    const site::ItemPtr now = document_->site()->active_item();
    if (!now || now->cloud != item->cloud)
        return say_refused(tr("The item in work changed meanwhile; the selection was dropped."));
    const QString title = combine == site::Combine::TakeAway ? tr("Take %1 from the selection")
                          : combine == site::Combine::Add    ? tr("Add %1 to the selection")
                                                             : tr("Select %1");
    document_->apply(title.arg(counted(*document_, set.count())), [&](const site::Site& now) {
        site::Site site = now;
        if (before) {
            site.selection = before->set;
            site.origin = before->origin;
        }
        return among_removed_ ? site::select_removed(site, set, combine, origin)
                              : site::select(site, set, combine, origin);
    });
    if (set.empty()) say_refused(empty.arg(QString::fromStdString(now->name)));
}

void Hand::close_fence(Stage* stage, const select::Fence& fence, Qt::KeyboardModifiers modifiers) {
    const site::SitePtr s = document_->site();
    const site::ItemPtr item = s->active_item();
    if (!item) return say_refused(tr("Open a scan first."));
    const site::Combine combine = combine_for(modifiers);
    const bool visible_only = card_->visible_only() && !among_removed_;
    const auto set = std::make_shared<ElementSet>();
    const auto scene = std::make_shared<const render::Scene>(stage->scene());
    const auto reach = std::make_shared<const ElementSet>(within_reach(*s, stage));
    const bool across = tool_id_ == ToolId::Across;
    if (across && !item->cloud->triangles())
        return say_refused(tr("A line crosses triangles; the item in work is made of points. Take a fence."));
    if (across && fence.corners.size() < 2) return select_edge(stage, fence, modifiers);
    jobs_->start(
        tr("Selecting"),
        [=, options = fence_options()](Progress& p) mutable {
            render::Picture picture;
            std::vector<float> depths;
            select::DepthPicture seen;
            if (visible_only) {
                picture = render::render_picture(scene, fence.view);
                depths = picture.depths();
                seen = {picture.width, picture.height, depths};
                options.seen = &seen;
            }
            *set = across ? select::across_line(*item->cloud, fence.view, fence.corners, *reach, options, p)
                          : select::fence(*item->cloud, fence, *reach, options, p);
        },
        [this, set, item, combine, origin = hand_origin()] {
            finish_selecting(item, *set, combine, tr("The fence holds no points of %1."), origin);
        },
        {}, Jobs::Show::IfLong);
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
    const site::ItemPtr item = s->active_item();
    const auto id = stage->seen_at(at.corners[0]);
    if (!id) return say_refused(tr("There is no triangle here."));
    const render::Scene::PageRef ref = stage->scene().pages()[*id >> 16];
    if (stage->scene().items()[ref.item].id != item->id)
        return say_refused(tr("This triangle is not of the item in work."));
    const std::uint64_t t = std::uint64_t{ref.page} * kPageSize + (*id & 0xFFFFu);
    const auto edge = select::edge_near(*item->cloud, at.view, t, at.corners[0], kWithin_px);
    if (!edge) return say_refused(tr("Click nearer to an edge, or draw a line across the triangles."));
    ElementSet set(item->cloud->size());
    set.insert(t);
    const std::uint32_t o = cloud::adjacency_of(*item->cloud)->across[t][static_cast<std::size_t>(*edge)];
    if (o != topology::kNone) set.insert(o);
    finish_selecting(item, set & within_reach(*s, stage), combine_for(modifiers),
                     tr("The triangles at this edge of %1 are out or guarded."), hand_origin());
}

// Runs on this thread: a step touches few pages, and the eye wants to see it at once.
void Hand::stroke_step(Stage* stage, const select::Fence& fence, Qt::KeyboardModifiers modifiers) {
    const site::SitePtr s = document_->site();
    const site::ItemPtr item = s->active_item();
    if (!item) return;
    if (!stroke_) {
        stroke_ = std::make_shared<Stroke>();
        stroke_->item = item;
        stroke_->eligible = within_reach(*s, stage);
        stroke_->taken = ElementSet(item->cloud->size());
        stroke_->combine = combine_for(modifiers);
        stroke_->visible_only = card_->visible_only() && tool_id_ == ToolId::Brush && !among_removed_;
        stroke_->picture = stage->picture();
        if (const auto& picture = stroke_->picture; stroke_->visible_only && picture) {
            stroke_->depths = picture->depths();
            stroke_->seen = {picture->width, picture->height, stroke_->depths};
        }
    }
    ElementSet step(item->cloud->size());
    if (own_.step && own_.step(stage, fence, *stroke_)) {
        // It knows what it took.
    } else if (tool_id_ == ToolId::BallBrush) {
        const auto* brush = static_cast<const BrushTool*>(stage->tool());
        const auto place =
            stroke_->picture ? Stage::place_in(*stroke_->picture, brush->pointer()) : std::nullopt;
        if (!place) return;
        if (stroke_->ball_radius == 0)
            stroke_->ball_radius = brush->radius_px() / fence.view.pixels_per_unit(fence.view.depth(*place));
        step =
            select::in_ball(*item->cloud, *place, stroke_->ball_radius, stroke_->eligible, card_->reach_of());
    } else {
        select::FenceOptions options = fence_options();
        if (stroke_->visible_only) options.seen = &stroke_->seen;
        step = select::fence(*item->cloud, fence, stroke_->eligible, options);
    }
    stroke_->taken = stroke_->taken | step;
    // A glance at what the selection will be, without a commit.
    try {
        const site::SitePtr shown = among_removed_
                                        ? site::select_removed(*s, stroke_->taken, stroke_->combine)
                                        : site::select(*s, stroke_->taken, stroke_->combine);
        desk_.view->show_scene_of(shown);
    } catch (const Error& e) {
        say_refused(QString::fromStdString(e.what()));
    }
}

void Hand::stroke_ended() {
    if (!stroke_) return;
    const std::shared_ptr<Stroke> done = std::move(stroke_);
    if (own_.ended && own_.ended(done)) return;
    finish_selecting(done->item, done->taken, done->combine, tr("The brush met no points of %1."),
                     hand_origin());
    desk_.view->show_scene();
}

void Hand::select_shape(const QString& what, Stage* stage, Qt::KeyboardModifiers modifiers,
                        const site::Origin& origin, Shape shape) {
    const site::SitePtr s = document_->site();
    const site::ItemPtr item = s->active_item();
    if (!item) return say_refused(tr("Open a scan first."));
    const auto set = std::make_shared<ElementSet>();
    const auto reach = std::make_shared<const ElementSet>(within_reach(*s, stage));
    jobs_->start(
        tr("Selecting"), [=](Progress& p) { *set = shape(*item->cloud, *reach, p); },
        [this, set, item, what, origin, combine = combine_for(modifiers)] {
            finish_selecting(item, *set, combine,
                             tr("%1 holds no points of %2.").arg(what, QStringLiteral("%1")), origin);
        },
        {}, Jobs::Show::IfLong);
}

site::Origin Hand::hand_origin() const {
    const ToolSpec& tool = spec_of(tool_id_);
    site::Act act{.kind = site::Act::Kind::Tool, .id = tool.command};
    if (tool.settings.depth) act.settings["visible_only"] = card_->visible_only() && !among_removed_;
    const QString reason = QSettings().value(QStringLiteral("reasons/") + tool.command).toString();
    return {site::by(std::move(act)), reason.toStdString()};
}

void Hand::close_panorama_fence(const Polygon& corners, Qt::KeyboardModifiers modifiers) {
    if (!panorama_->seen()) return say_refused(tr("The panorama is still being drawn."));
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
