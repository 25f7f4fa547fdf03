#include "app/cards/classes_card.h"

#include <QColorDialog>
#include <QHeaderView>
#include <QLabel>
#include <QRegularExpression>
#include <QTreeWidget>
#include <QVBoxLayout>
#include <algorithm>

#include "app/look/make.h"
#include "app/look/theme.h"
#include "app/model/class_text.h"
#include "app/model/document.h"

namespace pristine::app {
namespace {

enum ClassColumn : int { kClassEye, kClassName, kClassCount };

}  // namespace

ClassesCard::ClassesCard(Document* document, Jobs*, QWidget* parent)
    : SideCard(QStringLiteral("classes"), tr("Classes"), QStringLiteral("classes.md"), parent),
      document_(document) {
    body()->addWidget(state_ = make_sentence(this, "classesState"));
    add_list();
    add_actions();
    // Counts come from a job.
    connect(document_, &Document::columns_changed, this, &ClassesCard::refresh);
}

void ClassesCard::add_list() {
    list_ = new QTreeWidget(this);
    list_->setObjectName(QStringLiteral("classesList"));
    list_->setAccessibleName(
        tr("Classes; the eye shows or hides one, a click on its colour changes it, F2 renames it"));
    list_->setHeaderLabels({QString(), tr("Class"), tr("Points")});
    list_->setRootIsDecorated(false);
    list_->setEditTriggers(QAbstractItemView::EditKeyPressed);
    list_->header()->setStretchLastSection(false);
    list_->header()->setSectionResizeMode(kClassEye, QHeaderView::Fixed);
    list_->header()->setSectionResizeMode(kClassName, QHeaderView::Stretch);
    list_->header()->setSectionResizeMode(kClassCount, QHeaderView::ResizeToContents);
    list_->setColumnWidth(kClassEye, 30);
    body()->addWidget(list_, 1);
    connect(list_, &QTreeWidget::itemClicked, this, &ClassesCard::clicked);
    connect(list_, &QTreeWidget::itemChanged, this, &ClassesCard::renamed);
    connect(list_, &QTreeWidget::itemActivated, this, &ClassesCard::select_class);
    connect(list_, &QTreeWidget::currentItemChanged, this, [this] { refresh(); });
}

void ClassesCard::add_actions() {
    select_ = make_button(this, "classesSelect", tr("Select these points"),
                          tr("Selects what is shown of the class in hand"));
    only_ = make_button(this, "classesOnly", tr("Show only this"), tr("Hides all other classes of the item"));
    all_ = make_button(this, "classesAll", tr("Show all"), tr("Shows every class of the item again"));
    colour_ = make_button(this, "classesColour", tr("Colour by class"),
                          tr("Draws the points of the item in the colours of this key"));
    auto* eyes = new QHBoxLayout;
    eyes->addWidget(only_);
    eyes->addWidget(all_);
    body()->addWidget(select_);
    body()->addLayout(eyes);
    body()->addWidget(colour_);
    connect(select_, &QPushButton::clicked, this, &ClassesCard::select_class);
    connect(only_, &QPushButton::clicked, this, &ClassesCard::show_only);
    connect(all_, &QPushButton::clicked, this, &ClassesCard::show_all);
    connect(colour_, &QPushButton::clicked, this, &ClassesCard::colour_by_class);
}

// Whoever opens the key wants to see it.
void ClassesCard::on_open() {
    refresh();
    if (colour_->isEnabled()) colour_by_class();
}

void ClassesCard::refresh() {
    if (!is_open()) return;
    const site::SitePtr s = document_->site();
    const site::ItemPtr item = s->active_item();
    const bool points = item && !item->cloud->triangles();
    const auto counts = points ? document_->classes_of(item) : std::map<std::uint8_t, std::uint64_t>();
    if (item != shown_ || counts != counts_ || s->classes != classes_) {
        shown_ = item;
        counts_ = counts;
        classes_ = s->classes;
        fill();
    }
    const auto code = in_hand();
    select_->setEnabled(points && code && is_shown(*code));
    only_->setEnabled(points && code && counts_.size() > 1);
    all_->setEnabled(points && !item->unseen_classes.empty());
    colour_->setEnabled(points && item->style.colour_by != site::ColourBy::Class &&
                        (item->cloud->classification() || item->decided));
}

void ClassesCard::fill() {
    filling_ = true;
    const auto before = in_hand();
    const site::SitePtr s = document_->site();
    list_->clear();
    for (const auto& [code, count] : counts_) {
        auto* row = new QTreeWidgetItem(list_);
        row->setData(kClassName, Qt::UserRole, code);
        row->setFlags(row->flags() | Qt::ItemIsEditable);
        row->setIcon(kClassEye, icon(is_shown(code) ? "eye" : "eye-off"));
        row->setIcon(kClassName, swatch_icon(QColor::fromRgb(site::class_colour(*s, code))));
        row->setText(kClassName, class_text(*s, code));
        row->setText(kClassCount, grouped(count));
        row->setTextAlignment(kClassCount, Qt::AlignRight | Qt::AlignVCenter);
        row->setToolTip(kClassEye, is_shown(code) ? tr("Shown. Click: hide it, and keep tools off it")
                                                  : tr("Hidden, and safe from every tool. Click: show it"));
        row->setToolTip(kClassName,
                        tr("%1. Double click selects its points, F2 renames it").arg(row->text(kClassName)));
        if (!is_shown(code)) row->setForeground(kClassName, token::ink_soft);
        if (before == code) list_->setCurrentItem(row, kClassName);
    }
    const bool triangles = shown_ && shown_->cloud->triangles();
    state_->setText(!shown_     ? tr("Open a scan first.")
                    : triangles ? tr("Only points have classes; the item in work is made of triangles.")
                    : shown_->removed->count() >= shown_->total() ? tr("Nothing is left of this item.")
                    : counts_.empty()                             ? tr("Counting…")
                    : counts_.size() == 1 && counts_.contains(0)
                        ? tr("No point has a class yet. Select something, and press Insert.")
                        : tr("Select something and press Insert to give it a class."));
    filling_ = false;
}

std::optional<std::uint8_t> ClassesCard::in_hand() const {
    const QTreeWidgetItem* row = list_->currentItem();
    if (!row) return std::nullopt;
    return static_cast<std::uint8_t>(row->data(kClassName, Qt::UserRole).toUInt());
}

bool ClassesCard::is_shown(std::uint8_t code) const {
    return shown_ && !std::binary_search(shown_->unseen_classes.begin(), shown_->unseen_classes.end(), code);
}

void ClassesCard::clicked(QTreeWidgetItem* row, int column) {
    const auto code = static_cast<std::uint8_t>(row->data(kClassName, Qt::UserRole).toUInt());
    if (column == kClassEye) {
        const bool show = !is_shown(code);
        document_->apply((show ? tr("Show class %1") : tr("Hide class %1")).arg(row->text(kClassName)),
                         [&](const site::Site& s) { return site::show_class(s, s.active, code, show); });
        return;
    }
    // The swatch stands at the left of the name.
    const QRect cell = list_->visualItemRect(row);
    const int left = list_->columnViewportPosition(kClassName);
    const int x = list_->viewport()->mapFromGlobal(QCursor::pos()).x();
    if (column == kClassName && cell.isValid() && x >= left && x < left + 22) choose_colour(code);
}

// "6 Lock wall" or "Lock wall": the number stays what it is. Empty: what the standard says.
void ClassesCard::renamed(QTreeWidgetItem* row, int column) {
    if (filling_ || column != kClassName) return;
    const auto code = static_cast<std::uint8_t>(row->data(kClassName, Qt::UserRole).toUInt());
    QString name = row->text(kClassName);
    name = name.remove(QRegularExpression(QStringLiteral("^\\s*%1\\b").arg(code))).trimmed();
    document_->apply(tr("Name class %1").arg(code), [&](const site::Site& s) {
        return site::put_class(s, {code, name.toStdString(), site::class_colour(s, code)});
    });
    fill();
}

void ClassesCard::choose_colour(std::uint8_t code) {
    const site::SitePtr s = document_->site();
    const QColor c = QColorDialog::getColor(QColor::fromRgb(site::class_colour(*s, code)), this,
                                            tr("Colour of class %1").arg(class_text(*s, code)));
    if (!c.isValid()) return;
    document_->apply(tr("Colour of class %1").arg(code), [&](const site::Site& now) {
        std::string name;
        for (const site::SiteClass& known : now.classes)
            if (known.code == code) name = known.name;
        return site::put_class(now, {code, name, c.rgb() & 0xFFFFFFu});
    });
}

void ClassesCard::colour_by_class() {
    const site::ItemPtr item = document_->site()->active_item();
    if (!item) return;
    document_->apply(tr("Colour by class"), [&](const site::Site& s) {
        site::Style style = item->style;
        style.colour_by = site::ColourBy::Class;
        return site::set_style(s, item->id, style);
    });
}

void ClassesCard::select_class() {
    const auto code = in_hand();
    const site::ItemPtr item = document_->site()->active_item();
    if (!code || !item) return;
    const QString name = class_text(*document_->site(), *code);
    document_->apply(tr("Select class %1").arg(name), [&](const site::Site& s) {
        return site::select(s, site::of_class(*item, *code), site::Combine::New,
                            {site::said(tr("class %1").arg(name).toStdString()), name.toStdString()});
    });
}

void ClassesCard::show_only() {
    const auto chosen = in_hand();
    if (!chosen) return;
    document_->apply(tr("Show only class %1").arg(*chosen), [&](const site::Site& s) {
        site::SitePtr next = std::make_shared<const site::Site>(s);
        for (const auto& [code, count] : counts_)
            next = site::show_class(*next, s.active, code, code == *chosen);
        return next;
    });
}

void ClassesCard::show_all() {
    document_->apply(tr("Show all classes"), [&](const site::Site& s) {
        site::SitePtr next = std::make_shared<const site::Site>(s);
        for (const std::uint8_t code : std::vector<std::uint8_t>(s.active_item()->unseen_classes))
            next = site::show_class(*next, s.active, code, true);
        return next;
    });
}

}  // namespace pristine::app
