#include "app/cards/objects_card.h"

#include <QComboBox>
#include <QLabel>
#include <QPushButton>
#include <QTreeWidget>
#include <QVBoxLayout>

#include "app/look/lengths.h"
#include "app/look/theme.h"
#include "app/model/document.h"
#include "app/model/jobs.h"

#include "core/score/suggest.h"

namespace pristine::app {
namespace {

using score::ObjectKind;

constexpr int kNumber = Qt::UserRole;  // of the object; -1: a kind

QString title_of(ObjectKind k) {
    switch (k) {
        case ObjectKind::Person:
            return ObjectsCard::tr("People");
        case ObjectKind::Vehicle:
            return ObjectsCard::tr("Vehicles");
        case ObjectKind::Machine:
            return ObjectsCard::tr("Machines");
        case ObjectKind::Building:
            return ObjectsCard::tr("Buildings");
        case ObjectKind::Vegetation:
            return ObjectsCard::tr("Vegetation");
        case ObjectKind::Pole:
            return ObjectsCard::tr("Poles");
        case ObjectKind::Other:
            return ObjectsCard::tr("Other things");
    }
    return {};
}

}  // namespace

ObjectsCard::ObjectsCard(Document* document, Jobs* jobs, QWidget* parent)
    : SideCard(QStringLiteral("objects"), tr("On the ground"), QStringLiteral("objects.md"), parent),
      document_(document),
      latest_(jobs) {
    QVBoxLayout* layout = body();
    state_ = new QLabel(this);
    state_->setObjectName(QStringLiteral("objectsState"));
    state_->setWordWrap(true);
    layout->addWidget(state_);
    tree_ = new QTreeWidget(this);
    tree_->setObjectName(QStringLiteral("objectsTree"));
    tree_->setAccessibleName(tr("Things on the ground by kind; tick what is meant, click to fly there"));
    tree_->setHeaderHidden(true);
    layout->addWidget(tree_, 1);
    auto* row = new QHBoxLayout;
    row->addWidget(new QLabel(tr("It is"), this));
    kind_ = new QComboBox(this);
    kind_->setObjectName(QStringLiteral("objectsKind"));
    kind_->setAccessibleName(tr("Kind of the thing in hand; those like it follow"));
    kind_->setToolTip(kind_->accessibleName());
    for (std::size_t k = 0; k < score::kObjectKinds; ++k)
        kind_->addItem(title_of(static_cast<ObjectKind>(k)), static_cast<int>(k));
    row->addWidget(kind_, 1);
    layout->addLayout(row);
    take_ = new QPushButton(tr("Select what is ticked"), this);
    take_->setObjectName(QStringLiteral("objectsTake"));
    layout->addWidget(take_);
    connect(take_, &QPushButton::clicked, this, &ObjectsCard::chosen);
    connect(tree_, &QTreeWidget::itemChanged, this, [this](QTreeWidgetItem* i) { tick_changed(i); });
    connect(tree_, &QTreeWidget::currentItemChanged, this, [this] {
        const int i = current();
        kind_->setEnabled(i >= 0);
        if (i < 0 || filling_) return;
        const score::Object& o = objects_->list()[static_cast<std::size_t>(i)];
        kind_->setCurrentIndex(static_cast<int>(o.kind));
        const double half = 0.5 * std::max({o.length, o.height, 1.0}) / Lengths(*document_->site()).metres();
        Box3 box;
        box.add(o.centre - Vec3{half, half, half});
        box.add(o.centre + Vec3{half, half, half});
        emit fly(box);
    });
    connect(kind_, &QComboBox::activated, this, &ObjectsCard::tell);
}

void ObjectsCard::refresh() {
    const site::ItemPtr item = document_->site()->active_item();
    if (is_open() && (item ? item->cloud : nullptr) != cloud_) compute();
}

int ObjectsCard::current() const {
    const QTreeWidgetItem* i = tree_->currentItem();
    return i ? i->data(0, kNumber).toInt() : -1;
}

void ObjectsCard::compute() {
    objects_ = nullptr;
    fill();
    const site::ItemPtr item = document_->site()->active_item();
    cloud_ = item ? item->cloud : nullptr;
    if (!item) return state_->setText(tr("Open a scan first."));
    state_->setText(tr("Looking for the ground and what stands on it…"));
    using Found = std::unique_ptr<score::Objects>;
    latest_.start<Found>(
        tr("Things on the ground"),
        [item](Progress& p, Found& found) {
            const ElementSet eligible = site::eligible(*item);
            const score::Input in{*item->cloud, eligible};
            const score::Column above = score::compute(score::find("ground"), in, {}, p);
            found = std::make_unique<score::Objects>(in, above, score::suggested_objects(*item->cloud), p);
        },
        [this](Found& found) {
            objects_ = std::move(found);
            fill();
        },
        [this](const QString& why) { state_->setText(why.isEmpty() ? tr("Cancelled.") : why); });
}

void ObjectsCard::fill() {
    filling_ = true;
    std::vector<bool> ticked(objects_ ? objects_->list().size() : 0);
    for (int k = 0; k < tree_->topLevelItemCount(); ++k)
        for (int c = 0; c < tree_->topLevelItem(k)->childCount(); ++c) {
            const QTreeWidgetItem* child = tree_->topLevelItem(k)->child(c);
            const auto n = static_cast<std::size_t>(child->data(0, kNumber).toInt());
            if (n < ticked.size()) ticked[n] = child->checkState(0) == Qt::Checked;
        }
    tree_->clear();
    const auto row = [](QTreeWidgetItem* i, int number, bool on) {
        i->setData(0, kNumber, number);
        i->setFlags(i->flags() | Qt::ItemIsUserCheckable |
                    (number < 0 ? Qt::ItemIsAutoTristate : Qt::NoItemFlags));
        i->setCheckState(0, on ? Qt::Checked : Qt::Unchecked);
    };
    for (std::size_t k = 0; objects_ && k < score::kObjectKinds; ++k) {
        QTreeWidgetItem* head = nullptr;
        for (std::size_t n = 0; n < objects_->list().size(); ++n) {
            const score::Object& o = objects_->list()[n];
            if (o.kind != static_cast<ObjectKind>(k)) continue;
            if (!head) row(head = new QTreeWidgetItem(tree_), -1, false);
            auto* child = new QTreeWidgetItem(
                head, {tr("%1 × %2 × %3 m, %4")
                           .arg(QString::number(o.length, 'f', 1), QString::number(o.width, 'f', 1),
                                QString::number(o.height, 'f', 1), rounded(o.count))});
            child->setToolTip(0, tr("Length, width, height above the ground; number of points"));
            row(child, static_cast<int>(n), ticked[n]);
        }
        if (head)
            head->setText(0, tr("%1: %2").arg(title_of(static_cast<ObjectKind>(k))).arg(head->childCount()));
    }
    kind_->setEnabled(false);
    take_->setEnabled(objects_ && !objects_->list().empty());
    if (objects_)
        state_->setText(objects_->list().empty()
                            ? tr("Nothing stands on the ground.")
                            : tr("Tick kinds or single things. Click one to fly there."));
    if (objects_ && cloud_) {
        const score::ObjectOptions o = score::suggested_objects(*cloud_);
        state_->setText(
            state_->text() + QLatin1Char(' ') +
            tr("Things are %1 m apart or more and have %n point(s) at least.", "", static_cast<int>(o.least))
                .arg(QString::number(o.gap, 'g', 2)));
    }
    filling_ = false;
}

void ObjectsCard::tick_changed(QTreeWidgetItem*) {
    if (!filling_) take_->setEnabled(true);
}

site::Origin ObjectsCard::origin() const {
    site::Act act{.kind = site::Act::Kind::Things};
    QString only;
    for (int k = 0; k < tree_->topLevelItemCount(); ++k) {
        int ticked = 0;
        for (int c = 0; c < tree_->topLevelItem(k)->childCount(); ++c) {
            const QTreeWidgetItem* child = tree_->topLevelItem(k)->child(c);
            if (child->checkState(0) != Qt::Checked) continue;
            ++ticked;
            const score::ObjectKind kind =
                objects_->list()[static_cast<std::size_t>(child->data(0, kNumber).toInt())].kind;
            act.settings[score::name_of(kind)] = static_cast<double>(ticked);
            only = title_of(kind);
        }
    }
    const bool one_kind = act.settings.size() == 1;
    return {site::by(std::move(act)), (one_kind ? only : tr("Things on the ground")).toStdString()};
}

site::SetPtr ObjectsCard::ticked() const {
    if (!objects_) return nullptr;
    const site::ItemPtr item = document_->site()->active_item();
    if (!item || item->cloud != cloud_) return nullptr;
    ElementSet set(item->cloud->size());
    for (int k = 0; k < tree_->topLevelItemCount(); ++k)
        for (int c = 0; c < tree_->topLevelItem(k)->childCount(); ++c) {
            const QTreeWidgetItem* child = tree_->topLevelItem(k)->child(c);
            if (child->checkState(0) == Qt::Checked)
                set = set | objects_->of(static_cast<std::size_t>(child->data(0, kNumber).toInt()));
        }
    return std::make_shared<const ElementSet>(std::move(set));
}

// Never silently: the status line says how many followed the example.
void ObjectsCard::tell() {
    const int i = current();
    if (i < 0 || !objects_) return;
    const auto changed =
        objects_->tell(static_cast<std::size_t>(i), static_cast<ObjectKind>(kind_->currentIndex()));
    fill();
    emit said(tr("%n thing(s) like it became the same kind", "", static_cast<int>(changed.size()) - 1));
}

}  // namespace pristine::app
