#include "app/cards/measure_card.h"

#include <QComboBox>
#include <QFormLayout>
#include <QLabel>
#include <QPushButton>
#include <QTextDocument>
#include <QVBoxLayout>
#include <cmath>

#include "app/look/make.h"
#include "app/look/theme.h"
#include "app/model/document.h"
#include "app/model/jobs.h"
#include "app/model/measured_text.h"
#include "core/cloud/column.h"
#include "core/cloud/triangles.h"
#include "core/io/mesh/mesh_cloud.h"
#include "core/measure/contours.h"
#include "core/site/making.h"
#include "core/surface/clip.h"
#include "render/scene.h"

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

// A label thinks a table lower than it is: its last lines would be cut off.
void set_rich(QLabel* label, const QString& html) {
    label->setText(html);
    QTextDocument document;
    document.setDefaultFont(label->font());
    document.setDocumentMargin(0);
    document.setHtml(html);
    document.setTextWidth(label->width());
    label->setMinimumHeight(html.isEmpty() ? 0 : static_cast<int>(std::ceil(document.size().height())) + 12);
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
    form->addRow(tr("Unchanged up to"), band_);
    noise_ = new LengthBox(0, 0, 10, this);
    noise_->setObjectName(QStringLiteral("measureNoise"));
    noise_->setSpecialValueText(tr("estimated"));
    noise_->setToolTip(
        tr("One standard deviation of the heights of both surfaces. Estimated by local fits it also counts "
           "the shape of the ground where points were thinned: then give it"));
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
    body()->addWidget(volumes_ = make_sentence(this, "measureVolumes"));
    volumes_->setContentsMargins(0, 0, 0, 8);  // a table is a little higher than its label thinks
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
    body()->addLayout(row);
    auto* lines = new QHBoxLayout;
    interval_ = new LengthBox(0.5, 0.001, 1000, this);
    interval_->setObjectName(QStringLiteral("measureInterval"));
    interval_->setToolTip(tr("Height from one contour to the next"));
    lines->addWidget(interval_, 1);
    contours_ = new QPushButton(tr("Contours"), this);
    contours_->setObjectName(QStringLiteral("measureContours"));
    contours_->setToolTip(tr("Lines of equal height on the surface as it is, as line objects"));
    lines->addWidget(contours_);
    body()->addLayout(lines);
    body()->addStretch(1);
}

void MeasureCard::follow_settings() {
    for (QLabel* l : {state_, now_, volumes_}) l->setTextInteractionFlags(Qt::TextSelectableByMouse);
    for (QComboBox* box : {base_, other_, within_, plane_})
        connect(box, &QComboBox::activated, this, &MeasureCard::compute);
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
    connect(map_, &QPushButton::clicked, this, &MeasureCard::make_map);
    connect(contours_, &QPushButton::clicked, this, &MeasureCard::make_contours);
}

void MeasureCard::on_open() {
    filling_ = true;
    for (LengthBox* box : {band_, noise_, interval_}) box->set_lengths(Lengths(*document_->site()));
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
            other_->addItem(i->date.empty() ? QString::fromStdString(i->name)
                                            : tr("%1, %2").arg(QString::fromStdString(i->name),
                                                               QString::fromStdString(i->date)),
                            static_cast<quint64>(i->id));
    for (const site::LinePtr& l : document_->site()->lines)
        if (l->points.size() >= 3)
            plane_->addItem(QString::fromStdString(l->name), static_cast<quint64>(l->id));
    if (const int at = plane_->findData(plane); at >= 0) plane_->setCurrentIndex(at);
    for (const site::LinePtr& l : document_->site()->lines)
        if (l->closed) within_->addItem(QString::fromStdString(l->name), static_cast<quint64>(l->id));
    if (const int at = other_->findData(other); at >= 0) other_->setCurrentIndex(at);
    if (const int at = within_->findData(within); at >= 0) within_->setCurrentIndex(at);
}

void MeasureCard::refresh() {
    if (!is_open()) return;
    fill_bases();
    const site::ItemPtr item = document_->site()->active_item();
    const site::ItemPtr other = document_->site()->item(other_->currentData().toULongLong());
    const site::SitePtr now = document_->site();
    const std::vector<site::LinePtr> lines{now->line(within_->currentData().toULongLong()),
                                           now->line(plane_->currentData().toULongLong())};
    const bool told_alike = lines == lines_ && now->unit == unit_ && is_stale_map(item) == stale_ &&
                            (!item || item->style.classes == classes_);
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
    show({base_, within_, interval_, contours_}, surface);
    show({density_}, solid);
    show({level_}, surface && from == CountedFrom::Level);
    show({plane_}, surface && from == CountedFrom::Plane);
    show({other_, band_, noise_, swap_, map_}, surface && from == CountedFrom::OtherSurface);
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
    lines_ = {s->line(within_->currentData().toULongLong()), s->line(plane_->currentData().toULongLong())};
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
    r.noise = noise_->in_data();
    if (lines_[0]) r.within = lines_[0]->points;
    if (lines_[1]) r.plane = lines_[1]->points;
    // Dates say which is the later; Swap turns that round.
    r.swapped = is_swapped(*item, other.get());
    start_measuring(item, [=](Progress& p, Measured* result) {
        // Nothing is out of most surfaces: then there is nothing to measure twice.
        const bool untouched = item->ledger.empty() && item->absent->empty();
        const mesh::TriMesh now = shown_of(*item),
                            whole = untouched ? mesh::TriMesh() : io::mesh_of(*item->cloud, ~item->made()),
                            others = compares && other ? shown_of(*other) : mesh::TriMesh();
        static_cast<measure::Board&>(*result) =
            measure::board(now, untouched ? nullptr : &whole, compares && other ? &others : nullptr, r, p);
        if (!other || item->date.empty() || other->date.empty()) return;
        result->later_date = r.swapped ? other->date : item->date;
        result->earlier_date = r.swapped ? item->date : other->date;
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
    const bool earlier = other && !item.date.empty() && !other->date.empty() && item.date < other->date;
    return earlier != swapped_;
}

void MeasureCard::say() {
    const Lengths l(*document_->site());
    MeasuredText text = figures_->solid_now ? text_of_solid(*figures_, density_->value(), l)
                                            : text_of_surface(*figures_, noise_->value() > 0, l);
    if (!figures_->solid_now && text.volumes.isEmpty())
        text.volumes = counted_from() == CountedFrom::OtherSurface ? tr("There is no other surface yet.")
                       : counted_from() == CountedFrom::Plane && plane_->count() == 0
                           ? tr("Draw a line of three corners at least: the plane goes through them.")
                           : tr("Nothing of the surface lies there.");
    set_rich(now_, text.now);
    set_rich(volumes_, text.volumes);
    state_->setText(text.state + placements());
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

void MeasureCard::make_map() {
    const site::SitePtr s = document_->site();
    site::ItemPtr later = s->active_item(), earlier = s->item(other_->currentData().toULongLong());
    if (!later || !earlier) return;
    if (is_swapped(*later, earlier.get())) std::swap(later, earlier);
    map_of(later, earlier, s->line(within_->currentData().toULongLong()), 0);
}

// A new map, or the item `again` anew.
void MeasureCard::map_of(const site::ItemPtr& later, const site::ItemPtr& earlier, const site::LinePtr& line,
                         std::uint64_t again) {
    const site::SitePtr s = document_->site();
    std::vector<std::uint64_t> lines;
    if (line) lines.push_back(line->id);
    const auto made = std::make_shared<std::shared_ptr<const cloud::PointCloud>>();
    jobs_->start(
        tr("Mapping the change"),
        [=](Progress& p) {
            mesh::TriMesh m = shown_of(*later), o = shown_of(*earlier);
            if (line)
                for (mesh::TriMesh* one : {&m, &o})
                    *one =
                        surface::clip(*one, {line->points}, surface::Keep::Inside, surface::Edges::Exact, p);
            measure::ChangeMap map = measure::change_map(o, m, p);
            if (map.mesh.triangles.empty()) throw Error(ErrorCode::Usage, "The surfaces do not overlap");
            cloud::TriangleParts parts{later->cloud->unit(), later->cloud->crs(), true, site::kChangeColumn,
                                       std::move(map.change)};
            *made = cloud::cloud_of_triangles(map.mesh, parts, p);
        },
        [this, made, later, earlier, again, from = site::stamps(*s, {later->id, earlier->id}, lines)] {
            const std::string name =
                tr("%1 minus %2")
                    .arg(QString::fromStdString(later->name), QString::fromStdString(earlier->name))
                    .toStdString();
            document_->apply(
                again ? tr("Make %1 again").arg(QString::fromStdString(name)) : tr("Map the change"),
                [&](const site::Site& now) {
                    site::SitePtr next = std::make_shared<const site::Site>(now);
                    site::Style style;
                    const site::ItemPtr old = again ? now.item(again) : nullptr;
                    if (old) style = old->style;
                    if (!old)
                        for (const std::uint64_t id : {later->id, earlier->id})
                            next = site::set_visible(*next, id, false);
                    next = site::add_cloud(*next, *made, old ? old->name : name, "measured");
                    const std::uint64_t fresh = next->items.back()->id;
                    if (!old) style = next->items.back()->style;
                    style.colour_by = site::ColourBy::Column;
                    style.column = site::kChangeColumn;
                    next = site::set_style(*next, fresh, style);
                    if (old) {
                        const std::uint64_t active = now.active == again ? fresh : now.active;
                        next = site::activate(*site::drop_item(*next, again), active);
                    }
                    return site::put_making(*next, {site::Making::Kind::ChangeMap, fresh, {}, from, 0});
                });
        });
}

void MeasureCard::make_contours() {
    if (const site::ItemPtr item = document_->site()->active_item())
        contours_of(item, interval_->in_data(), {});
}

// New contours, or those of the group `again` anew.
void MeasureCard::contours_of(const site::ItemPtr& item, double interval, const std::string& again) {
    const auto lines = std::make_shared<std::vector<measure::Contour>>();
    jobs_->start(
        tr("Drawing contours"),
        [=](Progress& p) { *lines = measure::contours(shown_of(*item), interval, p); },
        [this, lines, interval, again, name = item->name,
         from = site::stamps(*document_->site(), {item->id}, {})] {
            if (lines->empty()) return emit said(tr("No level of this interval crosses the surface."));
            const Lengths l(*document_->site());
            document_->apply(
                again.empty() ? tr("Contours") : tr("Make the contours again"), [&](const site::Site& s) {
                    std::vector<site::Line> made;
                    const std::string group = !again.empty()
                                                  ? again
                                                  : tr("Contours of %1, %2")
                                                        .arg(QString::fromStdString(name), l.text(interval))
                                                        .toStdString();
                    for (const measure::Contour& c : *lines) {
                        site::Line line;
                        line.name = tr("Contour %1").arg(l.number(c.level)).toStdString();
                        line.points = c.points;
                        line.closed = c.closed && c.points.size() > 2;
                        line.group = group;
                        line.role = LineRole::Contour;
                        // Every fifth is an index contour.
                        line.thick = std::llround(c.level / interval) % 5 == 0;
                        if (line.thick) line.label = l.number(c.level).toStdString();
                        made.push_back(std::move(line));
                    }
                    const bool replaces =
                        std::any_of(s.lines.begin(), s.lines.end(),
                                    [&](const site::LinePtr& line) { return line->group == group; });
                    const site::SitePtr without =
                        replaces ? site::drop_lines(s, group) : std::make_shared<const site::Site>(s);
                    return site::put_making(*site::put_lines(*without, std::move(made)),
                                            {site::Making::Kind::Contours, 0, group, from, interval});
                });
            emit said(tr("%n contour(s)", "", static_cast<int>(lines->size())));
        });
}

void MeasureCard::make_again(const site::Making& making) {
    const site::SitePtr s = document_->site();
    if (making.kind == site::Making::Kind::Contours) {
        const site::ItemPtr item = making.from.empty() ? nullptr : s->item(making.from[0].id);
        if (!item) return emit said(tr("The surface that the contours were made of is gone."));
        return contours_of(item, making.interval, making.group);
    }
    const site::ItemPtr later = making.from.size() < 2 ? nullptr : s->item(making.from[0].id),
                        earlier = making.from.size() < 2 ? nullptr : s->item(making.from[1].id);
    if (!later || !earlier) return emit said(tr("A surface that the map was made of is gone."));
    map_of(later, earlier, making.from.size() > 2 ? s->line(making.from[2].id) : nullptr, making.item);
}

}  // namespace pristine::app
