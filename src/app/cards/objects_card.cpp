#include "app/cards/objects_card.h"

#include <QComboBox>
#include <QLabel>
#include <QPushButton>
#include <QTreeWidget>
#include <QVBoxLayout>
#include <algorithm>
#include <map>
#include <set>

#include "app/look/lengths.h"
#include "app/look/theme.h"
#include "app/model/document.h"
#include "app/model/jobs.h"
#include "core/score/suggest.h"

namespace pristine::app {
namespace {

using score::ObjectKind;

constexpr int kNumber = Qt::UserRole;    // of the object; -1: a kind
constexpr int kItem = Qt::UserRole + 1;  // among those that were looked at

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
        const auto which = current();
        kind_->setEnabled(which.has_value());
        if (!which || filling_) return;
        const score::Object& o = of(*which);
        kind_->setCurrentIndex(static_cast<int>(o.kind));
        const double half = 0.5 * std::max({o.length, o.height, 1.0}) / Lengths(*document_->site()).metres();
        Box3 box;
        box.add(o.centre - Vec3{half, half, half});
        box.add(o.centre + Vec3{half, half, half});
        emit fly(box);
    });
    connect(kind_, &QComboBox::activated, this, &ObjectsCard::tell);
}

// The clouds of the items that tools reach.
std::vector<const void*> ObjectsCard::clouds_now() const {
    std::vector<const void*> clouds;
    const site::SitePtr s = document_->site();
    for (const std::uint64_t id : document_->reach ? document_->reach() : site::reach_of(*s, false))
        clouds.push_back(s->item(id)->cloud.get());
    return clouds;
}

void ObjectsCard::refresh() {
    if (is_open() && clouds_now() != clouds_) compute();
}

std::optional<ObjectsCard::Which> ObjectsCard::current() const {
    const QTreeWidgetItem* i = tree_->currentItem();
    if (!i || i->data(0, kNumber).toInt() < 0) return {};
    return Which{static_cast<std::size_t>(i->data(0, kItem).toInt()),
                 static_cast<std::size_t>(i->data(0, kNumber).toInt())};
}

void ObjectsCard::compute() {
    found_.clear();
    fill();
    clouds_ = clouds_now();
    if (!document_->site()->active_item()) return state_->setText(tr("Open a scan first."));
    state_->setText(tr("Looking for the ground and what stands on it…"));
    std::vector<site::ItemPtr> items;
    for (const site::ItemPtr& i : document_->site()->items)
        if (std::find(clouds_.begin(), clouds_.end(), i->cloud.get()) != clouds_.end() &&
            (clouds_.size() == 1 || !i->cloud->triangles()))
            items.push_back(i);
    latest_.start<std::vector<Found>>(
        tr("Things on the ground"),
        [items](Progress& p, std::vector<Found>& found) {
            for (std::size_t k = 0; k < items.size(); ++k) {
                const Progress::Part part(p, static_cast<double>(k) / static_cast<double>(items.size()),
                                          static_cast<double>(k + 1) / static_cast<double>(items.size()),
                                          p.label());
                const ElementSet eligible = site::eligible(*items[k]);
                const score::Input in{*items[k]->cloud, eligible};
                const score::Column above = score::compute(score::find("ground"), in, {}, p);
                found.push_back({items[k], std::make_unique<score::Objects>(
                                               in, above, score::suggested_objects(*items[k]->cloud), p)});
            }
        },
        [this](std::vector<Found>& found) {
            found_ = std::move(found);
            fill();
        },
        [this](const QString& why) { state_->setText(why.isEmpty() ? tr("Cancelled.") : why); });
}

std::vector<ObjectsCard::Which> ObjectsCard::ticked_things() const {
    std::vector<Which> all;
    for (int k = 0; k < tree_->topLevelItemCount(); ++k)
        for (int c = 0; c < tree_->topLevelItem(k)->childCount(); ++c) {
            const QTreeWidgetItem* child = tree_->topLevelItem(k)->child(c);
            if (child->checkState(0) == Qt::Checked)
                all.push_back({static_cast<std::size_t>(child->data(0, kItem).toInt()),
                               static_cast<std::size_t>(child->data(0, kNumber).toInt())});
        }
    return all;
}

void ObjectsCard::fill() {
    filling_ = true;
    std::set<std::pair<std::size_t, std::size_t>> ticked;
    for (const Which& w : ticked_things()) ticked.insert({w.item, w.number});
    tree_->clear();
    const auto row = [](QTreeWidgetItem* i, int item, int number, bool on) {
        i->setData(0, kItem, item);
        i->setData(0, kNumber, number);
        i->setFlags(i->flags() | Qt::ItemIsUserCheckable |
                    (number < 0 ? Qt::ItemIsAutoTristate : Qt::NoItemFlags));
        i->setCheckState(0, on ? Qt::Checked : Qt::Unchecked);
    };
    std::size_t things = 0;
    for (std::size_t k = 0; k < score::kObjectKinds; ++k) {
        QTreeWidgetItem* head = nullptr;
        for (std::size_t f = 0; f < found_.size(); ++f)
            for (std::size_t n = 0; n < found_[f].objects->list().size(); ++n) {
                const score::Object& o = of({f, n});
                if (o.kind != static_cast<ObjectKind>(k)) continue;
                ++things;
                if (!head) row(head = new QTreeWidgetItem(tree_), -1, -1, false);
                QString text = tr("%1 × %2 × %3 m, %4")
                                   .arg(QString::number(o.length, 'f', 1), QString::number(o.width, 'f', 1),
                                        QString::number(o.height, 'f', 1), rounded(o.count));
                if (found_.size() > 1) text += ", " + QString::fromStdString(found_[f].item->name);
                auto* child = new QTreeWidgetItem(head, {text});
                child->setToolTip(0, tr("Length, width, height above the ground; number of points"));
                row(child, static_cast<int>(f), static_cast<int>(n), ticked.contains({f, n}));
            }
        if (head)
            head->setText(0, tr("%1: %2").arg(title_of(static_cast<ObjectKind>(k))).arg(head->childCount()));
    }
    kind_->setEnabled(false);
    take_->setEnabled(things > 0);
    if (!found_.empty()) say_found(things);
    filling_ = false;
}

void ObjectsCard::say_found(std::size_t things) {
    QString text = things == 0 ? tr("Nothing stands on the ground.")
                               : tr("Tick kinds or single things. Click one to fly there.");
    if (found_.size() == 1) {
        const score::ObjectOptions o = score::suggested_objects(*found_.front().item->cloud);
        text += QLatin1Char(' ') + tr("Things are %1 m apart or more and have %n point(s) at least.", "",
                                      static_cast<int>(o.least))
                                       .arg(QString::number(o.gap, 'g', 2));
    } else {
        text += QLatin1Char(' ') + tr("In %1 items, each by itself.").arg(found_.size());
    }
    state_->setText(text);
}

void ObjectsCard::tick_changed(QTreeWidgetItem*) {
    if (!filling_) take_->setEnabled(true);
}

site::Origin ObjectsCard::origin() const {
    site::Act act{.kind = site::Act::Kind::Things};
    QString only;
    std::map<score::ObjectKind, int> counts;
    for (const Which& w : ticked_things()) ++counts[of(w).kind];
    for (const auto& [kind, n] : counts) {
        act.settings[score::name_of(kind)] = static_cast<double>(n);
        only = title_of(kind);
    }
    const bool one_kind = act.settings.size() == 1;
    return {site::by(std::move(act)), (one_kind ? only : tr("Things on the ground")).toStdString()};
}

site::Parts ObjectsCard::ticked() const {
    std::map<std::size_t, ElementSet> sets;
    for (const Which& w : ticked_things()) {
        const ElementSet one = found_[w.item].objects->of(w.number);
        const auto [set, fresh] = sets.insert({w.item, one});
        if (!fresh) set->second = set->second | one;
    }
    site::Parts parts;
    for (auto& [k, set] : sets) {
        const site::ItemPtr now = document_->site()->item(found_[k].item->id);
        if (now && now->cloud == found_[k].item->cloud)
            parts[now->id] = std::make_shared<const ElementSet>(std::move(set));
    }
    return parts;
}

// Never silently: the status line says how many followed the example.
void ObjectsCard::tell() {
    const auto which = current();
    if (!which) return;
    const auto changed =
        found_[which->item].objects->tell(which->number, static_cast<ObjectKind>(kind_->currentIndex()));
    fill();
    emit said(tr("%n thing(s) like it became the same kind", "", static_cast<int>(changed.size()) - 1));
}

}  // namespace pristine::app
