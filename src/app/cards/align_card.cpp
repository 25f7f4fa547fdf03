#include "app/cards/align_card.h"

#include <QComboBox>
#include <QFileDialog>
#include <QFormLayout>
#include <QHeaderView>
#include <QLabel>
#include <QPushButton>
#include <QSettings>
#include <QTreeWidget>
#include <QVBoxLayout>
#include <algorithm>
#include <cmath>
#include <numbers>

#include "app/look/lengths.h"
#include "app/model/document.h"
#include "app/model/jobs.h"
#include "core/base/output.h"
#include "core/cloud/triangles.h"
#include "core/io/mesh/mesh_cloud.h"
#include "core/place/mesh_feature.h"

namespace pristine::app {
namespace {

using Kind = Feature::Kind;

QString title_of(Kind k) {
    switch (k) {
        case Kind::Point:
            return AlignCard::tr("Point");
        case Kind::Line:
            return AlignCard::tr("Line");
        case Kind::Plane:
            return AlignCard::tr("Plane");
        case Kind::Cylinder:
            return AlignCard::tr("Axis");
        case Kind::Sphere:
            return AlignCard::tr("Sphere");
    }
    return {};
}

}  // namespace

QString matrix_text(const std::vector<double>& rows) {
    QString text;
    for (std::size_t i = 0; i < rows.size(); ++i)
        text += QStringLiteral("%1%2")
                    .arg(rows[i], 0, 'f', 9)
                    .arg(i % 4 == 3 ? QLatin1String("\n") : QLatin1String(" "));
    return text;
}

namespace {

// As wide as the card: turning to a hundred-thousandth, places to a tenth of a millimetre of metres.
QString short_text(const std::vector<double>& rows) {
    QString text;
    for (std::size_t i = 0; i < rows.size(); ++i)
        text += i % 4 == 3 ? QStringLiteral("%1\n").arg(rows[i], 11, 'f', 4)
                           : QStringLiteral("%1").arg(rows[i], 9, 'f', 5);
    return text.chopped(1);
}

}  // namespace

AlignCard::AlignCard(Document* document, Jobs* jobs, QWidget* parent)
    : SideCard(QStringLiteral("align"), tr("Alignment"), QStringLiteral("align.md"), parent),
      document_(document),
      jobs_(jobs) {
    add_features();
    add_steps();
    body()->addStretch(1);
    fill();
}

void AlignCard::add_features() {
    auto* row = new QHBoxLayout;
    kind_ = new QComboBox(this);
    kind_->setObjectName(QStringLiteral("featureKind"));
    kind_->setAccessibleName(tr("What is fitted to the selection"));
    for (const Kind k : {Kind::Plane, Kind::Cylinder, Kind::Line, Kind::Point, Kind::Sphere})
        kind_->addItem(k == Kind::Cylinder ? tr("Axis of a cylinder") : title_of(k), static_cast<int>(k));
    fit_ = new QPushButton(tr("Fit"), this);
    fit_->setObjectName(QStringLiteral("featureFit"));
    fit_->setToolTip(tr("Fits it to the triangles that are selected"));
    row->addWidget(kind_, 1);
    row->addWidget(fit_);
    body()->addLayout(row);
    list_ = new QTreeWidget(this);
    list_->setObjectName(QStringLiteral("featureList"));
    list_->setAccessibleName(
        tr("Features with how far the places lie from them; select two to let them meet"));
    list_->setHeaderLabels({tr("Feature"), tr("Residual")});
    list_->setRootIsDecorated(false);
    list_->setSelectionMode(QAbstractItemView::ExtendedSelection);
    list_->header()->setSectionResizeMode(0, QHeaderView::Stretch);
    list_->header()->setStretchLastSection(false);
    list_->setFixedHeight(170);
    body()->addWidget(list_);
    meet_ = new QPushButton(tr("Where two of them meet"), this);
    meet_->setObjectName(QStringLiteral("featureMeet"));
    meet_->setToolTip(
        tr("A line and a plane give a point, two planes a line, two points the line through them"));
    auto* pair = new QHBoxLayout;
    forget_ = new QPushButton(tr("Forget"), this);
    forget_->setObjectName(QStringLiteral("featureForget"));
    forget_->setToolTip(tr("Takes the features that are selected in the list away"));
    pair->addWidget(meet_, 1);
    pair->addWidget(forget_);
    body()->addLayout(pair);
    connect(forget_, &QPushButton::clicked, this, &AlignCard::forget);
    connect(fit_, &QPushButton::clicked, this, &AlignCard::fit);
    connect(meet_, &QPushButton::clicked, this, &AlignCard::meet_two);
}

void AlignCard::add_steps() {
    auto* form = new QFormLayout;
    const auto combo = [&](const char* name, const QString& help) {
        auto* c = new QComboBox(this);
        c->setObjectName(QString::fromLatin1(name));
        c->setToolTip(help);
        connect(c, &QComboBox::activated, this, &AlignCard::say);
        return c;
    };
    const auto axes = [&](const char* name) {
        auto* c = combo(name, tr("The axis that it is brought to"));
        c->addItems({tr("X"), tr("Y"), tr("Z"), tr("−X"), tr("−Y"), tr("−Z")});
        return c;
    };
    origin_ = combo("alignOrigin", tr("This place goes to 0, 0, 0"));
    form->addRow(tr("1. Origin"), origin_);
    const auto pair = [&](QComboBox* a, QComboBox* b) {
        auto* row = new QHBoxLayout;
        row->addWidget(a, 1);
        row->addWidget(b);
        return row;
    };
    direction_ = combo("alignDirection", tr("This direction goes along an axis"));
    axis_ = axes("alignAxis");
    axis_->setCurrentIndex(2);
    form->addRow(tr("2. Direction"), pair(direction_, axis_));
    clocking_ = combo("alignClocking",
                      tr("About that axis it is turned until this direction points to another axis"));
    clock_axis_ = axes("alignClockAxis");
    form->addRow(tr("3. Clocking"), pair(clocking_, clock_axis_));
    body()->addLayout(form);
    state_ = new QLabel(this);
    state_->setObjectName(QStringLiteral("alignState"));
    state_->setWordWrap(true);
    body()->addWidget(state_);
    auto* row = new QHBoxLayout;
    move_ = new QPushButton(tr("Align"), this);
    move_->setObjectName(QStringLiteral("alignMove"));
    move_->setToolTip(tr("A new item, moved; the one in work is hidden"));
    save_ = new QPushButton(tr("Save 4×4…"), this);
    save_->setObjectName(QStringLiteral("alignSave"));
    save_->setToolTip(tr("The move of the item in work, as four rows of four numbers"));
    row->addWidget(move_, 1);
    row->addWidget(save_);
    body()->addLayout(row);
    matrix_ = new QLabel(this);
    matrix_->setObjectName(QStringLiteral("alignMatrix"));
    matrix_->setTextInteractionFlags(Qt::TextSelectableByMouse);
    QFont f(QStringLiteral("monospace"));
    f.setPointSizeF(7.5);
    matrix_->setFont(f);
    body()->addWidget(matrix_);
    connect(move_, &QPushButton::clicked, this, &AlignCard::move);
    connect(save_, &QPushButton::clicked, this, &AlignCard::save);
}

void AlignCard::refresh() {
    if (!is_open()) return;
    const site::ItemPtr item = document_->site()->active_item();
    const bool mesh = item && item->cloud->triangles();
    fit_->setEnabled(mesh && document_->site()->selection_in_work() && !document_->site()->of_removed);
    save_->setEnabled(item && !item->placement.empty());
    matrix_->setText(item && !item->placement.empty() ? short_text(item->placement) : QString());
    matrix_->setToolTip(item && !item->placement.empty()
                            ? tr("How it was moved from the original, by rows; saved with nine digits")
                            : QString());
    if (!mesh) state_->setText(tr("Take a mesh in work."));
    const std::vector<Feature> now = item ? item->features : std::vector<Feature>();
    const auto same = [](const Feature& a, const Feature& b) {
        return a.name == b.name && a.point == b.point && a.direction == b.direction && a.radius == b.radius;
    };
    if (!std::equal(now.begin(), now.end(), features_.begin(), features_.end(), same)) {
        features_ = now;
        fill();
        emit guides_changed();
    }
    say();
}

void AlignCard::on_open() {
    refresh();
    emit guides_changed();
}

void AlignCard::fit() {
    const site::SitePtr s = document_->site();
    const site::ItemPtr item = s->active_item();
    if (!item || !item->cloud->triangles() || !s->selection_in_work()) return;
    const auto kind = static_cast<Kind>(kind_->currentData().toInt());
    const auto made = std::make_shared<Feature>();
    jobs_->start(
        tr("Fitting"),
        [=](Progress&) { *made = place::feature_of(*item->cloud, *s->selection_in_work(), kind); },
        [this, made] { add(*made); }, [this](const QString& why) { emit said(why); }, Jobs::Show::IfLong);
}

void AlignCard::add(Feature f) {
    int n = 1;
    for (const Feature& o : features_) n += o.kind == f.kind;
    f.name = tr("%1 %2").arg(title_of(f.kind)).arg(n).toStdString();
    std::vector<Feature> all = features_;
    all.push_back(f);
    put(tr("Fit %1").arg(QString::fromStdString(f.name)), std::move(all));
}

void AlignCard::put(const QString& title, std::vector<Feature> all) {
    const site::ItemPtr item = document_->site()->active_item();
    if (!item) return;
    document_->apply(title,
                     [&](const site::Site& s) { return site::set_features(s, item->id, std::move(all)); });
}

void AlignCard::forget() {
    std::vector<Feature> left;
    for (std::size_t k = 0; k < features_.size(); ++k)
        if (!list_->topLevelItem(static_cast<int>(k))->isSelected()) left.push_back(features_[k]);
    if (left.size() == features_.size()) return emit said(tr("Select features in the list first."));
    put(tr("Forget %n feature(s)", "", static_cast<int>(features_.size() - left.size())), std::move(left));
}

namespace {

// A circle round a direction.
std::vector<Vec3> circle(const Vec3& middle, const Vec3& direction, double radius) {
    const Vec3 u = normalized(cross(direction, std::fabs(direction.x) < 0.7 ? Vec3{1, 0, 0} : Vec3{0, 1, 0})),
               v = cross(direction, u);
    std::vector<Vec3> out;
    for (int i = 0; i <= 48; ++i) {
        const double a = i * std::numbers::pi / 24;
        out.push_back(middle + u * (radius * std::cos(a)) + v * (radius * std::sin(a)));
    }
    return out;
}

}  // namespace

std::vector<std::vector<Vec3>> AlignCard::guides() const {
    std::vector<std::vector<Vec3>> out;
    const site::ItemPtr item = document_->site()->active_item();
    if (!is_open() || !item) return out;
    const double size = 0.5 * item->cloud->robust_bounds().diagonal();
    for (const Feature& f : features_) {
        switch (f.kind) {
            case Feature::Kind::Point:
                for (int a = 0; a < 3; ++a) {
                    Vec3 d;
                    d[a] = 0.05 * size;
                    out.push_back({f.point - d, f.point + d});
                }
                break;
            case Feature::Kind::Line:
                out.push_back({f.point - f.direction * size, f.point + f.direction * size});
                break;
            case Feature::Kind::Plane:
                out.push_back(circle(f.point, f.direction, 0.35 * size));
                out.push_back({f.point, f.point + f.direction * (0.2 * size)});
                break;
            case Feature::Kind::Cylinder:
                out.push_back({f.point - f.direction * size, f.point + f.direction * size});
                out.push_back(circle(f.point, f.direction, f.radius));
                break;
            case Feature::Kind::Sphere:
                for (int a = 0; a < 3; ++a) {
                    Vec3 d;
                    d[a] = 1;
                    out.push_back(circle(f.point, d, f.radius));
                }
                break;
        }
    }
    return out;
}

void AlignCard::meet_two() {
    const auto rows = list_->selectedItems();
    if (rows.size() != 2) return emit said(tr("Select two features in the list (Ctrl+click)."));
    const auto number = [&](int k) { return static_cast<std::size_t>(list_->indexOfTopLevelItem(rows[k])); };
    try {
        add(pristine::meet(features_[std::min(number(0), number(1))],
                           features_[std::max(number(0), number(1))]));
    } catch (const Error& e) {
        emit said(QString::fromStdString(e.what()));
    }
}

void AlignCard::fill() {
    const Lengths l(*document_->site());
    list_->clear();
    for (const Feature& f : features_) {
        const QString size = f.radius > 0 ? tr(", radius %1").arg(l.text(f.radius, 2)) : QString();
        auto* row = new QTreeWidgetItem(
            list_, {QString::fromStdString(f.name) + size, f.places > 0 ? l.text(f.rms, 2) : tr("exact")});
        row->setToolTip(0, tr("At %1, %2, %3; %4 places")
                               .arg(l.text(f.point.x, 1), l.text(f.point.y, 1), l.text(f.point.z, 1))
                               .arg(f.places));
    }
    for (QComboBox* c : {origin_, direction_, clocking_}) {
        const int before = c->currentData().toInt();
        c->clear();
        c->addItem(tr("not fixed"), -1);
        for (std::size_t k = 0; k < features_.size(); ++k)
            if (c == origin_ || norm(features_[k].direction) > 0)
                c->addItem(QString::fromStdString(features_[k].name), static_cast<int>(k));
        c->setCurrentIndex(std::max(0, c->findData(before)));
    }
    say();
}

Alignment AlignCard::wanted() const {
    Alignment a;
    const auto chosen = [&](const QComboBox* c) -> const Feature* {
        const int k = c->currentData().toInt();
        return k >= 0 && static_cast<std::size_t>(k) < features_.size()
                   ? &features_[static_cast<std::size_t>(k)]
                   : nullptr;
    };
    if (const Feature* f = chosen(origin_)) a.origin = f->point;
    // Against an axis is the opposite direction along it.
    const auto along = [](const Feature& f, const QComboBox* axis) {
        return axis->currentIndex() < 3 ? f.direction : f.direction * -1.0;
    };
    if (const Feature* f = chosen(direction_)) a.direction = along(*f, axis_);
    if (const Feature* f = chosen(clocking_)) a.clocking = along(*f, clock_axis_);
    a.axis = axis_->currentIndex() % 3;
    a.clock_axis = clock_axis_->currentIndex() % 3;
    return a;
}

void AlignCard::say() {
    const site::ItemPtr item = document_->site()->active_item();
    const bool mesh = item && item->cloud->triangles();
    const Alignment a = wanted();
    QStringList left;
    if (!a.origin) left << tr("its place");
    if (!a.direction) left << tr("all turning");
    if (a.direction && !a.clocking) left << tr("turning about %1").arg(axis_->currentText());
    QString text = left.isEmpty() ? tr("Place and turning are fixed.")
                                  : tr("%1 of 6 freedoms fixed; still free: %2.")
                                        .arg(6 - freedoms_left(a))
                                        .arg(left.join(QStringLiteral(", ")));
    bool fine = mesh && freedoms_left(a) < 6;
    try {
        align(a);
    } catch (const Error& e) {
        text = QString::fromStdString(e.what());
        fine = false;
    }
    if (mesh) state_->setText(text);
    move_->setEnabled(fine);
}

void AlignCard::move() {
    const site::ItemPtr item = document_->site()->active_item();
    if (!item || !item->cloud->triangles()) return;
    const RigidMove m = align(wanted());
    const auto fresh = std::make_shared<std::shared_ptr<const cloud::PointCloud>>();
    jobs_->start(
        tr("Aligning"), [=](Progress& p) { *fresh = io::moved(*item->cloud, ~*item->absent, m, p); },
        [this, item, fresh, m] {
            const std::string name = tr("%1 aligned").arg(QString::fromStdString(item->name)).toStdString();
            // What moved it before counts too.
            RigidMove whole = m;
            if (item->placement.size() == 16) {
                RigidMove before;
                for (std::size_t i = 0; i < 3; ++i)
                    for (std::size_t j = 0; j < 3; ++j)
                        before.rotation[3 * i + j] = item->placement[4 * i + j];
                before.shift = {item->placement[3], item->placement[7], item->placement[11]};
                whole = m.after(before);
            }
            document_->apply(tr("Align %1").arg(QString::fromStdString(item->name)),
                             [&](const site::Site& s) {
                                 site::SitePtr next = site::set_visible(s, item->id, false);
                                 next = site::add_cloud(*next, *fresh, name, "moved from " + item->name);
                                 const std::uint64_t id = next->items.back()->id;
                                 const auto rows = whole.matrix();
                                 next = site::set_placement(*next, id, {rows.begin(), rows.end()});
                                 // Features move along, so that the next step goes on from here.
                                 std::vector<Feature> features = item->features;
                                 for (Feature& f : features) {
                                     f.point = m(f.point);
                                     f.direction = m.turned(f.direction);
                                 }
                                 next = site::set_features(*next, id, std::move(features));
                                 return site::activate(*next, id);
                             });
            refresh();
        });
}

void AlignCard::save() {
    const site::ItemPtr item = document_->site()->active_item();
    if (!item || item->placement.empty()) return;
    const QString file = QFileDialog::getSaveFileName(
        this, tr("Save the move"), QSettings().value("folder").toString(), tr("Text (*.txt)"));
    if (file.isEmpty()) return;
    try {
        OutputFile out(file.toStdString(), true);
        out.write(matrix_text(item->placement).toStdString());
        out.finish();
        emit said(tr("Saved %1").arg(file));
    } catch (const Error& e) {
        emit said(QString::fromStdString(e.what()));
    }
}

}  // namespace pristine::app
