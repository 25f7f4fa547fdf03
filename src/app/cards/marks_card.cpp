#include "app/cards/marks_card.h"

#include <QGridLayout>
#include <QHeaderView>
#include <QLineEdit>
#include <QTreeWidget>
#include <QVBoxLayout>

#include "app/look/make.h"
#include "app/look/theme.h"
#include "app/model/document.h"
#include "app/model/mark_text.h"
#include "app/model/marking.h"
#include "core/site/marks.h"

namespace pristine::app {
namespace {

enum MarkColumn : int { kMarkEye, kMarkName, kMarkFigure };

}  // namespace

MarksCard::MarksCard(Document* document, Jobs*, QWidget* parent)
    : SideCard(QStringLiteral("marks"), tr("Marks"), QStringLiteral("marks.md"), parent),
      document_(document) {
    add_kinds();
    add_list();
    add_actions();
    choose(kind_);
}

void MarksCard::add_kinds() {
    auto* grid = new QGridLayout;
    grid->setSpacing(4);
    for (int k = 0; k < kMarkKinds; ++k) {
        const auto kind = static_cast<MarkKind>(k);
        auto* b = make_button(this, "", title_of(kind), how_to_draw(kind));
        b->setObjectName(QStringLiteral("mark.") + QString::fromLatin1(id_of(kind)));
        b->setCheckable(true);
        grid->addWidget(b, k / 3, k % 3);
        kinds_[static_cast<std::size_t>(k)] = b;
        connect(b, &QPushButton::clicked, this, [this, kind] {
            choose(kind);
            emit draw_wanted();
        });
    }
    body()->addLayout(grid);
    body()->addWidget(hint_ = make_sentence(this, "marksHint"));
    over_title_ = new QLabel(tr("Above"), this);
    over_ = make_choice(this, "marksOver", tr("What heights are measured above"));
    auto* row = new QHBoxLayout;
    row->addWidget(over_title_);
    row->addWidget(over_, 1);
    body()->addLayout(row);
}

void MarksCard::add_list() {
    list_ = new QTreeWidget(this);
    list_->setObjectName(QStringLiteral("marksList"));
    list_->setAccessibleName(tr("Marks; the eye shows or hides one, F2 renames it"));
    list_->setHeaderLabels({QString(), tr("Mark"), tr("Figure")});
    list_->setRootIsDecorated(false);
    list_->setEditTriggers(QAbstractItemView::EditKeyPressed | QAbstractItemView::DoubleClicked);
    list_->header()->setStretchLastSection(false);
    list_->header()->setSectionResizeMode(kMarkEye, QHeaderView::Fixed);
    list_->header()->setSectionResizeMode(kMarkName, QHeaderView::Stretch);
    list_->header()->setSectionResizeMode(kMarkFigure, QHeaderView::ResizeToContents);
    list_->setColumnWidth(kMarkEye, 30);
    list_->setMinimumHeight(140);
    body()->addWidget(list_, 1);
    connect(list_, &QTreeWidget::itemClicked, this, &MarksCard::clicked);
    connect(list_, &QTreeWidget::itemChanged, this, &MarksCard::edited);
    connect(list_, &QTreeWidget::currentItemChanged, this, [this] {
        if (!filling_) show_figures();
    });
    body()->addWidget(figures_ = make_sentence(this, "marksFigures"));
    figures_->setTextInteractionFlags(Qt::TextSelectableByMouse);
    note_ = new QLineEdit(this);
    note_->setObjectName(QStringLiteral("marksNote"));
    note_->setAccessibleName(tr("Note to the mark in hand"));
    note_->setPlaceholderText(tr("Note"));
    body()->addWidget(note_);
    connect(note_, &QLineEdit::editingFinished, this, [this] {
        const site::MarkPtr m = in_hand();
        const std::string note = note_->text().trimmed().toStdString();
        if (m && m->note != note) change(tr("Note to %1"), [&](site::Mark& c) { c.note = note; });
    });
}

void MarksCard::add_actions() {
    fly_ = make_button(this, "marksFly", tr("Fly there"));
    again_ = make_button(this, "marksAgain", tr("Measure again"),
                         tr("The height above what is there now, for a mark that is out of date"));
    drop_ = make_button(this, "marksDrop", tr("Take off"), tr("Takes the mark off the list"));
    all_ = make_button(this, "marksAll", tr("Hide all"));
    export_ = make_button(this, "marksExport", tr("Export…"),
                          tr("Those that are shown, as a table (CSV) or a map (GeoJSON, GeoPackage, DXF)"));
    auto* first = new QHBoxLayout;
    for (QPushButton* b : {fly_, drop_}) first->addWidget(b);
    auto* second = new QHBoxLayout;
    for (QPushButton* b : {all_, export_}) second->addWidget(b);
    body()->addWidget(again_);
    body()->addLayout(first);
    body()->addLayout(second);
    connect(fly_, &QPushButton::clicked, this, [this] {
        const site::MarkPtr m = in_hand();
        if (!m) return;
        Box3 box;
        for (const Vec3& p : m->points) box.add(p);
        // A place alone has no size: a metre round it.
        const double room = std::max(0.25 * box.diagonal(), 1 / Lengths(*document_->site()).data_metres());
        box.add(box.lo - Vec3{room, room, room});
        box.add(box.hi + Vec3{room, room, room});
        emit fly(box);
    });
    connect(again_, &QPushButton::clicked, this, &MarksCard::measure_again);
    connect(drop_, &QPushButton::clicked, this, [this] {
        if (const site::MarkPtr m = in_hand())
            document_->apply(tr("Take %1 off the list").arg(QString::fromStdString(m->name)),
                             [&](const site::Site& s) { return site::drop_mark(s, m->id); });
    });
    connect(all_, &QPushButton::clicked, this, [this] {
        bool any = false;
        for (const site::MarkPtr& m : document_->site()->marks) any |= m->visible;
        document_->apply(any ? tr("Hide all marks") : tr("Show all marks"),
                         [&](const site::Site& s) { return site::show_marks(s, !any); });
    });
    connect(export_, &QPushButton::clicked, this, &MarksCard::export_wanted);
}

void MarksCard::choose(MarkKind kind) {
    kind_ = kind;
    for (int k = 0; k < kMarkKinds; ++k)
        kinds_[static_cast<std::size_t>(k)]->setChecked(static_cast<MarkKind>(k) == kind);
    hint_->setText(how_to_draw(kind));
    over_title_->setVisible(kind == MarkKind::Above);
    over_->setVisible(kind == MarkKind::Above);
}

void MarksCard::on_open() {
    refresh();
    emit draw_wanted();
}

void MarksCard::refresh() {
    if (!is_open()) return;
    fill_over();
    const site::SitePtr s = document_->site();
    if (s->marks != shown_ || s->unit != unit_) fill_list();
    show_figures();
}

std::uint64_t MarksCard::over() const {
    return over_->currentData().toULongLong();
}

void MarksCard::fill_over() {
    const QVariant before = over_->currentData();
    const site::SitePtr s = document_->site();
    over_->clear();
    for (const site::ItemPtr& i : s->items) {
        const QString name = QString::fromStdString(i->name);
        over_->addItem(i->cloud->triangles() ? name : tr("the ground of %1").arg(name), quint64{i->id});
    }
    int at = over_->findData(before);
    if (at < 0) at = over_->findData(quint64{s->active});
    if (at >= 0) over_->setCurrentIndex(at);
}

void MarksCard::fill_list() {
    filling_ = true;
    const site::SitePtr s = document_->site();
    const std::uint64_t before =
        list_->currentItem() ? list_->currentItem()->data(0, Qt::UserRole).toULongLong() : 0;
    const bool more = s->marks.size() > shown_.size();
    shown_ = s->marks;
    unit_ = s->unit;
    list_->clear();
    const Lengths l(*s);
    for (const site::MarkPtr& m : s->marks) {
        auto* row = new QTreeWidgetItem(list_);
        row->setData(0, Qt::UserRole, quint64{m->id});
        row->setFlags(row->flags() | Qt::ItemIsEditable);
        row->setIcon(kMarkEye, icon(m->visible ? "eye" : "eye-off"));
        row->setText(kMarkName, QString::fromStdString(m->name));
        row->setText(kMarkFigure, main_figure(*m, l));
        row->setTextAlignment(kMarkFigure, Qt::AlignRight | Qt::AlignVCenter);
        if (!site::why_stale(*s, *m).empty()) row->setForeground(kMarkFigure, QColor(0x9A, 0x6B, 0x00));
        if (m->id == before) list_->setCurrentItem(row);
    }
    // The one that was just drawn is in hand.
    if (more && list_->topLevelItemCount() > 0)
        list_->setCurrentItem(list_->topLevelItem(list_->topLevelItemCount() - 1));
    filling_ = false;
}

void MarksCard::take_in_hand(std::uint64_t mark) {
    for (int k = 0; k < list_->topLevelItemCount(); ++k)
        if (list_->topLevelItem(k)->data(0, Qt::UserRole).toULongLong() == mark)
            list_->setCurrentItem(list_->topLevelItem(k));
}

site::MarkPtr MarksCard::in_hand() const {
    const QTreeWidgetItem* row = list_->currentItem();
    return row ? document_->site()->mark(row->data(0, Qt::UserRole).toULongLong()) : nullptr;
}

void MarksCard::show_figures() {
    const site::SitePtr s = document_->site();
    const site::MarkPtr m = in_hand();
    for (QPushButton* b : {fly_, drop_}) b->setEnabled(m != nullptr);
    for (QPushButton* b : {all_, export_}) b->setEnabled(!s->marks.empty());
    bool any = s->marks.empty();
    for (const site::MarkPtr& one : s->marks) any |= one->visible;
    all_->setText(any ? tr("Hide all") : tr("Show all"));
    note_->setEnabled(m != nullptr);
    again_->setVisible(m && m->over != 0);
    if (!m) {
        figures_->setText(s->marks.empty() ? tr("Nothing is marked yet.") : QString());
        note_->clear();
        return;
    }
    QString text = all_figures(*m, Lengths(*s));
    if (const site::ItemPtr over = s->item(m->over))
        text += tr("\nabove %1").arg(QString::fromStdString(over->name));
    const std::string why = site::why_stale(*s, *m);
    if (!why.empty()) text += tr("\nOut of date: %1.").arg(QString::fromStdString(why));
    again_->setEnabled(!why.empty() && s->item(m->over));
    figures_->setText(text);
    if (!note_->hasFocus()) note_->setText(QString::fromStdString(m->note));
}

void MarksCard::change(const QString& title, const std::function<void(site::Mark&)>& how) {
    const site::MarkPtr m = in_hand();
    if (!m) return;
    site::Mark changed = *m;
    how(changed);
    document_->apply(title.arg(QString::fromStdString(m->name)),
                     [&](const site::Site& s) { return site::put_mark(s, changed); });
}

void MarksCard::clicked(QTreeWidgetItem*, int column) {
    const site::MarkPtr m = in_hand();
    if (m && column == kMarkEye)
        change(m->visible ? tr("Hide %1") : tr("Show %1"), [](site::Mark& c) { c.visible = !c.visible; });
}

// A name that is empty leaves the mark as it was.
void MarksCard::edited(QTreeWidgetItem* row, int column) {
    if (filling_ || column != kMarkName) return;
    const std::string name = row->text(kMarkName).trimmed().toStdString();
    if (!name.empty()) change(tr("Rename %1"), [&](site::Mark& c) { c.name = name; });
    fill_list();
}

void MarksCard::measure_again() {
    const site::MarkPtr m = in_hand();
    if (!m) return;
    try {
        const site::Mark fresh = measured_above(*document_->site(), *m);
        document_->apply(tr("Measure %1 again").arg(QString::fromStdString(m->name)),
                         [&](const site::Site& s) { return site::put_mark(s, fresh); });
    } catch (const Error& e) {
        emit said(QString::fromStdString(e.what()));
    }
}

}  // namespace pristine::app
