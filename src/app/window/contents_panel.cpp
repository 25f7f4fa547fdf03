#include "app/window/contents_panel.h"

#include <QColor>
#include <QColorDialog>
#include <QComboBox>
#include <QFormLayout>
#include <QHeaderView>
#include <QInputDialog>
#include <QKeyEvent>
#include <QLabel>
#include <QMenu>
#include <QPushButton>
#include <QRegularExpression>
#include <QSpinBox>
#include <QTreeWidget>
#include <QVBoxLayout>
#include <algorithm>
#include <set>

#include "app/look/lengths.h"
#include "app/look/role_words.h"
#include "app/look/theme.h"
#include "app/model/document.h"
#include "app/window/contents_rows.h"
#include "core/cloud/triangles.h"
#include "core/io/reference/system.h"
#include "core/place/residual_map.h"
#include "core/site/making.h"
#include "render/scene.h"

namespace pristine::app {
namespace {

constexpr int kMark = Qt::UserRole + 3;  // what stands before the name and is not part of it

// "2.01 M", or "1.98 / 2.01 M" once something is out.
QString shown_of(std::uint64_t shown, std::uint64_t all) {
    if (shown == all) return rounded(all);
    const QString a = rounded(shown), b = rounded(all);
    const bool same_unit = a.section(' ', 1) == b.section(' ', 1);
    return (same_unit ? a.section(' ', 0, 0) : a) + " / " + b;
}

}  // namespace

ContentsPanel::ContentsPanel(Document* document, QWidget* parent) : QWidget(parent), document_(document) {
    setObjectName(QStringLiteral("contents"));
    setAttribute(Qt::WA_StyledBackground);
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(0, 10, 0, 10);
    auto* head = new QHBoxLayout;
    head->setContentsMargins(12, 0, 12, 0);
    site_ = new QLabel(this);
    site_->setObjectName(QStringLiteral("siteName"));
    disk_ = new QLabel(this);
    disk_->setObjectName(QStringLiteral("soft"));
    head->addWidget(site_, 1);
    head->addWidget(disk_);
    layout->addLayout(head);

    add_tree(layout);
    follow_tree();
    add_look(layout);
}

void ContentsPanel::add_tree(QVBoxLayout* layout) {
    tree_ = new QTreeWidget(this);
    tree_->setObjectName(QStringLiteral("contentsTree"));
    tree_->setAccessibleName(
        tr("Contents: Enter brings an item in work, Space shows or hides it, L locks it, F2 renames it"));
    tree_->setColumnCount(4);
    tree_->setHeaderHidden(true);
    tree_->setRootIsDecorated(false);
    tree_->setIndentation(0);
    tree_->setTextElideMode(Qt::ElideMiddle);  // the end of a name tells scans apart
    tree_->header()->setStretchLastSection(false);
    tree_->header()->setMinimumSectionSize(20);
    tree_->header()->setSectionResizeMode(kEye, QHeaderView::Fixed);
    tree_->header()->setSectionResizeMode(kName, QHeaderView::Stretch);
    tree_->header()->setSectionResizeMode(kCount, QHeaderView::ResizeToContents);
    tree_->header()->setSectionResizeMode(kLock, QHeaderView::Fixed);
    tree_->setColumnWidth(kEye, 28);
    tree_->setColumnWidth(kLock, 22);
    tree_->setEditTriggers(QAbstractItemView::EditKeyPressed);
    tree_->setContextMenuPolicy(Qt::CustomContextMenu);
    tree_->installEventFilter(this);
    layout->addWidget(tree_, 1);
}

void ContentsPanel::follow_tree() {
    connect(tree_, &QTreeWidget::itemClicked, this, &ContentsPanel::clicked);
    connect(tree_, &QTreeWidget::itemDoubleClicked, this, [this](QTreeWidgetItem* row, int column) {
        if (column != kName || !id_of(row)) return;
        if (document_->site()->line(id_of(row)))
            emit edit_line(id_of(row));
        else if (document_->site()->mark(id_of(row)))
            emit fly_to_mark(id_of(row));
        else
            emit fly_to(id_of(row));
    });
    connect(tree_, &QTreeWidget::itemChanged, this, [this](QTreeWidgetItem* row, int column) {
        if (filling_ || column != kName) return;
        // A mark before the name is not part of it.
        QString typed = row->text(kName);
        if (const QString mark = row->data(kName, kMark).toString();
            !mark.isEmpty() && typed.startsWith(mark))
            typed.remove(0, mark.size());
        const std::string name = typed.trimmed().toStdString();
        const std::uint64_t id = id_of(row);
        if (const site::LinePtr line = document_->site()->line(id)) {
            change_line(line, tr("Rename %1"), [&](site::Line& l) { l.name = name; });
            return;
        }
        if (const site::MarkPtr mark = document_->site()->mark(id)) {
            change_mark(mark, tr("Rename %1"), [&](site::Mark& m) { m.name = name; });
            return;
        }
        document_->apply(tr("Rename to %1").arg(typed),
                         [&](const site::Site& s) { return site::rename_item(s, id, name); });
        shown_.clear();  // a refused name must not stay in the row
        refresh();
    });
    connect(tree_, &QWidget::customContextMenuRequested, this, &ContentsPanel::context_menu);
}

// How the item in work is drawn.
void ContentsPanel::add_look(QVBoxLayout* layout) {
    auto* look = new QFormLayout;
    look->setContentsMargins(12, 6, 12, 0);
    colour_ = new QComboBox(this);
    colour_->setObjectName(QStringLiteral("colourBy"));
    colour_->setAccessibleName(tr("Colour points by"));
    size_ = new QSpinBox(this);
    size_->setObjectName(QStringLiteral("pointSize"));
    size_->setAccessibleName(tr("Point size in pixels"));
    size_->setRange(1, 12);
    size_->setSuffix(tr(" px"));
    look->addRow(tr("Colour by"), colour_);
    size_title_ = new QLabel(tr("Point size"), this);
    look->addRow(size_title_, size_);
    faces_ = new QComboBox(this);
    faces_->setObjectName(QStringLiteral("faces"));
    faces_->setAccessibleName(tr("How triangles are drawn"));
    faces_->addItems({tr("with edges"), tr("solid"), tr("edges only"), tr("as points")});
    faces_title_ = new QLabel(tr("Triangles"), this);
    look->addRow(faces_title_, faces_);
    connect(faces_, &QComboBox::activated, this, [this] { edit_look(); });
    swatch_ = new QPushButton(this);
    swatch_->setObjectName(QStringLiteral("oneColour"));
    swatch_->setAccessibleName(tr("Choose the one colour"));
    look->addRow(tr("One colour"), swatch_);
    connect(swatch_, &QPushButton::clicked, this, [this] { choose_colour(); });
    layout->addLayout(look);
    connect(colour_, &QComboBox::activated, this, [this] { edit_look(); });
    connect(size_, &QSpinBox::valueChanged, this, [this] { edit_look(); });
}

void ContentsPanel::refresh() {
    refresh_head();
    const site::SitePtr s = document_->site();
    std::vector<const void*> now;
    for (const site::ItemPtr& item : s->items) now.push_back(item.get());
    for (const site::LinePtr& l : s->lines) now.push_back(l.get());
    for (const site::MarkPtr& m : s->marks) now.push_back(m.get());
    if (s->unit != shown_unit_) shown_.clear();
    shown_unit_ = s->unit;
    if (now == shown_ && s->active == shown_active_ && !now.empty()) return;
    shown_ = std::move(now);
    shown_active_ = s->active;
    filling_ = true;
    fill_tree();
    fill_look();
    filling_ = false;
}

void ContentsPanel::refresh_head() {
    site_->setText(document_->title());
    disk_->setText(document_->has_file() ? tr("project") : tr("not saved"));
}

void ContentsPanel::fill_tree() {
    const site::SitePtr s = document_->site();
    tree_->clear();
    std::vector<std::string> groups;  // in the order in which their first item came
    for (const site::ItemPtr& item : s->items)
        if (std::find(groups.begin(), groups.end(), item->group) == groups.end())
            groups.push_back(item->group);
    for (const std::string& group : groups) {
        auto* head = new QTreeWidgetItem(
            tree_, {QString(), group.empty() ? tr("Scans") : QString::fromStdString(group)});
        head->setFlags(Qt::ItemIsEnabled);
        head->setForeground(kName, token::ink_soft);
        head->setData(0, kHeading, QString::fromStdString(group));
        bool any = false;
        for (const site::ItemPtr& item : s->items) any |= item->group == group && item->visible;
        head->setIcon(kEye, icon(any ? "eye" : "eye-off", token::ink_soft));
        head->setToolTip(kEye, tr("Show or hide all of them"));
        for (const site::ItemPtr& item : s->items)
            if (item->group == group) add_row(item, item->id == s->active);
    }
    add_lines();
    add_marks();
}

void ContentsPanel::put_mark(QTreeWidgetItem* row, const QString& mark) {
    row->setData(kName, kMark, mark + row->data(kName, kMark).toString());
    row->setText(kName, mark + row->text(kName));
}

// Amber, and in words: what it was made from is another now.
void ContentsPanel::mark_stale(QTreeWidgetItem* row, const std::string& why) {
    put_mark(row, tr("Out of date: "));
    row->setForeground(kName, QColor(0x9A, 0x6B, 0x00));
    row->setToolTip(kName, tr("Out of date: %1. Right click: Make again.").arg(QString::fromStdString(why)));
}

void ContentsPanel::add_row(const site::ItemPtr& item, bool active) {
    auto* row = new QTreeWidgetItem(tree_);
    row->setData(0, Qt::UserRole, static_cast<qulonglong>(item->id));
    row->setFlags(row->flags() | Qt::ItemIsEditable);
    row->setIcon(kEye, icon(item->visible ? "eye" : "eye-off"));
    row->setText(kName, QString::fromStdString(item->name));
    row->setText(kCount, shown_of(item->shown(), item->total()));
    row->setTextAlignment(kCount, Qt::AlignRight | Qt::AlignVCenter);
    row->setIcon(kLock, icon(item->locked ? "lock" : "lock-open"));
    QString tip = (item->cloud->triangles() ? tr("%1\n%2 of %3 triangles shown\n%4")
                                            : tr("%1\n%2 of %3 points shown\n%4"))
                      .arg(row->text(kName), grouped(item->shown()), grouped(item->total()),
                           QString::fromStdString(item->origin));
    if (item->cloud->triangles()) tip += QLatin1Char('\n') + title_of(item->role);
    const cloud::Reference reference = item->cloud->reference();
    const io::System system = io::system_of(reference.crs);
    tip += reference.crs.empty() ? tr("\nno reference system stated")
           : system.name.empty() ? tr("\na reference system that is not understood")
                                 : tr("\n%1").arg(QString::fromStdString(system.title()));
    if (!item->placed_by.empty()) tip += tr("\nplaced: %1").arg(QString::fromStdString(item->placed_by));
    if (const site::Survey* survey = document_->site()->survey(item->survey))
        tip += tr("\nsurvey: %1").arg(QString::fromStdString(survey->name));
    if (const std::string date = site::date_of(*document_->site(), *item); !date.empty())
        tip += tr("\nsurveyed %1").arg(QString::fromStdString(date));
    if (item->thinned > 0)
        tip += tr("\nthinned: heights up to %1 off")
                   .arg(Lengths(*document_->site(), item.get()).spread(item->thinned));
    tip += reference.unit.empty() ? tr("\nunit not set") : tr("\nunit: %1").arg(unit_title(reference.unit));
    if (!reference.height_unit.empty()) tip += tr(", heights: %1").arg(unit_title(reference.height_unit));
    if (site::differs_from_site(*document_->site(), *item)) {
        const cloud::Reference of_site = site::reference_of(*document_->site());
        const io::System s = io::system_of(of_site.crs);
        tip += tr("\nNot in the unit and system of the site (%1): Item › Convert to the site's system")
                   .arg(s.name.empty() ? unit_title(of_site.unit) : QString::fromStdString(s.title()));
        put_mark(row, QStringLiteral("≠ "));
        row->setForeground(kName, QColor(0x9A, 0x6B, 0x00));
    }
    if (const auto n = static_cast<int>(item->cloud->stations().size()); n > 0)
        tip += tr("\nstations: %1").arg(n);
    if (item->guarded) tip += tr("\n%1 points guarded").arg(grouped(item->guarded->count()));
    if (item->hidden) tip += tr("\n%1 points hidden").arg(grouped(item->hidden->count()));
    for (int c = 0; c < 4; ++c) row->setToolTip(c, tip);
    QFont font = tree_->font();
    font.setPointSizeF(9);
    font.setBold(active);
    row->setFont(kName, font);
    row->setFont(kCount, font);
    if (!item->visible) row->setForeground(kName, token::ink_soft);
    if (const site::Making* making = site::making_of_item(*document_->site(), item->id))
        if (const std::string why = site::why_stale(*document_->site(), *making); !why.empty())
            mark_stale(row, why);
    if (active) tree_->setCurrentItem(row, kName);
}

void ContentsPanel::fill_look() {
    const site::ItemPtr item = document_->site()->active_item();
    colour_->clear();
    colour_->setEnabled(item != nullptr);
    size_->setEnabled(item != nullptr);
    swatch_->setEnabled(item != nullptr);
    if (!item) return;
    const auto add = [&](const QString& text, site::ColourBy by, bool there) {
        if (there) colour_->addItem(text, static_cast<int>(by));
    };
    add(tr("Colour (RGB)"), site::ColourBy::Rgb, item->cloud->colour().has_value());
    add(tr("Intensity"), site::ColourBy::Intensity, item->cloud->intensity().has_value());
    add(tr("Height"), site::ColourBy::Height, true);
    add(tr("Class"), site::ColourBy::Class,
        item->cloud->classification().has_value() || item->decided != nullptr);
    add(tr("One colour"), site::ColourBy::Single, true);
    // Every other column of the records can be coloured by; it is fetched when it is asked for.
    const std::set<std::string> shown_already{"x", "y", "z", "intensity", "red", "green", "blue", "class"};
    for (const cloud::Field& f : item->cloud->records()->layout().fields)
        if (!shown_already.contains(f.name))
            colour_->addItem(QString::fromStdString(f.name), QString::fromStdString(f.name));
    colour_->setCurrentIndex(item->style.colour_by == site::ColourBy::Column
                                 ? colour_->findData(QString::fromStdString(item->style.column))
                                 : colour_->findData(static_cast<int>(item->style.colour_by)));
    size_->setValue(item->style.point_size);
    faces_->setCurrentIndex(static_cast<int>(item->style.faces));
    const bool triangles = item->cloud->triangles() != nullptr;
    for (QWidget* w : std::initializer_list<QWidget*>{size_, size_title_}) w->setVisible(!triangles);
    for (QWidget* w : std::initializer_list<QWidget*>{faces_, faces_title_}) w->setVisible(triangles);
    swatch_->setText(QColor::fromRgb(item->style.single_colour).name());
    swatch_->setStyleSheet(
        QStringLiteral("QPushButton { background: %1; color: %2; padding: 2px 8px; }")
            .arg(swatch_->text(), qGray(item->style.single_colour) > 128 ? "#1D2733" : "#F5F2EC"));
}

void ContentsPanel::edit_look() {
    const site::ItemPtr item = document_->site()->active_item();
    if (filling_ || !item) return;
    site::Style style = item->style;
    const QVariant by = colour_->currentData();
    const bool column = by.typeId() == QMetaType::QString;
    style.colour_by = column ? site::ColourBy::Column : static_cast<site::ColourBy>(by.toInt());
    if (column) style.column = by.toString().toStdString();
    style.point_size = size_->value();
    style.faces = static_cast<site::Faces>(faces_->currentIndex());
    if (style.colour_by != item->style.colour_by || style.column != item->style.column)
        style.own_range = false;
    if (style == item->style) return;
    document_->apply(style.colour_by != item->style.colour_by || style.column != item->style.column
                         ? tr("Colour by %1").arg(colour_->currentText())
                     : style.faces != item->style.faces ? tr("Draw triangles %1").arg(faces_->currentText())
                                                        : tr("Point size %1 px").arg(style.point_size),
                     [&](const site::Site& s) { return site::set_style(s, item->id, style); });
}

void ContentsPanel::toggle_group(const QString& group) {
    const std::string name = group.toStdString();
    bool any = false;
    for (const site::ItemPtr& item : document_->site()->items) any |= item->group == name && item->visible;
    const QString title = group.isEmpty() ? tr("scans") : group;
    document_->apply(any ? tr("Hide %1").arg(title) : tr("Show %1").arg(title),
                     [&](const site::Site& s) { return site::set_group_visible(s, name, !any); });
}

void ContentsPanel::choose_group(std::uint64_t id) {
    const site::ItemPtr item = document_->site()->item(id);
    if (!item) return;
    QStringList groups;
    for (const site::ItemPtr& i : document_->site()->items)
        if (!i->group.empty() && !groups.contains(QString::fromStdString(i->group)))
            groups << QString::fromStdString(i->group);
    bool ok = false;
    const QString name = QInputDialog::getItem(
                             this, tr("Group"), tr("Heading to stand under (empty: none)"), groups,
                             static_cast<int>(groups.indexOf(QString::fromStdString(item->group))), true, &ok)
                             .trimmed();
    if (ok)
        document_->apply(tr("Group %1").arg(QString::fromStdString(item->name)),
                         [&](const site::Site& s) { return site::set_group(s, id, name.toStdString()); });
}

void ContentsPanel::choose_date(std::uint64_t id) {
    const site::ItemPtr item = document_->site()->item(id);
    if (!item) return;
    bool ok = false;
    const QString date = QInputDialog::getText(this, tr("Date of the survey"),
                                               tr("As 2026-11-25 (empty: none). Dates put surfaces in order: "
                                                  "cut and fill, profiles, volumes by date."),
                                               QLineEdit::Normal, QString::fromStdString(item->date), &ok)
                             .trimmed();
    if (ok)
        document_->apply(tr("Date of %1").arg(QString::fromStdString(item->name)),
                         [&](const site::Site& s) { return site::set_date(s, id, date.toStdString()); });
}

// Limits in the unit that is shown, for heights and changes; else in the value's own.
void ContentsPanel::choose_classes(std::uint64_t id) {
    const site::ItemPtr item = document_->site()->item(id);
    if (!item) return;
    const std::string& column = item->style.column;
    const bool length = item->style.colour_by != site::ColourBy::Column || column == site::kChangeColumn ||
                        column == place::kResidualColumn ||
                        (column == render::kDeviationColumn && item->cloud->triangles());
    const Lengths lengths(*document_->site());
    const double per = length ? lengths.data(1) : 1;
    QStringList now;
    for (const double v : item->style.classes) now << QString::number(v / per, 'g', 10);
    bool ok = false;
    const QString text = QInputDialog::getText(
        this, tr("Colour in classes"),
        tr("Limits of the classes, ascending, with spaces between%1. Empty: a ramp without steps.")
            .arg(length && !lengths.suffix().isEmpty() ? tr(", in%1").arg(lengths.suffix()) : QString()),
        QLineEdit::Normal, now.join(QLatin1Char(' ')), &ok);
    if (!ok) return;
    site::Style style = item->style;
    style.classes.clear();
    for (const QString& word :
         text.split(QRegularExpression(QStringLiteral("[\\s;]+")), Qt::SkipEmptyParts)) {
        bool number = false;
        style.classes.push_back(word.toDouble(&number) * per);
        if (!number)
            return emit refused(tr("'%1' is no number; the classes were left as they were.").arg(word));
    }
    std::sort(style.classes.begin(), style.classes.end());
    style.classes.erase(std::unique(style.classes.begin(), style.classes.end()), style.classes.end());
    if (style.classes.size() == 1)
        return emit refused(tr("Classes need two limits at least; they were left as they were."));
    document_->apply(style.classes.empty() ? tr("A ramp without steps") : tr("Colour in classes"),
                     [&](const site::Site& s) { return site::set_style(s, id, style); });
}

void ContentsPanel::choose_colour() {
    const site::ItemPtr item = document_->site()->active_item();
    if (!item) return;
    const QColor c = QColorDialog::getColor(QColor::fromRgb(item->style.single_colour), this,
                                            tr("Colour of %1").arg(QString::fromStdString(item->name)));
    if (!c.isValid()) return;
    site::Style style = item->style;
    style.colour_by = site::ColourBy::Single;
    style.single_colour = c.rgb() & 0xFFFFFFu;
    document_->apply(tr("Colour %1").arg(c.name()),
                     [&](const site::Site& s) { return site::set_style(s, item->id, style); });
}

void ContentsPanel::clicked(QTreeWidgetItem* row, int column) {
    const std::uint64_t id = id_of(row);
    const site::ItemPtr item = document_->site()->item(id);
    if (const site::LinePtr line = document_->site()->line(id)) {
        if (column == kEye)
            change_line(line, line->visible ? tr("Hide %1") : tr("Show %1"),
                        [](site::Line& l) { l.visible = !l.visible; });
        return;
    }
    if (const site::MarkPtr mark = document_->site()->mark(id)) {
        if (column == kEye)
            change_mark(mark, mark->visible ? tr("Hide %1") : tr("Show %1"),
                        [](site::Mark& m) { m.visible = !m.visible; });
        return;
    }
    if (const QVariant group = row->data(0, kLineGroup); group.isValid())
        return click_line_group(group.toString().toStdString(), column);
    if (id == 0 && row->data(0, kHeading).isNull()) return;  // the heading of the lines
    if (!item && column == kEye) toggle_group(row->data(0, kHeading).toString());
    if (!item) return;
    const QString name = QString::fromStdString(item->name);
    if (column == kEye)
        document_->apply(item->visible ? tr("Hide %1").arg(name) : tr("Show %1").arg(name),
                         [&](const site::Site& s) { return site::set_visible(s, id, !item->visible); });
    else if (column == kLock)
        document_->apply(item->locked ? tr("Unlock %1").arg(name) : tr("Lock %1").arg(name),
                         [&](const site::Site& s) { return site::set_locked(s, id, !item->locked); });
    else if (document_->site()->active != id)
        document_->apply(tr("Work on %1").arg(name),
                         [&](const site::Site& s) { return site::activate(s, id); });
}

bool ContentsPanel::eventFilter(QObject* watched, QEvent* event) {
    if (watched == tree_ && event->type() == QEvent::KeyPress) {
        QTreeWidgetItem* row = tree_->currentItem();
        if (id_of(row) != 0) switch (static_cast<QKeyEvent*>(event)->key()) {
                case Qt::Key_Space:
                    clicked(row, kEye);
                    return true;
                case Qt::Key_L:
                    clicked(row, kLock);
                    return true;
                case Qt::Key_Return:
                case Qt::Key_Enter:
                    clicked(row, kName);
                    return true;
                default:
                    break;
            }
    }
    return QWidget::eventFilter(watched, event);
}

}  // namespace pristine::app
