#include "app/cards/level_page.h"

#include <QHBoxLayout>
#include <QHeaderView>
#include <QTreeWidget>
#include <QVBoxLayout>
#include <array>
#include <cmath>

#include "app/look/make.h"
#include "app/model/document.h"
#include "core/select/solid.h"

namespace pristine::app {
namespace {

enum LevelColumn : int { kLevelName, kLevelMeasured, kLevelShould, kLevelOff };

}  // namespace

LevelPage::LevelPage(Document* document, QWidget* parent) : QWidget(parent), document_(document) {
    auto* rows = new QVBoxLayout(this);
    rows->setContentsMargins(0, 0, 0, 0);
    rows->addWidget(new QLabel(tr("Should be level"), this));
    auto* level = new QHBoxLayout;
    auto* three = make_button(this, "placeLevelPick", tr("Three places"),
                              tr("Click three places that should be at one height"));
    selection_ =
        make_button(this, "placeLevelSelection", tr("The selection"),
                    tr("The plane through what is selected of the item, strays aside: fence or paint a "
                       "floor first"));
    unlevel_ = make_button(this, "placeLevelDrop", tr("Drop"), tr("The item stays as inclined as it is"));
    for (QPushButton* b : {three, selection_, unlevel_}) level->addWidget(b);
    rows->addLayout(level);
    rows->addWidget(level_state_ = make_sentence(this, "placeLevelState"));
    rows->addWidget(new QLabel(tr("Known distances"), this));
    list_ = new QTreeWidget(this);
    list_->setObjectName(QStringLiteral("placeDistances"));
    list_->setAccessibleName(
        tr("Distances; what one should be can be typed, the tick says whether it is used"));
    list_->setHeaderLabels({tr("Distance"), tr("Is"), tr("Should be"), tr("Off by")});
    list_->setRootIsDecorated(false);
    list_->header()->setStretchLastSection(false);
    list_->header()->setSectionResizeMode(QHeaderView::ResizeToContents);
    list_->header()->setSectionResizeMode(kLevelName, QHeaderView::Stretch);
    list_->setFixedHeight(120);
    rows->addWidget(list_);
    auto* scale = new QHBoxLayout;
    auto* add = make_button(this, "placeDistanceAdd", tr("Add a distance"),
                            tr("Click its two ends, then type what it should be"));
    drop_ = make_button(this, "placeDistanceDrop", tr("Drop"), tr("Takes the distance in hand off the list"));
    scale->addWidget(add);
    scale->addWidget(drop_);
    rows->addLayout(scale);
    connect(three, &QPushButton::clicked, this, [this] {
        places_.clear();
        picking_ = Picking::Level;
        emit pick_wanted(tr("Click the first of three places at one height."));
    });
    connect(selection_, &QPushButton::clicked, this, &LevelPage::level_by_selection);
    connect(unlevel_, &QPushButton::clicked, this, [this] {
        plane_.reset();
        fill();
    });
    connect(add, &QPushButton::clicked, this, [this] {
        places_.clear();
        picking_ = Picking::Distance;
        emit pick_wanted(tr("Click one end of the distance."));
    });
    connect(drop_, &QPushButton::clicked, this, [this] {
        const int k = list_->indexOfTopLevelItem(list_->currentItem());
        if (k < 0) return emit said(tr("Click a distance in the list first."));
        distances_.erase(distances_.begin() + k);
        fill();
    });
    connect(list_, &QTreeWidget::itemChanged, this, &LevelPage::typed);
    connect(list_, &QTreeWidget::itemClicked, this, [this](QTreeWidgetItem* row, int column) {
        if (column == kLevelShould) list_->editItem(row, kLevelShould);
    });
    fill();
}

void LevelPage::forget() {
    plane_.reset();
    distances_.clear();
    places_.clear();
    picking_ = Picking::None;
    fill();
}

void LevelPage::stop_picking() {
    picking_ = Picking::None;
    places_.clear();
}

void LevelPage::refresh() {
    fill();
}

void LevelPage::picked(const Vec3& p) {
    places_.push_back(p);
    if (picking_ == Picking::Level) {
        if (places_.size() < 3)
            return emit pick_wanted(places_.size() == 1 ? tr("Click the second place.")
                                                        : tr("Click the third."));
        try {
            const select::HalfSpace h = select::plane_through(places_[0], places_[1], places_[2]);
            plane_ = FittedPlane{(places_[0] + places_[1] + places_[2]) * (1.0 / 3), h.normal, 0};
            plane_from_ = tr("3 places");
        } catch (const Error& e) {
            emit said(QString::fromStdString(e.what()));
        }
    } else if (places_.size() < 2) {
        return emit pick_wanted(tr("Click the other end."));
    } else {
        const double is = norm(places_[1] - places_[0]);
        distances_.push_back(
            {tr("Distance %1").arg(distances_.size() + 1).toStdString(), places_[0], places_[1], is});
    }
    stop_picking();
    fill();
}

void LevelPage::level_by_selection() {
    const site::SitePtr s = document_->site();
    const site::ItemPtr item = s->active_item();
    const site::SetPtr chosen = s->of_removed ? nullptr : s->selection_in_work();
    if (!item || !chosen) return emit said(tr("Select a floor, a table, a level course of the item first."));
    plane_ = select::fitted_plane(*item->cloud, *chosen);
    if (!plane_) return emit said(tr("What is selected spans no plane."));
    plane_from_ = tr("the selection");
    fill();
}

// A word that is no length leaves the distance as it was.
void LevelPage::typed(QTreeWidgetItem* row, int column) {
    if (filling_) return;
    place::KnownDistance& d = distances_[static_cast<std::size_t>(list_->indexOfTopLevelItem(row))];
    if (column == kLevelName) d.used = row->checkState(kLevelName) == Qt::Checked;
    if (column == kLevelShould) {
        bool number = false;
        QString text = row->text(kLevelShould);
        const Lengths l(*document_->site());
        text.remove(l.suffix().trimmed());
        const double v = text.trimmed().toDouble(&number);
        if (number && v > 0)
            d.should = l.data(v);
        else
            emit said(tr("'%1' is no length; the distance was left as it was.").arg(row->text(kLevelShould)));
    }
    fill();
}

void LevelPage::fill() {
    filling_ = true;
    scaled_.reset();
    try {
        if (!distances_.empty()) scaled_ = place::scaled_by(distances_);
    } catch (const Error&) {
        // None is used: then nothing is scaled.
    }
    const Lengths l(*document_->site());
    const int in_hand = list_->indexOfTopLevelItem(list_->currentItem());
    list_->clear();
    for (std::size_t k = 0; k < distances_.size(); ++k) {
        const place::KnownDistance& d = distances_[k];
        auto* row = new QTreeWidgetItem(
            list_, {QString::fromStdString(d.name), l.number(norm(d.b - d.a), 1), l.number(d.should, 1)});
        row->setFlags(row->flags() | Qt::ItemIsEditable);
        row->setCheckState(kLevelName, d.used ? Qt::Checked : Qt::Unchecked);
        if (scaled_) row->setText(kLevelOff, l.number(scaled_->off[k], 2));
    }
    if (in_hand >= 0)
        list_->setCurrentItem(list_->topLevelItem(std::min(in_hand, list_->topLevelItemCount() - 1)));
    drop_->setEnabled(!distances_.empty());
    unlevel_->setEnabled(plane_.has_value());
    level_state_->setText(
        !plane_ ? tr("Nothing is levelled.")
        : plane_->rms > 0
            ? tr("By %1: %2° off level, its points ± %3 from the plane.")
                  .arg(plane_from_)
                  .arg(place::tilt_deg(plane_->normal), 0, 'f', 3)
                  .arg(l.spread(plane_->rms))
            : tr("By %1: %2° off level.").arg(plane_from_).arg(place::tilt_deg(plane_->normal), 0, 'f', 3));
    filling_ = false;
    emit changed();
}

std::optional<Similarity> LevelPage::placement() const {
    const site::ItemPtr item = document_->site()->active_item();
    const bool scales = scaled_ && scaled_->scale != 1;
    if (!item || (!plane_ && !scales)) return std::nullopt;
    const Box3 box = item->cloud->robust_bounds();
    const Vec3 middle = box.empty() ? Vec3{} : box.centre();
    const Similarity level =
        plane_ ? place::levelled(plane_->normal, middle) : Similarity::about(middle, {0, 0, 1}, 0, 1, {});
    return Similarity::about(middle, {0, 0, 1}, 0, scales ? scaled_->scale : 1, {}).after(level);
}

QString LevelPage::told() const {
    QStringList parts;
    if (plane_) parts << tr("levelled by %1").arg(plane_from_);
    if (scaled_) {
        int used = 0;
        for (const place::KnownDistance& d : distances_) used += d.used;
        parts << tr("scale %1 by %n distance(s)", "", used).arg(scaled_->scale, 0, 'g', 8);
        if (std::isfinite(scaled_->sigma))
            parts.back() +=
                tr(", a distance to ± %1").arg(Lengths(*document_->site()).spread(scaled_->sigma));
    }
    return parts.join(QStringLiteral("; "));
}

std::vector<std::vector<Vec3>> LevelPage::guides() const {
    std::vector<std::vector<Vec3>> all;
    for (const place::KnownDistance& d : distances_) all.push_back({d.a, d.b});
    if (places_.size() > 1) all.push_back(places_);
    return all;
}

}  // namespace pristine::app
