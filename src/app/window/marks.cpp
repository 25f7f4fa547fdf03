#include "app/window/marks.h"

#include <QFileDialog>
#include <QSettings>
#include <utility>

#include "app/cards/marks_card.h"
#include "app/look/lengths.h"
#include "app/model/document.h"
#include "app/model/jobs.h"
#include "app/model/mark_text.h"
#include "app/model/marking.h"
#include "app/panes/panorama_pane.h"
#include "app/panes/section_pane.h"
#include "app/tools/mark_tool.h"
#include "app/window/hand.h"
#include "app/window/scene_view.h"
#include "app/window/status_line.h"
#include "core/io/marks_file.h"

namespace pristine::app {
namespace {

const QColor kMarkColour(0x8F, 0xE3, 0xD0);

}  // namespace

Marks::Marks(Desk& desk) : HandyPart(desk), marks_(desk.find<MarksCard>()) {
    connect(marks_, &MarksCard::draw_wanted, this, [this] {
        if (hand_.id() != ToolId::Mark) hand_.take_tool(ToolId::Mark);
        set_kind();
    });
    connect(marks_, &MarksCard::export_wanted, this, &Marks::choose_file);
    connect(&hand_, &Hand::taken, this, [this](ToolId id) {
        if (id != ToolId::Mark) {
            // It came with the tool, and goes with it: the next tool has settings of its own.
            if (std::exchange(came_with_tool_, false) && marks_->is_open()) marks_->close_card();
            return;
        }
        set_kind();
        if (marks_->is_open()) return;
        came_with_tool_ = true;
        emit desk_.card_wanted(marks_);
    });
    for (Stage* stage : {stage_, &section_->stage()})
        connect(stage, &Stage::shape_made, this, [this](const SpaceShape& s) {
            if (s.kind == SpaceShape::Kind::Mark) add(s.points);
        });
    connect(&panorama_->view(), &PanoramaView::marked, this, &Marks::from_panorama);
    view_.add_marks([this] { return drawn(); });
}

void Marks::add_commands() {
    add_card(QStringLiteral("tools.marks"));
}

void Marks::set_kind() {
    for (Tool* t : hand_.all_tools())
        if (auto* tool = dynamic_cast<MarkTool*>(t)) tool->set_kind(marks_->kind());
}

void Marks::add(std::vector<Vec3> places) {
    try {
        const site::Mark m = new_mark(*document_->site(), marks_->kind(), std::move(places), marks_->over());
        const QString name = QString::fromStdString(m.name);
        if (!document_->apply(tr("Mark %1").arg(name),
                              [&](const site::Site& s) { return site::put_mark(s, m); }))
            return;
        status_->say(QStringLiteral("%1: %2").arg(name, main_figure(m, Lengths(*document_->site()))), false);
    } catch (const Error& e) {
        say_refused(QString::fromStdString(e.what()));
    }
}

void Marks::from_panorama(const std::vector<Vec3>& pixels) {
    std::vector<Vec3> places;
    for (const Vec3& p : pixels) {
        const auto seen = panorama_->seen_at({p.x, p.y});
        const site::ItemPtr item = seen ? document_->site()->item(seen->item) : nullptr;
        if (!item) return say_refused(tr("A place of the mark lies on nothing: nothing was marked."));
        places.push_back(item->cloud->position(seen->element));
    }
    add(std::move(places));
}

std::vector<Guide> Marks::drawn() const {
    const site::SitePtr s = document_->site();
    const Lengths l(*s);
    std::vector<Guide> all;
    for (const site::MarkPtr& m : s->marks) {
        if (!m->visible) continue;
        Guide g;
        g.points = m->points;
        if (m->kind == MarkKind::Area) g.points.push_back(m->points.front());
        g.label = QStringLiteral("%1  %2").arg(QString::fromStdString(m->name), main_figure(*m, l));
        if (!site::why_stale(*s, *m).empty()) g.label = tr("Out of date: %1").arg(g.label);
        g.colour = kMarkColour;
        g.level_label = g.places = g.snaps = true;
        all.push_back(std::move(g));
    }
    return all;
}

void Marks::fly_to(std::uint64_t id) {
    const site::MarkPtr m = document_->site()->mark(id);
    if (!m) return;
    came_with_tool_ = false;
    if (!marks_->is_open()) emit desk_.card_wanted(marks_);
    marks_->take_in_hand(id);
}

void Marks::choose_file() {
    const site::SitePtr s = document_->site();
    std::vector<io::WrittenMark> written;
    for (const site::MarkPtr& m : s->marks) {
        if (!m->visible) continue;
        const site::ItemPtr over = s->item(m->over);
        written.push_back({m->kind, m->name, m->note, m->points, over ? over->name : std::string(),
                           site::why_stale(*s, *m)});
    }
    if (written.empty()) return say_refused(tr("No mark is shown: there is nothing to export."));
    const QString file = QFileDialog::getSaveFileName(
        window_, tr("Export marks"), QSettings().value("folder").toString() + QStringLiteral("/marks.csv"),
        tr("Table (*.csv);;GeoJSON (*.geojson);;GeoPackage (*.gpkg);;DXF (*.dxf)"));
    if (file.isEmpty()) return;
    jobs_->start(
        tr("Exporting marks"),
        [=, path = std::filesystem::path(file.toStdString()), in = site::reference_of(*s)](Progress&) {
            io::write_marks(written, path, true, in);  // the dialog asked
        },
        [this, n = static_cast<int>(written.size()), file] {
            status_->say(tr("%n mark(s) written to %1", "", n).arg(file), false);
        });
}

}  // namespace pristine::app
