#include "app/cards/markers_card.h"

#include <QFileDialog>
#include <QFormLayout>
#include <QHeaderView>
#include <QLabel>
#include <QPushButton>
#include <QSettings>
#include <QTreeWidget>
#include <QVBoxLayout>
#include <map>

#include "app/look/lengths.h"
#include "app/look/theme.h"
#include "app/model/document.h"
#include "app/model/jobs.h"
#include "app/model/mending.h"
#include "core/cloud/triangles.h"
#include "core/io/mesh/mesh_cloud.h"
#include "core/repair/patch.h"
#include "core/select/triangle_solid.h"
#include "core/site/origin_file.h"

namespace pristine::app {

MarkersCard::MarkersCard(Document* document, Jobs* jobs, QWidget* parent)
    : SideCard(QStringLiteral("markers"), tr("Markers"), QStringLiteral("mesh.md"), parent),
      document_(document),
      jobs_(jobs) {
    state_ = new QLabel(this);
    state_->setObjectName(QStringLiteral("markersState"));
    state_->setWordWrap(true);
    body()->addWidget(state_);
    list_ = new QTreeWidget(this);
    list_->setObjectName(QStringLiteral("markersList"));
    list_->setAccessibleName(
        tr("Markers; tick what is meant, click to fly there; a kind ticks all of its markers"));
    list_->setHeaderLabels({tr("Marker"), tr("Radius")});
    list_->header()->setSectionResizeMode(0, QHeaderView::Stretch);
    list_->header()->setStretchLastSection(false);
    body()->addWidget(list_, 1);
    const auto button = [&](const char* name, const QString& text, const QString& help) {
        auto* b = new QPushButton(text, this);
        b->setObjectName(QString::fromLatin1(name));
        b->setToolTip(help);
        body()->addWidget(b);
        return b;
    };
    open_ = button("markersOpen", tr("Open a table…"),
                   tr("Any text with a line for each marker; where its first line does not name the columns "
                      "name, x, y, z, radius and kind, a preview asks what they are"));
    radius_ = new LengthBox(0.003, 1e-7, 1000, this);
    radius_->set_more_digits(3);
    radius_->setObjectName(QStringLiteral("markersRadius"));
    radius_->setAccessibleName(tr("Radius of markers in a table that does not say it"));
    radius_->setToolTip(radius_->accessibleName());
    auto* form = new QFormLayout;
    form->addRow(tr("Radius, if not in it"), radius_);
    body()->addLayout(form);
    from_view_ = button("markersFromView", tr("Tick those in the selection"),
                        tr("Ticks every marker that a selected triangle reaches"));
    select_ = button("markersSelect", tr("Select what they cover"),
                     tr("Selects the triangles under the markers that are ticked"));
    heal_ = button("markersHeal", tr("Remove them and heal the surface"),
                   tr("Takes the triangles under the markers that are ticked away and fills the holes "
                      "rounded, as a card at the bottom that can be lifted"));
    connect(open_, &QPushButton::clicked, this, [this] {
        const QString file =
            QFileDialog::getOpenFileName(this, tr("Markers"), QSettings().value("folder").toString(),
                                         tr("Tables (*.csv *.txt);;All files (*)"));
        if (!file.isEmpty()) read(file.toStdString());
    });
    connect(from_view_, &QPushButton::clicked, this, &MarkersCard::tick_selected);
    connect(select_, &QPushButton::clicked, this, &MarkersCard::select_ticked);
    connect(heal_, &QPushButton::clicked, this, &MarkersCard::heal);
    connect(list_, &QTreeWidget::itemClicked, this, [this](QTreeWidgetItem* row) {
        const QVariant number = row->data(0, Qt::UserRole);
        if (!number.isValid()) return;
        const io::Marker& m = markers_[static_cast<std::size_t>(number.toInt())];
        Box3 box;
        const double r = 4 * m.radius;
        box.add(m.place - Vec3{r, r, r});
        box.add(m.place + Vec3{r, r, r});
        emit fly(box);
    });
}

// The table beside the mesh's file, if there is one.
void MarkersCard::on_open() {
    radius_->set_lengths(Lengths(*document_->site()));
    const site::ItemPtr item = document_->site()->active_item();
    if (item && item->cloud->triangles() && item->id != item_ && markers_.empty()) {
        const std::filesystem::path file = site::origin_file(*item);
        if (const auto beside = io::markers_beside(file); !beside.empty()) read(beside);
    }
    refresh();
}

void MarkersCard::read(const std::filesystem::path& file) {
    try {
        take(io::read_markers(file), file);
    } catch (const Error& e) {
        emit said(QString::fromStdString(e.what()));
        if (e.code() == ErrorCode::Format) emit preview_wanted(file);
    }
    refresh();
}

void MarkersCard::read_table(const std::filesystem::path& file, const io::TextReading& reading) {
    std::vector<std::string> left_out;
    try {
        std::vector<io::Marker> all = io::read_marker_table(file, reading, radius_->in_data(), left_out);
        take(std::move(all), file,
             left_out.empty()
                 ? QString()
                 : tr("; %n line(s) left out, the first: %1", "", static_cast<int>(left_out.size()))
                       .arg(QString::fromStdString(left_out.front())));
    } catch (const Error& e) {
        emit said(QString::fromStdString(e.what()));
    }
    refresh();
}

void MarkersCard::take(std::vector<io::Marker> all, const std::filesystem::path& file, const QString& more) {
    markers_ = std::move(all);
    const site::ItemPtr item = document_->site()->active_item();
    item_ = item ? item->id : 0;
    fill();
    emit said(tr("%n marker(s) of %1", "", static_cast<int>(markers_.size()))
                  .arg(QString::fromStdString(file.filename().string())) +
              more);
}

void MarkersCard::fill() {
    const Lengths l(*document_->site());
    list_->clear();
    std::map<std::string, QTreeWidgetItem*> kinds;
    for (std::size_t k = 0; k < markers_.size(); ++k) {
        const io::Marker& m = markers_[k];
        QTreeWidgetItem*& kind = kinds[m.kind];
        if (!kind) {
            kind = new QTreeWidgetItem(list_,
                                       {m.kind.empty() ? tr("of no kind") : QString::fromStdString(m.kind)});
            kind->setFlags(kind->flags() | Qt::ItemIsAutoTristate | Qt::ItemIsUserCheckable);
            kind->setCheckState(0, Qt::Unchecked);
            kind->setExpanded(true);
        }
        auto* row = new QTreeWidgetItem(kind, {QString::fromStdString(m.name), l.text(m.radius, 1)});
        row->setData(0, Qt::UserRole, static_cast<int>(k));
        row->setCheckState(0, Qt::Unchecked);
    }
}

void MarkersCard::refresh() {
    if (!is_open()) return;
    const site::ItemPtr item = document_->site()->active_item();
    const bool mesh = item && item->cloud->triangles(), some = mesh && !markers_.empty();
    select_->setEnabled(some);
    heal_->setEnabled(some);
    from_view_->setEnabled(some && document_->site()->selection_in_work());
    state_->setText(!mesh              ? tr("Take a mesh in work.")
                    : markers_.empty() ? tr("No markers yet: open the table that came with the mesh.")
                                       : tr("Tick markers; a kind ticks all of its own."));
}

std::vector<io::Marker> MarkersCard::ticked() const {
    std::vector<io::Marker> out;
    for (int i = 0; i < list_->topLevelItemCount(); ++i)
        for (int j = 0; j < list_->topLevelItem(i)->childCount(); ++j) {
            const QTreeWidgetItem* row = list_->topLevelItem(i)->child(j);
            if (row->checkState(0) == Qt::Checked)
                out.push_back(markers_[static_cast<std::size_t>(row->data(0, Qt::UserRole).toInt())]);
        }
    return out;
}

void MarkersCard::tick_selected() {
    const site::SitePtr s = document_->site();
    const site::ItemPtr item = s->active_item();
    if (!item || !s->selection_in_work()) return;
    for (int i = 0; i < list_->topLevelItemCount(); ++i)
        for (int j = 0; j < list_->topLevelItem(i)->childCount(); ++j) {
            QTreeWidgetItem* row = list_->topLevelItem(i)->child(j);
            const io::Marker& m = markers_[static_cast<std::size_t>(row->data(0, Qt::UserRole).toInt())];
            const bool met = !select::in_ball(*item->cloud, m.place, m.radius, *s->selection_in_work(),
                                              select::Reach::Touches)
                                  .empty();
            row->setCheckState(0, met ? Qt::Checked : Qt::Unchecked);
        }
}

void MarkersCard::select_ticked() {
    const site::ItemPtr item = document_->site()->active_item();
    const auto wanted = ticked();
    if (!item || wanted.empty()) return emit said(tr("Tick a marker first."));
    const ElementSet all = site::eligible(*item);
    ElementSet set(item->cloud->size());
    for (const io::Marker& m : wanted)
        set = set | select::in_ball(*item->cloud, m.place, m.radius, all, select::Reach::Touches);
    document_->apply(
        tr("Select %n marker(s)", "", static_cast<int>(wanted.size())), [&](const site::Site& s) {
            return site::select(s, set, site::Combine::New,
                                {site::by({.kind = site::Act::Kind::Markers,
                                           .settings = {{"count", static_cast<double>(wanted.size())}}}),
                                 tr("Markers").toStdString()});
        });
}

void MarkersCard::heal() {
    const site::ItemPtr item = document_->site()->active_item();
    const auto wanted = ticked();
    if (!item || !item->cloud->triangles() || wanted.empty()) return emit said(tr("Tick a marker first."));
    Mending m;
    m.item = item;
    m.title = tr("Healing");
    m.step = tr("Heal markers");
    m.reason = tr("Markers");
    m.repair = "repair.markers";
    m.work = [item, wanted](Progress& p) {
        const mesh::TriMesh shown = io::mesh_of(*item->cloud, ~*item->absent);
        std::vector<char> gone(shown.triangles.size(), 0);
        for (const io::Marker& marker : wanted) repair::mark_round(shown, marker.place, marker.radius, gone);
        repair::Step s = repair::replace_patch(shown, gone, {}, p);
        QString told = tr("%1 triangles taken, %2 made.");
        site::Settings found;
        if (!s.unrepaired.empty()) {
            told += " " + tr("Left open: %1.").arg(QString::fromStdString(s.unrepaired[0].why));
            found["left"] = std::vector<std::string>{s.unrepaired[0].why};
        }
        return Mending::Result{std::move(s.mesh), told, std::move(found), true};
    };
    m.nothing = tr("There is nothing under these markers.");
    m.said = [this](const QString& text) { emit said(text); };
    start_mending(document_, jobs_, std::move(m));
}

}  // namespace pristine::app
