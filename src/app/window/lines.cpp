#include "app/window/lines.h"

#include <QFileDialog>
#include <QSettings>
#include <QTimer>
#include <algorithm>

#include "app/cards/line_card.h"
#include "app/cards/rule_card.h"
#include "app/cards/work_card.h"
#include "app/model/document.h"
#include "app/model/jobs.h"
#include "app/panes/section_pane.h"
#include "app/tools/line_tool.h"
#include "app/window/contents_panel.h"
#include "app/window/hand.h"
#include "app/window/notice.h"
#include "app/window/scene_view.h"
#include "app/look/preferences.h"
#include "core/io/lines/lines.h"
#include "core/io/lines/map_points.h"
#include "core/select/fence.h"

namespace pristine::app {

namespace {
constexpr std::size_t kFewLines = 12;  // so many are listed one by one

bool holds_map_points(const std::filesystem::path& file) {
    return io::can_hold_map_points(file) && !io::read_map_points(file).empty();
}
}  // namespace

Lines::Lines(Desk& desk) : HandyPart(desk) {
    for (Stage* stage : {stage_, &section_->stage()}) {
        connect(stage, &Stage::line_dragged, this, &Lines::line_dragged);
        connect(stage, &Stage::line_let_go, this, &Lines::line_let_go);
        connect(stage, &Stage::line_drawn, this, &Lines::line_drawn);
    }
    connect(&desk_, &Desk::lines_opened, this,
            [this](const std::filesystem::path& file, bool if_any) { add_lines(file, if_any, true); });
    connect(&desk_, &Desk::site_changed, this, &Lines::follow_tool);
    connect(&hand_, &Hand::taken, this, &Lines::follow_tool);
}

void Lines::add_commands() {
    commands_.add({"site.add_lines",
                   tr("Add lines…"),
                   tr("Boundaries, edges and axes of a GeoJSON, Shapefile, GeoPackage, DXF or LandXML file"),
                   "",
                   {},
                   tr("Site"),
                   [this] { choose_lines_to_add(); },
                   {},
                   {},
                   {}});
    add(
        "select.inside_lines", tr("Inside the closed lines that are shown"),
        tr("Selects what lies inside them in plan"), {}, tr("Select"), [this] { select_inside_lines(); },
        [this] { return needs_item(); });
    add(
        "select.keep_fence", tr("Keep the last fence as a line"),
        tr("A closed line whose corners lie on what is seen; it can be edited, selected inside, exported"),
        {}, tr("Select"), [this] { keep_fence(); },
        [this] { return hand_.last_fence().empty() ? tr("Draw a fence first.") : QString(); });
    if (auto* card = desk_.find<LineCard>())
        connect(card, &LineCard::select_inside, this, &Lines::select_inside_lines);
}

// The fence as a line, so that it can be used again, edited and handed over.
void Lines::keep_fence() {
    site::Line line;
    line.points = hand_.last_fence();
    line.closed = true;
    int n = 1;
    const site::SitePtr s = document_->site();
    const auto name = [&] { return tr("Fence %1").arg(n).toStdString(); };
    while (std::any_of(s->lines.begin(), s->lines.end(), [&](const auto& l) { return l->name == name(); }))
        ++n;
    line.name = name();
    document_->apply(tr("Keep %1").arg(QString::fromStdString(line.name)),
                     [&](const site::Site& site) { return site::put_lines(site, {line}); });
}

void Lines::line_dragged(const DrawnLine& drawn) {
    const site::LinePtr old = document_->site()->line(drawn.id);
    if (!old || rule_->is_open()) return;
    site::Line line = *old;
    line.points = drawn.points;
    emit desk_.line_dragged(line);
}

void Lines::line_let_go() {
    emit desk_.line_let_go();
    // Nothing changes: then the old surface is shown again; line_drawn follows at once when something does.
    QTimer::singleShot(0, this, [this, before = document_->site()] {
        if (view_.ahead() && document_->site() == before) view_.look_ahead(nullptr);
    });
}

void Lines::line_drawn(const DrawnLine& drawn) {
    const site::SitePtr s = document_->site();
    const site::LinePtr old = s->line(drawn.id);
    site::Line line = old ? *old : site::Line{};
    line.points = drawn.points;
    line.closed = drawn.closed;
    if (!old) line.name = tr("Line %1").arg(s->lines.size() + 1).toStdString();
    const site::SitePtr seen = view_.ahead();
    if (!document_->apply(old ? tr("Change %1").arg(QString::fromStdString(line.name))
                              : tr("Draw %1").arg(QString::fromStdString(line.name)),
                          [&](const site::Site& site) { return site::put_lines(site, {line}); }))
        return;
    desk_.line_in_work = old ? old->id : document_->site()->lines.back()->id;
    if (seen) {
        // What was seen while it was dragged stays until the surface is built.
        view_.look_ahead(seen);
    }
    follow_tool();
    view_.show_guides();
    if (old) emit desk_.line_changed(old->id);
}

void Lines::edit_line(std::uint64_t id) {
    desk_.line_in_work = id;
    hand_.take_tool(ToolId::Line);
}

void Lines::choose_lines_to_add() {
    const QString file =
        QFileDialog::getOpenFileName(window_, tr("Add lines"), QSettings().value("folder").toString(),
                                     tr("Lines (*.geojson *.json *.shp *.gpkg *.dxf *.xml);;All files (*)"));
    if (!file.isEmpty()) add_lines(file.toStdString());
}

void Lines::add_lines(const std::filesystem::path& file, bool if_any, bool with_points) {
    const auto lines = std::make_shared<std::vector<io::MapLine>>();
    const auto note = std::make_shared<std::string>();
    const auto points = std::make_shared<bool>(false);
    jobs_->start(
        tr("Reading lines"),
        [=, wanted = site::reference_of(*document_->site()),
         sagitta = preferences().sagitta_m / Lengths(*document_->site()).data_metres()](Progress&) {
            try {
                io::PlacedLines placed = io::read_lines_in(file, wanted, sagitta);
                *lines = std::move(placed.lines);
                *note = std::move(placed.note);
            } catch (const Error&) {
                *points = with_points && holds_map_points(file);
                if (!if_any && !*points) throw;
                return;
            }
            *points = with_points && holds_map_points(file);
        },
        [this, lines, note, points, file] {
            if (*points) document_->add_files({file});
            if (lines->empty()) return;
            std::vector<site::Line> fresh;
            const std::string name = file.stem().string();
            for (std::size_t i = 0; i < lines->size(); ++i) {
                io::MapLine& l = (*lines)[i];
                std::string own = l.layer.empty() ? name : l.layer;
                if (lines->size() > 1) own.append(" ").append(std::to_string(i + 1));
                fresh.push_back({0, std::move(own), std::move(l.points), l.closed, true});
                fresh.back().role = l.role.value_or(LineRole::Free);
                if (lines->size() > kFewLines) fresh.back().group = name;
            }
            document_->apply(tr("Add %1 lines of %2").arg(fresh.size()).arg(QString::fromStdString(name)),
                             [&](const site::Site& s) { return site::put_lines(s, std::move(fresh)); });
            if (!note->empty())
                notice_->show_text(
                    tr("The lines of %1 were %2. Undo takes them away again.")
                        .arg(QString::fromStdString(file.filename().string()), QString::fromStdString(*note)),
                    false);
        });
}

// In plan: of the line in work if it is closed, else of all closed lines that are shown.
void Lines::select_inside_lines(std::uint64_t only) {
    const site::SitePtr s = document_->site();
    std::vector<Polygon> rings;
    std::vector<std::string> names;
    for (const site::LinePtr& l : s->lines) {
        if (!l->closed || (only != 0 ? l->id != only : !l->visible)) continue;
        names.push_back(l->name);
        rings.emplace_back();
        for (const Vec3& p : l->points) rings.back().push_back({p.x, p.y});
    }
    if (rings.empty())
        return say_refused(only != 0 ? tr("This line is open: nothing is inside it.")
                                     : tr("No closed line is shown: draw one, or add lines from a file."));
    hand_.select_shape(tr("The lines"), stage_, {},
                       {site::by({.kind = site::Act::Kind::Lines, .settings = {{"lines", names}}}),
                        tr("By lines").toStdString()},
                       [rings = select::PlanFence(rings), reach = card_->reach_of()](
                           const cloud::PointCloud& c, const ElementSet& e, Progress& p) {
                           return select::plan_fence(c, rings, e, p, reach);
                       });
}

// The tool has the corners of the line in work.
void Lines::follow_tool() {
    const site::LinePtr in_work =
        hand_.id() == ToolId::Line ? document_->site()->line(desk_.line_in_work) : nullptr;
    for (Tool* t : hand_.tools())
        if (auto* tool = dynamic_cast<LineTool*>(t); tool && !tool->begun())
            tool->set_line(in_work ? std::optional(DrawnLine{in_work->id, in_work->points, in_work->closed})
                                   : std::nullopt);
}

}  // namespace pristine::app
