#include "app/cards/measure_card.h"

#include <QComboBox>
#include <QFormLayout>
#include <QHBoxLayout>
#include <QLabel>
#include <QPushButton>
#include <QVBoxLayout>
#include <cmath>
#include <limits>
#include <tuple>

#include "app/look/make.h"
#include "app/look/rich_label.h"
#include "app/look/theme.h"
#include "app/model/document.h"
#include "app/model/jobs.h"
#include "app/model/measured_text.h"
#include "core/base/error.h"
#include "core/cloud/column.h"
#include "core/cloud/triangles.h"
#include "core/io/mesh/mesh_cloud.h"
#include "core/site/making.h"

namespace pristine::app {

using measure::CountedFrom;

namespace {

// Triangles that enclose something, or only have an area.
bool is_solid(const site::ItemPtr& item) {
    return item && (item->role == site::ItemRole::Mesh || item->role == site::ItemRole::Lining);
}

bool is_map(const site::ItemPtr& item) {
    return item && item->role == site::ItemRole::ChangeMap;
}

bool is_ground(const site::Item& item) {
    return item.role == site::ItemRole::Terrain;
}

// In place of a line: the areas of all of them, each by itself.
constexpr quint64 kEach = std::numeric_limits<quint64>::max();

std::vector<measure::WorkArea> work_areas(const site::Site& s) {
    std::vector<measure::WorkArea> areas;
    for (const site::LinePtr& l : s.lines)
        if (l->closed && l->visible && l->role != LineRole::Contour && l->role != LineRole::Finding)
            areas.push_back({l->name, l->points});
    return areas;
}

std::pair<std::uint64_t, std::uint64_t> of_surveys(const site::ItemPtr& a, const site::ItemPtr& b) {
    return {a ? a->survey : 0, b ? b->survey : 0};
}

QString title_with_date(const site::Site& s, const site::Item& i) {
    const std::string date = site::date_of(s, i);
    const QString name = QString::fromStdString(i.name);
    return date.empty() ? name : MeasureCard::tr("%1, %2").arg(name, QString::fromStdString(date));
}

mesh::TriMesh shown_of(const site::Item& item) {
    return io::mesh_of(*item.cloud, ~*item.absent);
}

}  // namespace

MeasureCard::MeasureCard(Document* document, Jobs* jobs, QWidget* parent)
    : SideCard(QStringLiteral("measure"), tr("Measure board"), QStringLiteral("compare.md"), parent),
      document_(document),
      jobs_(jobs),
      latest_(jobs) {
    body()->addWidget(state_ = make_sentence(this, "measureState"));
    body()->addWidget(now_ = make_sentence(this, "measureNow"));
    add_settings();
    add_actions();
    follow_settings();
}

// What is measured, and from what.
void MeasureCard::add_settings() {
    auto* form = form_ = new QFormLayout;
    base_ = new QComboBox(this);
    base_->setObjectName(QStringLiteral("measureBase"));
    // In the order of measure::CountedFrom.
    base_->addItems({tr("a level"), tr("a level at the lowest rim"), tr("a level at the mean rim"),
                     tr("the rim, triangulated"), tr("another surface"), tr("a plane through a line")});
    base_->setToolTip(tr("What volumes are counted from"));
    // The label keeps its words; the list opens as wide as it needs.
    base_->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
    base_->setMinimumContentsLength(10);
    form->addRow(tr("Volume from"), base_);
    level_ = new QDoubleSpinBox(this);
    level_->setObjectName(QStringLiteral("measureLevel"));
    level_->setRange(-1e7, 1e7);
    level_->setDecimals(3);
    level_->setKeyboardTracking(false);
    form->addRow(tr("Level"), level_);
    plane_ = new QComboBox(this);
    plane_->setObjectName(QStringLiteral("measurePlane"));
    plane_->setToolTip(
        tr("The plane through the corners of this line: exactly for three, else the best one"));
    form->addRow(tr("Through"), plane_);
    other_ = new QComboBox(this);
    other_->setObjectName(QStringLiteral("measureOther"));
    other_->setToolTip(tr("The earlier surface; the one in work is the later"));
    form->addRow(tr("Earlier"), other_);
    within_ = new QComboBox(this);
    within_->setObjectName(QStringLiteral("measureWithin"));
    within_->setToolTip(tr("Both surfaces are cut exactly at this line first"));
    form->addRow(tr("Inside"), within_);
    band_ = new LengthBox(0, 0, 100, this);
    band_->setObjectName(QStringLiteral("measureBand"));
    band_->setToolTip(tr("What changed by no more than this, up or down, counts as unchanged"));
    band_->setKeyboardTracking(false);
    auto* band = new QWidget(this);
    auto* beside = new QHBoxLayout(band);
    beside->setContentsMargins(0, 0, 0, 0);
    beside->addWidget(band_, 1);
    beside->addWidget(propose_ =
                          make_button(this, "measurePropose", tr("Propose"),
                                      tr("Three standard deviations of the change of a height: noise passes "
                                         "that on three places of a thousand")));
    form->addRow(tr("Band"), band_row_ = band);
    noise_ = new LengthBox(0, 0, 10, this);
    noise_->setObjectName(QStringLiteral("measureNoise"));
    noise_->setSpecialValueText(tr("by survey"));
    noise_->setToolTip(tr(
        "One standard deviation of the heights of both surfaces. What their surveys state holds; where they "
        "state nothing it is estimated by local fits, which also count the shape of the ground where points "
        "were thinned"));
    noise_->setKeyboardTracking(false);
    form->addRow(tr("Noise"), noise_);
    density_ = new QDoubleSpinBox(this);
    density_->setObjectName(QStringLiteral("measureDensity"));
    density_->setRange(0, 100'000);
    density_->setDecimals(0);
    density_->setSuffix(tr(" kg/m³"));
    density_->setSpecialValueText(tr("not given"));
    density_->setToolTip(tr("Mass of a cubic metre"));
    form->addRow(tr("Density"), density_);
    body()->addLayout(form);
}

// What can be made of the figures.
void MeasureCard::add_actions() {
    body()->addWidget(areas_ = new AreaList(this));
    body()->addWidget(areas_said_ = make_sentence(this, "measureAreasSaid"));
    save_areas_ = make_button(this, "measureSaveAreas", tr("Save the table…"), tr("As CSV, with units"));
    body()->addWidget(save_areas_);
    body()->addWidget(volumes_ = make_sentence(this, "measureVolumes"));
    volumes_->setContentsMargins(0, 0, 0, 8);  // a table is a little higher than its label thinks
    body()->addWidget(pinned_text_ = make_sentence(this, "measurePinned"));
    auto* row = new QHBoxLayout;
    const auto button = [&](const char* name, const QString& title, const QString& help) {
        auto* b = new QPushButton(title, this);
        b->setObjectName(QString::fromLatin1(name));
        b->setToolTip(help);
        row->addWidget(b);
        return b;
    };
    swap_ = button("measureSwap", tr("Swap"), tr("Takes the one in work as the earlier"));
    map_ = button("measureMap", tr("Map"), tr("A new item: the later surface in the colours of its change"));
    pin_ = button("measurePin", tr("Pin"),
                  tr("Keeps these figures beside the next ones; again: takes them off"));
    pin_->setCheckable(true);
    body()->addLayout(row);
    auto* lines = new QHBoxLayout;
    interval_ = new LengthBox(0.5, 0.001, 1000, this);
    interval_->setObjectName(QStringLiteral("measureInterval"));
    interval_->setToolTip(tr("Height from one contour to the next"));
    lines->addWidget(interval_, 1);
    smooth_ = new LengthBox(0, 0, 100, this);
    smooth_->setObjectName(QStringLiteral("measureSmooth"));
    smooth_->setSpecialValueText(tr("not smoothed"));
    smooth_->setToolTip(tr("Contours are smoothed, no place moving farther than this; lines never cross"));
    lines->addWidget(smooth_, 1);
    contours_ = new QPushButton(tr("Contours"), this);
    contours_->setObjectName(QStringLiteral("measureContours"));
    contours_->setToolTip(tr("Lines of equal height on the surface as it is, as line objects"));
    lines->addWidget(contours_);
    body()->addLayout(lines);
    body()->addStretch(1);
}

void MeasureCard::follow_settings() {
    for (QLabel* l : {state_, now_, volumes_, areas_said_, pinned_text_})
        l->setTextInteractionFlags(Qt::TextSelectableByMouse);
    for (QComboBox* box : {other_, within_, plane_})
        connect(box, &QComboBox::activated, this, &MeasureCard::compute);
    connect(base_, &QComboBox::activated, this, [this] {
        fill_bases();  // work areas are for two surfaces only
        compute();
    });
    connect(level_, &QDoubleSpinBox::valueChanged, this, [this] {
        if (!filling_) compute();
    });
    connect(band_, &QDoubleSpinBox::valueChanged, this, [this] {
        if (!filling_) compute();
    });
    connect(noise_, &QDoubleSpinBox::valueChanged, this, [this] {
        if (!filling_) compute();
    });
    connect(density_, &QDoubleSpinBox::valueChanged, this, [this] {
        if (fresh_) say();
    });
    connect(swap_, &QPushButton::clicked, this, [this] {
        swapped_ = !swapped_;
        compute();
    });
    connect(propose_, &QPushButton::clicked, this, &MeasureCard::propose_band);
    connect(pin_, &QPushButton::clicked, this, &MeasureCard::pin);
    connect(save_areas_, &QPushButton::clicked, this, &MeasureCard::choose_areas_file);
    connect(map_, &QPushButton::clicked, this, &MeasureCard::make_map);
    connect(contours_, &QPushButton::clicked, this, &MeasureCard::make_contours);
}

void MeasureCard::on_open() {
    filling_ = true;
    for (LengthBox* box : {band_, noise_, interval_, smooth_}) box->set_lengths(Lengths(*document_->site()));
    filling_ = false;
    cloud_ = nullptr;
    refresh();
}

void MeasureCard::on_close() {
    latest_.drop();
}

void MeasureCard::fill_bases() {
    const quint64 other = other_->currentData().toULongLong(), within = within_->currentData().toULongLong();
    const quint64 plane = plane_->currentData().toULongLong();
    other_->clear();
    within_->clear();
    plane_->clear();
    within_->addItem(tr("everything"), quint64{0});
    for (const site::ItemPtr& i : document_->site()->items)
        if (is_ground(*i) && i->id != document_->site()->active)
            other_->addItem(title_with_date(*document_->site(), *i), static_cast<quint64>(i->id));
    for (const site::LinePtr& l : document_->site()->lines)
        if (l->points.size() >= 3)
            plane_->addItem(QString::fromStdString(l->name), static_cast<quint64>(l->id));
    if (const int at = plane_->findData(plane); at >= 0) plane_->setCurrentIndex(at);
    for (const site::LinePtr& l : document_->site()->lines)
        if (l->closed) within_->addItem(QString::fromStdString(l->name), static_cast<quint64>(l->id));
    if (counted_from() == CountedFrom::OtherSurface && work_areas(*document_->site()).size() > 1)
        within_->addItem(tr("each closed line that is shown"), kEach);
    if (const int at = other_->findData(other); at >= 0) other_->setCurrentIndex(at);
    if (const int at = within_->findData(within); at >= 0) within_->setCurrentIndex(at);
}

void MeasureCard::refresh() {
    if (!is_open()) return;
    fill_bases();
    const site::ItemPtr item = document_->site()->active_item();
    const site::ItemPtr other = document_->site()->item(other_->currentData().toULongLong());
    const site::SitePtr now = document_->site();
    const bool told_alike = bounds() == lines_ && now->surveys == surveys_ &&
                            of_surveys(item, other) == of_surveys_ && now->unit == unit_ &&
                            is_stale_map(item) == stale_ && (!item || item->style.classes == classes_);
    const bool same = told_alike && item && item->cloud == cloud_ && item->role == role_ && absent_ &&
                      *item->absent == *absent_ &&
                      (counted_from() != CountedFrom::OtherSurface || is_map(item) ||
                       (other && other->absent == other_absent_));
    if (!same) {
        if (item && item->cloud != cloud_ && is_ground(*item)) {
            filling_ = true;
            level_->setValue(
                Lengths(*document_->site()).shown(std::floor(item->cloud->robust_bounds().lo.z)));
            filling_ = false;
        }
        compute();
    }
}

// The lines that the figures depend on.
std::vector<site::LinePtr> MeasureCard::bounds() const {
    const site::SitePtr s = document_->site();
    std::vector<site::LinePtr> lines{s->line(within_->currentData().toULongLong()),
                                     s->line(plane_->currentData().toULongLong())};
    if (within_->currentData().toULongLong() == kEach)
        lines.insert(lines.end(), s->lines.begin(), s->lines.end());
    return lines;
}

// Which settings there are for what is in work.
void MeasureCard::show_settings(const site::ItemPtr& item) {
    const auto show = [&](std::initializer_list<QWidget*> all, bool shown) {
        for (QWidget* w : all) {
            w->setVisible(shown);
            if (QWidget* label = form_->labelForField(w)) label->setVisible(shown);
        }
    };
    const bool solid = is_solid(item), surface = !solid && !is_map(item);
    const auto from = counted_from();
    show({base_, within_, interval_, smooth_, contours_}, surface);
    show({density_}, solid);
    show({level_}, surface && from == CountedFrom::Level);
    show({plane_}, surface && from == CountedFrom::Plane);
    show({other_, band_row_, noise_, swap_, map_}, surface && from == CountedFrom::OtherSurface);
}

measure::CountedFrom MeasureCard::counted_from() const {
    return static_cast<CountedFrom>(base_->currentIndex());
}

void MeasureCard::compute() {
    if (!is_open()) return;
    fresh_ = false;
    const site::SitePtr s = document_->site();
    const site::ItemPtr item = s->active_item();
    cloud_ = item ? item->cloud : nullptr;
    absent_ = item ? item->absent : nullptr;
    role_ = item ? item->role : site::ItemRole::Points;
    lines_ = bounds();
    surveys_ = s->surveys;
    of_surveys_ = of_surveys(item, s->item(other_->currentData().toULongLong()));
    unit_ = s->unit;
    classes_ = item ? item->style.classes : std::vector<double>();
    stale_ = is_stale_map(item);
    show_settings(item);
    if (is_solid(item)) return compute_solid(item);
    if (is_map(item)) return compute_map(item);
    if (!item || !is_ground(*item)) {
        for (QPushButton* b : {swap_, map_, contours_}) b->setEnabled(false);
        set_rich(now_, {});
        set_rich(volumes_, {});
        return state_->setText(tr("Take a surface or a mesh in work: build one, or open one."));
    }
    compute_surface(item);
}

void MeasureCard::compute_surface(const site::ItemPtr& item) {
    const site::SitePtr s = document_->site();
    const site::ItemPtr other = s->item(other_->currentData().toULongLong());
    other_absent_ = other ? other->absent : nullptr;
    measure::BoardRequest r;
    r.from = counted_from();
    const bool compares = r.from == CountedFrom::OtherSurface;
    swap_->setEnabled(compares && other);
    map_->setEnabled(compares && other);
    contours_->setEnabled(true);
    r.level = Lengths(*s).data(level_->value());
    r.band = band_->in_data();
    const Sigma own = sigma_of(*item), others = other ? sigma_of(*other) : Sigma();
    r.own = own.heights;
    r.other = others.heights;
    const std::vector<measure::WorkArea> areas =
        compares && other && within_->currentData().toULongLong() == kEach ? work_areas(*s)
                                                                           : std::vector<measure::WorkArea>();
    if (lines_[0]) r.within = lines_[0]->points;
    if (lines_[1]) r.plane = lines_[1]->points;
    // Dates say which is the later; Swap turns that round.
    r.swapped = is_swapped(*item, other.get());
    start_measuring(item, [=](Progress& p, Measured* result) {
        // Nothing is out of most surfaces: then there is nothing to measure twice.
        const bool untouched = item->ledger.empty() && item->absent->empty();
        const mesh::TriMesh now = shown_of(*item),
                            whole = untouched ? mesh::TriMesh() : io::mesh_of(*item->cloud, ~item->made()),
                            others_mesh = compares && other ? shown_of(*other) : mesh::TriMesh();
        static_cast<measure::Board&>(*result) = measure::board(
            now, untouched ? nullptr : &whole, compares && other ? &others_mesh : nullptr, r, p);
        if (!other) return;
        const auto& [later, earlier] = r.swapped ? std::tie(other, item) : std::tie(item, other);
        result->later_noise = (r.swapped ? others : own).noise_from;
        result->earlier_noise = (r.swapped ? own : others).noise_from;
        result->band = r.band;
        if (!areas.empty())
            result->areas = r.swapped
                                ? measure::difference_by_area(now, others_mesh, areas,
                                                              {r.band, result->earlier, result->later}, p)
                                : measure::difference_by_area(others_mesh, now, areas,
                                                              {r.band, result->earlier, result->later}, p);
        const std::string later_date = site::date_of(*s, *later), earlier_date = site::date_of(*s, *earlier);
        if (later_date.empty() || earlier_date.empty()) return;
        result->later_date = later_date;
        result->earlier_date = earlier_date;
    });
}

bool MeasureCard::is_stale_map(const site::ItemPtr& item) const {
    const site::Making* making = item ? site::making_of_item(*document_->site(), item->id) : nullptr;
    return making && site::is_stale(*document_->site(), *making);
}

// By the classes that colour the map; a ramp has two: what was taken away, and what was added. The figures of
// the surfaces that it was made from stay below.
void MeasureCard::compute_map(const site::ItemPtr& map) {
    for (QPushButton* b : {swap_, map_, contours_}) b->setEnabled(false);
    try {
        measure::require_lengths(map->cloud->reference());
    } catch (const Error& e) {
        set_rich(now_, {});
        return state_->setText(QString::fromStdString(e.what()));
    }
    using Classes = std::vector<measure::ClassFigures>;
    latest_.start<Classes>(
        tr("Measuring"),
        [map](Progress& p, Classes& classes) {
            const auto column = cloud::fetch_column(*map->cloud, site::kChangeColumn, p);
            const ElementSet shown = ~*map->absent;
            std::vector<double> values;
            shown.for_each([&](std::uint64_t e) {
                values.push_back(column->base + static_cast<double>(column->values[e]));
            });
            const std::vector<double> zero{0};
            classes = measure::figures_by_class(shown_of(*map), values,
                                                map->style.classes.size() >= 2 ? map->style.classes : zero);
        },
        [this, map](Classes& classes) { say_classes(classes, map); }, {}, Jobs::Show::IfLong);
}

void MeasureCard::say_classes(const std::vector<measure::ClassFigures>& classes, const site::ItemPtr& map) {
    set_rich(now_, table_of_classes(classes, Lengths(*document_->site())));
    QString text = is_stale_map(map) ? tr("A map of change that is out of date: make it again.")
                                     : tr("A map of change, each piece by its mean.");
    if (figures_)
        text += ' ' + tr("Below are the figures of %1 as they were.").arg(QString::fromStdString(measured_));
    state_->setText(text);
}

// Works figures out beside the window, and says them unless others were asked for meanwhile.
void MeasureCard::start_measuring(const site::ItemPtr& item, std::function<void(Progress&, Measured*)> work) {
    state_->setText(tr("Figures are out of date; computing…"));
    latest_.drop();
    try {
        measure::require_lengths(item->cloud->reference());
    } catch (const Error& e) {
        figures_ = nullptr;
        set_rich(now_, {});
        set_rich(volumes_, {});
        return state_->setText(QString::fromStdString(e.what()));
    }
    latest_.start<Measured>(
        tr("Measuring"), [work = std::move(work)](Progress& p, Measured& result) { work(p, &result); },
        [this, item](Measured& result) {
            figures_ = std::make_shared<Measured>(std::move(result));
            measured_ = item->name;
            fresh_ = true;
            say();
        },
        [this](const QString& why) { state_->setText(why.isEmpty() ? tr("Cancelled.") : why); },
        Jobs::Show::IfLong);
}

void MeasureCard::compute_solid(const site::ItemPtr& item) {
    start_measuring(item, [=](Progress& p, Measured* result) {
        result->solid_now = measure::solid(shown_of(*item), p);
        // What was there before any decision.
        result->solid_before = item->ledger.empty()
                                   ? *result->solid_now
                                   : measure::solid(io::mesh_of(*item->cloud, ~item->made()), p);
    });
}

bool MeasureCard::is_swapped(const site::Item& item, const site::Item* other) const {
    const std::string own = site::date_of(*document_->site(), item),
                      others = other ? site::date_of(*document_->site(), *other) : std::string();
    const bool earlier = !own.empty() && !others.empty() && own < others;
    return earlier != swapped_;
}

void MeasureCard::say() {
    const Lengths l(*document_->site());
    MeasuredText text =
        figures_->solid_now ? text_of_solid(*figures_, density_->value(), l) : text_of_surface(*figures_, l);
    if (!figures_->solid_now && text.volumes.isEmpty())
        text.volumes = counted_from() == CountedFrom::OtherSurface ? tr("There is no other surface yet.")
                       : counted_from() == CountedFrom::Plane && plane_->count() == 0
                           ? tr("Draw a line of three corners at least: the plane goes through them.")
                           : tr("Nothing of the surface lies there.");
    set_rich(now_, text.now);
    set_rich(volumes_, text.volumes);
    state_->setText(text.state + placements());
    say_areas(l);
    say_pinned(l);
}

// What the figures rest on besides the files: how the surfaces were placed.
QString MeasureCard::placements() const {
    const site::SitePtr s = document_->site();
    QString out;
    const std::uint64_t other =
        counted_from() == CountedFrom::OtherSurface ? other_->currentData().toULongLong() : 0;
    for (const std::uint64_t id : {s->active, other})
        if (const site::ItemPtr item = s->item(id); item && !item->placed_by.empty())
            out += tr("\n%1 was placed: %2.")
                       .arg(QString::fromStdString(item->name), QString::fromStdString(item->placed_by));
    return out;
}

}  // namespace pristine::app
