#include "app/cards/line_card.h"

#include <QCheckBox>
#include <QFormLayout>
#include <QHeaderView>
#include <QMenu>
#include <QPlainTextEdit>
#include <QTableWidget>
#include <QVBoxLayout>

#include "app/look/make.h"
#include "app/model/document.h"
#include "app/model/jobs.h"
#include "core/geometry/line_edit.h"
#include "core/io/mesh/mesh_cloud.h"
#include "core/io/text/typed_places.h"
#include "core/measure/contours.h"

namespace pristine::app {

LineCard::LineCard(Document* document, Jobs* jobs, QWidget* parent)
    : SideCard(QStringLiteral("line"), tr("Line"), QStringLiteral("lines.md"), parent),
      document_(document),
      jobs_(jobs) {
    which_ = make_choice(this, "lineWhich", tr("The line that is shown"));
    body()->addWidget(which_);
    add_typing();
    add_table();
    add_changes();
    body()->addWidget(state_ = make_sentence(this, "lineState"));
    connect(which_, &QComboBox::activated, this, [this] {
        fill_table();
        emit guides_changed();
    });
}

// A new line by its places: typed, or pasted from a list.
void LineCard::add_typing() {
    auto* row = new QHBoxLayout;
    new_ = make_button(this, "lineNew", tr("Type a new line"),
                       tr("A line by coordinates that are typed or pasted"));
    new_->setCheckable(true);
    inside_ = make_button(this, "lineInside", tr("Select inside it"),
                          tr("Selects what lies inside the closed line in plan"));
    row->addWidget(new_);
    row->addWidget(inside_);
    body()->addLayout(row);
    typing_ = new QWidget(this);
    auto* box = new QVBoxLayout(typing_);
    box->setContentsMargins(0, 0, 0, 0);
    typed_ = new QPlainTextEdit(typing_);
    typed_->setObjectName(QStringLiteral("lineTyped"));
    typed_->setAccessibleName(tr("Coordinates of the new line, a place a line"));
    typed_->setPlaceholderText(tr("A place a line: easting, northing, height\n412300.00 5218930.00 58.20"));
    typed_->setTabChangesFocus(true);
    typed_->setFixedHeight(110);
    box->addWidget(typed_);
    auto* foot = new QHBoxLayout;
    typed_closed_ = new QCheckBox(tr("Closed"), typing_);
    typed_closed_->setObjectName(QStringLiteral("lineTypedClosed"));
    typed_closed_->setChecked(true);
    auto* make = make_button(typing_, "lineTypedMake", tr("Make it"));
    foot->addWidget(typed_closed_);
    foot->addStretch();
    foot->addWidget(make);
    box->addLayout(foot);
    body()->addWidget(typing_);
    typing_->hide();
    connect(new_, &QPushButton::toggled, typing_, &QWidget::setVisible);
    connect(make, &QPushButton::clicked, this, &LineCard::make_typed);
    connect(inside_, &QPushButton::clicked, this, [this] {
        if (const site::LinePtr l = line()) emit select_inside(l->id);
    });
}

// What is typed stays until a line is made of it.
void LineCard::make_typed() {
    const site::SitePtr s = document_->site();
    const Lengths l(*s);
    try {
        const io::TypedPlaces typed = io::typed_places(typed_->toPlainText().toStdString());
        site::Line fresh;
        fresh.closed = typed_closed_->isChecked();
        fresh.name = tr("Line %1").arg(s->lines.size() + 1).toStdString();
        double height = 0;
        if (!typed.heights) {
            Box3 box;
            for (const site::ItemPtr& i : s->items)
                if (i->visible) box.add(i->cloud->robust_bounds());
            if (!box.empty()) height = box.lo.z;
        }
        for (const Vec3& p : typed.places)
            fresh.points.push_back({l.data(p.x), l.data(p.y), typed.heights ? l.data(p.z) : height});
        if (!document_->apply(tr("Type %1").arg(QString::fromStdString(fresh.name)),
                              [&](const site::Site& site) { return site::put_lines(site, {fresh}); }))
            return;
        typed_->clear();
        new_->setChecked(false);
        fill_lines();
        which_->setCurrentIndex(which_->count() - 1);
        refresh();
        emit guides_changed();
        if (!typed.heights)
            emit said(tr("Without heights the line lies at %1, as low as what is shown.")
                          .arg(l.coordinate(height)));
    } catch (const Error& e) {
        emit said(QString::fromStdString(e.what()));
    }
}

void LineCard::add_table() {
    table_ = new QTableWidget(0, 3, this);
    table_->setObjectName(QStringLiteral("linePlaces"));
    table_->setAccessibleName(tr("Places of the line; coordinates can be typed"));
    table_->setHorizontalHeaderLabels({tr("E"), tr("N"), tr("H")});
    // Northings are long: the card is as wide as they need.
    table_->horizontalHeader()->setSectionResizeMode(QHeaderView::ResizeToContents);
    table_->horizontalHeader()->setSectionResizeMode(2, QHeaderView::Stretch);
    table_->horizontalHeader()->setMinimumSectionSize(40);
    table_->setStyleSheet(
        QStringLiteral("QTableWidget::item { padding: 0px 1px; } QTableWidget { font-size: 8.5pt; }"));
    table_->verticalHeader()->setDefaultSectionSize(24);
    table_->setSelectionBehavior(QAbstractItemView::SelectRows);
    table_->setSelectionMode(QAbstractItemView::SingleSelection);
    table_->setMinimumHeight(220);
    body()->addWidget(table_, 1);
    connect(table_, &QTableWidget::cellChanged, this, &LineCard::typed);
    connect(table_, &QTableWidget::currentCellChanged, this, [this](int row) {
        if (filling_) return;
        const site::LinePtr l = line();
        for (QPushButton* b : {insert_, take_out_, split_}) b->setEnabled(l && row >= 0);
        emit guides_changed();
    });
    auto* row = new QHBoxLayout;
    insert_ = make_button(this, "lineInsert", tr("Insert"), tr("A place half way to the next one"));
    take_out_ =
        make_button(this, "lineTakeOut", tr("Take out"), tr("Takes the place in hand out of the line"));
    split_ = make_button(this, "lineSplit", tr("Split here"),
                         tr("Two lines that meet here; of a closed line an open one that begins here"));
    for (QPushButton* b : {insert_, take_out_, split_}) row->addWidget(b);
    body()->addLayout(row);
    connect(insert_, &QPushButton::clicked, this, &LineCard::insert);
    connect(take_out_, &QPushButton::clicked, this, &LineCard::take_out);
    connect(split_, &QPushButton::clicked, this, &LineCard::split);
}

void LineCard::add_changes() {
    auto* form = new QFormLayout;
    distance_ = new LengthBox(1, -1000, 1000, this);
    distance_->setObjectName(QStringLiteral("lineDistance"));
    distance_->setAccessibleName(tr("How far beside it in plan; to the left above zero"));
    beside_ =
        make_button(this, "lineBeside", tr("Line beside it"),
                    tr("A new line at this distance in plan, to the left above zero; heights come along"));
    form->addRow(distance_, beside_);
    tolerance_ = new LengthBox(0.02, 0, 100, this);
    tolerance_->setObjectName(QStringLiteral("lineTolerance"));
    tolerance_->setAccessibleName(tr("How far places may lie from the simplified line"));
    simplify_ = make_button(this, "lineSimplify", tr("Simplify"),
                            tr("Leaves places out that lie no farther than this from what is left"));
    form->addRow(tolerance_, simplify_);
    body()->addLayout(form);
    auto* row = new QHBoxLayout;
    join_ = make_button(this, "lineJoin", tr("Join with"),
                        tr("Another open line, end to end, by the nearest ends"));
    auto* menu = new QMenu(join_);
    join_->setMenu(menu);
    connect(menu, &QMenu::aboutToShow, this, [this, menu] { fill_join(menu); });
    drape_ = make_button(
        this, "lineDrape", tr("Lay on the surface"),
        tr("Heights of the surface in work, with a place wherever the line crosses an edge of it"));
    row->addWidget(join_);
    row->addWidget(drape_);
    body()->addLayout(row);
    connect(beside_, &QPushButton::clicked, this, &LineCard::make_beside);
    connect(simplify_, &QPushButton::clicked, this, &LineCard::simplify);
    connect(drape_, &QPushButton::clicked, this, &LineCard::drape);
}

void LineCard::on_open() {
    fill_lines();
    if (which_->count() > 0) which_->setCurrentIndex(which_->count() - 1);  // drawn last, most likely meant
    refresh();
    emit guides_changed();
}

void LineCard::refresh() {
    if (!is_open()) return;
    const Lengths l(*document_->site());
    for (LengthBox* box : {distance_, tolerance_}) box->set_lengths(l);
    fill_lines();
    if (line() != shown_ || document_->site()->unit != unit_) fill_table();
    const site::LinePtr now = line();
    const site::ItemPtr item = document_->site()->active_item();
    drape_->setEnabled(now && item && item->role == site::ItemRole::Terrain);
    join_->setEnabled(now && !now->closed);
    inside_->setEnabled(now && now->closed && item);
    for (QPushButton* b : {beside_, simplify_}) b->setEnabled(now != nullptr);
    for (QPushButton* b : {insert_, take_out_, split_}) b->setEnabled(now && place());
}

void LineCard::fill_lines() {
    const QVariant before = which_->currentData();
    which_->clear();
    for (const site::LinePtr& l : document_->site()->lines)
        which_->addItem(QString::fromStdString(l->name), quint64{l->id});
    if (const int at = which_->findData(before); at >= 0) which_->setCurrentIndex(at);
}

site::LinePtr LineCard::line() const {
    return document_->site()->line(which_->currentData().toULongLong());
}

std::optional<std::size_t> LineCard::place() const {
    const int row = table_->currentRow();
    return row >= 0 ? std::optional(static_cast<std::size_t>(row)) : std::nullopt;
}

void LineCard::fill_table() {
    filling_ = true;
    const int row = table_->currentRow();
    shown_ = line();
    unit_ = document_->site()->unit;
    const Lengths l(*document_->site());
    table_->setRowCount(shown_ ? static_cast<int>(shown_->points.size()) : 0);
    for (int k = 0; shown_ && k < table_->rowCount(); ++k)
        for (int a = 0; a < 3; ++a) {
            // A cell that is being typed into is kept.
            if (!table_->item(k, a)) table_->setItem(k, a, new QTableWidgetItem);
            table_->item(k, a)->setText(QString::number(
                l.shown(shown_->points[static_cast<std::size_t>(k)][a]), 'f', l.decimals() + 1));
        }
    if (row >= 0 && row < table_->rowCount())
        table_->setCurrentCell(row, std::max(0, table_->currentColumn()));
    filling_ = false;
    state_->setText(!shown_ ? tr("Draw, open or type a line first.")
                            : tr("%1, %2 places, %3.")
                                  .arg(shown_->closed ? tr("Closed") : tr("Open"))
                                  .arg(shown_->points.size())
                                  .arg(l.text(site::length_of(*shown_), 1)));
}

void LineCard::change(const QString& title, const std::function<void(site::Line&)>& how) {
    const site::LinePtr l = line();
    if (!l) return;
    try {
        site::Line changed = *l;
        how(changed);
        document_->apply(title.arg(QString::fromStdString(l->name)),
                         [&](const site::Site& s) { return site::put_lines(s, {changed}); });
    } catch (const Error& e) {
        emit said(QString::fromStdString(e.what()));
    }
}

// A word that is no number leaves the place as it was.
void LineCard::typed(int row, int column) {
    if (filling_ || !shown_) return;
    bool number = false;
    const double v = table_->item(row, column)->text().trimmed().toDouble(&number);
    if (!number) {
        emit said(
            tr("'%1' is no number; the place was left as it was.").arg(table_->item(row, column)->text()));
        return fill_table();
    }
    const double data = Lengths(*document_->site()).data(v);
    change(tr("Move a place of %1"),
           [&](site::Line& l) { l.points[static_cast<std::size_t>(row)][column] = data; });
}

void LineCard::insert() {
    const auto at = place();
    if (!at) return;
    change(tr("Insert a place into %1"), [&](site::Line& l) {
        const bool last = *at + 1 == l.points.size();
        if (last && !l.closed) throw Error(ErrorCode::Usage, "Behind the end there is no next place");
        const Vec3 next = l.points[last ? 0 : *at + 1];
        l.points.insert(l.points.begin() + static_cast<std::ptrdiff_t>(*at) + 1,
                        (l.points[*at] + next) * 0.5);
    });
}

void LineCard::take_out() {
    const auto at = place();
    if (!at) return;
    change(tr("Take a place out of %1"),
           [&](site::Line& l) { l.points.erase(l.points.begin() + static_cast<std::ptrdiff_t>(*at)); });
}

void LineCard::split() {
    const auto at = place();
    const site::LinePtr l = line();
    if (!at || !l) return;
    try {
        const auto [first, second] = split_at(l->points, l->closed, *at);
        site::Line a = *l, b = *l;
        a.points = first;
        a.closed = b.closed = false;
        b.points = second;
        b.id = 0;
        b.name += " 2";
        document_->apply(tr("Split %1").arg(QString::fromStdString(l->name)), [&](const site::Site& s) {
            return site::put_lines(
                s, b.points.empty() ? std::vector<site::Line>{a} : std::vector<site::Line>{a, b});
        });
    } catch (const Error& e) {
        emit said(QString::fromStdString(e.what()));
    }
}

void LineCard::fill_join(QMenu* menu) {
    menu->clear();
    const site::LinePtr own = line();
    for (const site::LinePtr& l : document_->site()->lines)
        if (own && l != own && !l->closed)
            menu->addAction(QString::fromStdString(l->name), this, [this, id = l->id] { join(id); });
    if (menu->isEmpty()) menu->addAction(tr("There is no other open line"))->setEnabled(false);
}

void LineCard::join(std::uint64_t id) {
    const site::LinePtr own = line(), other = document_->site()->line(id);
    if (!own || !other) return;
    site::Line all = *own;
    all.points = joined_ends(own->points, other->points);
    document_->apply(
        tr("Join %1 and %2").arg(QString::fromStdString(own->name), QString::fromStdString(other->name)),
        [&](const site::Site& s) { return site::put_lines(*site::drop_line(s, id), {all}); });
}

void LineCard::make_beside() {
    const site::LinePtr l = line();
    if (!l) return;
    try {
        site::Line fresh = *l;
        fresh.id = 0;
        fresh.points = beside(l->points, l->closed, distance_->in_data());
        fresh.name =
            tr("%1, %2 beside")
                .arg(QString::fromStdString(l->name), Lengths(*document_->site()).text(distance_->in_data()))
                .toStdString();
        document_->apply(tr("A line beside %1").arg(QString::fromStdString(l->name)),
                         [&](const site::Site& s) { return site::put_lines(s, {fresh}); });
    } catch (const Error& e) {
        emit said(QString::fromStdString(e.what()));
    }
}

void LineCard::simplify() {
    const site::LinePtr l = line();
    if (!l) return;
    const Simplified s = simplified(l->points, l->closed, tolerance_->in_data());
    const std::size_t gone = l->points.size() - s.points.size();
    if (gone == 0) return emit said(tr("Every place is needed for that."));
    change(tr("Simplify %1"), [&](site::Line& c) { c.points = s.points; });
    emit said(tr("%n place(s) left out, none farther than %1 from the line.", "", static_cast<int>(gone))
                  .arg(Lengths(*document_->site()).text(s.deviation, 1)));
}

void LineCard::drape() {
    const site::ItemPtr item = document_->site()->active_item();
    const site::LinePtr l = line();
    if (!item || !l) return;
    struct Laid {
        std::vector<std::vector<Vec3>> stretches;
        bool whole = false;
    };
    const auto laid = std::make_shared<Laid>();
    jobs_->start(
        tr("Laying %1 on the surface").arg(QString::fromStdString(l->name)),
        [=](Progress&) {
            std::vector<Vec3> along = l->points;
            if (l->closed) along.push_back(along.front());
            double covered = 0, whole = 0;
            for (const auto& stretch : measure::profile(io::mesh_of(*item->cloud, ~*item->absent), along)) {
                covered += stretch.back().chainage - stretch.front().chainage;
                laid->stretches.emplace_back();
                for (const measure::ProfilePoint& p : stretch) laid->stretches.back().push_back(p.place);
            }
            for (std::size_t k = 1; k < along.size(); ++k)
                whole += std::hypot(along[k].x - along[k - 1].x, along[k].y - along[k - 1].y);
            laid->whole = laid->stretches.size() == 1 && covered >= whole * (1 - 1e-6);
        },
        [this, laid, l] { lay(l, laid->stretches, laid->whole); },
        [this](const QString& why) { emit said(why); }, Jobs::Show::IfLong);
}

// Of the line as it was when it was asked for.
void LineCard::lay(const site::LinePtr& of, const std::vector<std::vector<Vec3>>& stretches, bool whole) {
    if (line() != of) return;
    if (stretches.empty()) return emit said(tr("The line does not lie over the surface."));
    if (!whole) return emit said(tr("The line leaves the surface: it was not laid on it."));
    change(tr("Lay %1 on the surface"), [&](site::Line& c) {
        c.points.clear();
        for (const Vec3& p : stretches[0])
            if (c.points.empty() || norm(p - c.points.back()) > 0) c.points.push_back(p);
        if (c.closed && c.points.size() > 3) c.points.pop_back();
    });
}

std::vector<std::vector<Vec3>> LineCard::guides() const {
    const auto at = place();
    if (!is_open() || !shown_ || !at || *at >= shown_->points.size()) return {};
    Box3 box;
    for (const Vec3& p : shown_->points) box.add(p);
    const double arm = 0.01 * box.diagonal();
    std::vector<std::vector<Vec3>> cross_of;
    for (int a = 0; a < 3; ++a) {
        Vec3 from = shown_->points[*at], to = from;
        from[a] -= arm;
        to[a] += arm;
        cross_of.push_back({from, to});
    }
    return cross_of;
}

}  // namespace pristine::app
