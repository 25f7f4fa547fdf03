#include "app/cards/measure_card.h"

#include <QComboBox>
#include <QFormLayout>
#include <QLabel>
#include <QLocale>
#include <QPushButton>
#include <QTextDocument>
#include <QVBoxLayout>
#include <cmath>

#include "app/look/theme.h"
#include "app/model/document.h"
#include "app/model/jobs.h"
#include "core/cloud/column.h"
#include "core/cloud/triangles.h"
#include "core/io/mesh/mesh_cloud.h"
#include "core/measure/contours.h"
#include "core/measure/noise.h"
#include "core/site/making.h"
#include "core/surface/clip.h"
#include "render/scene.h"

namespace pristine::app {
namespace {

enum BaseKind : int { kLevel, kLowest, kMean, kTriangulated, kOther, kPlane };

bool is_ground(const site::Item& item) {
    return cloud::is_surface(*item.cloud) && !render::is_change_map(*item.cloud);
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
    const auto text = [&](const char* name) {
        auto* l = new QLabel(this);
        l->setObjectName(QString::fromLatin1(name));
        l->setWordWrap(true);
        l->setTextInteractionFlags(Qt::TextSelectableByMouse);
        body()->addWidget(l);
        return l;
    };
    state_ = text("measureState");
    now_ = text("measureNow");
    auto* form = form_ = new QFormLayout;
    base_ = new QComboBox(this);
    base_->setObjectName(QStringLiteral("measureBase"));
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
    volumes_ = text("measureVolumes");
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
    const bool same = told_alike && item && item->cloud == cloud_ && absent_ && *item->absent == *absent_ &&
                      (base_->currentIndex() != kOther || render::is_change_map(*item->cloud) ||
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

void MeasureCard::compute() {
    if (!is_open()) return;
    fresh_ = false;
    const site::SitePtr s = document_->site();
    const site::ItemPtr item = s->active_item();
    cloud_ = item ? item->cloud : nullptr;
    absent_ = item ? item->absent : nullptr;
    lines_ = {s->line(within_->currentData().toULongLong()), s->line(plane_->currentData().toULongLong())};
    unit_ = s->unit;
    classes_ = item ? item->style.classes : std::vector<double>();
    stale_ = is_stale_map(item);
    const int base = base_->currentIndex();
    const bool solid = item && item->cloud->triangles() && !cloud::is_surface(*item->cloud);
    const auto show = [&](std::initializer_list<QWidget*> all, bool shown) {
        for (QWidget* w : all) {
            w->setVisible(shown);
            if (QWidget* label = form_->labelForField(w)) label->setVisible(shown);
        }
    };
    show({base_, within_, interval_, contours_}, !solid);
    show({density_}, solid);
    show({level_}, !solid && base == kLevel);
    show({plane_}, !solid && base == kPlane);
    show({other_, band_, noise_, swap_, map_}, !solid && base == kOther);
    if (solid) return compute_solid(item);
    const bool map = item && render::is_change_map(*item->cloud);
    if (map)
        show({base_, within_, level_, plane_, other_, band_, noise_, density_, swap_, map_, interval_,
              contours_},
             false);
    if (map) return compute_map(item);
    if (!item || !is_ground(*item)) {
        for (QPushButton* b : {swap_, map_, contours_}) b->setEnabled(false);
        set_rich(now_, {});
        set_rich(volumes_, {});
        return state_->setText(tr("Take a surface or a mesh in work: build one, or open one."));
    }
    const site::ItemPtr other = s->item(other_->currentData().toULongLong());
    other_absent_ = other ? other->absent : nullptr;
    swap_->setEnabled(base == kOther && other);
    map_->setEnabled(base == kOther && other);
    contours_->setEnabled(true);
    const site::LinePtr line = s->line(within_->currentData().toULongLong());
    const double level = Lengths(*s).data(level_->value()), band = band_->in_data(),
                 noise = noise_->in_data();
    const site::LinePtr through = s->line(plane_->currentData().toULongLong());
    // Dates say which is the later; Swap turns that round.
    const bool swapped = is_swapped(*item, other.get());
    start_measuring(item, [=](Progress& p, Figures* result) {
        const auto inside = [&](mesh::TriMesh m) {
            return line ? surface::clip(m, {line->points}, surface::Keep::Inside, surface::Edges::Exact, p)
                        : m;
        };
        // Nothing is out of most surfaces: then there is nothing to measure twice.
        const bool untouched = item->ledger.empty() && item->absent->empty();
        mesh::TriMesh m = shown_of(*item),
                      whole = untouched ? mesh::TriMesh() : io::mesh_of(*item->cloud, ~item->made());
        result->now = measure::figures(m);
        result->before = untouched ? result->now : measure::figures(whole);
        const bool edited = !untouched && (whole.triangles.size() != m.triangles.size() ||
                                           result->now.plan_area != result->before.plan_area);
        m = inside(std::move(m));
        whole = edited ? inside(std::move(whole)) : mesh::TriMesh();
        if (m.triangles.empty()) return;
        if (base == kOther) {
            if (!other) return;
            const mesh::TriMesh o = inside(shown_of(*other));
            result->later_date = swapped ? other->date : item->date;
            result->earlier_date = swapped ? item->date : other->date;
            if (result->later_date.empty() || result->earlier_date.empty())
                result->later_date = result->earlier_date = {};
            const double own = noise > 0 ? noise : measure::noise_of(m),
                         others = noise > 0 ? noise : measure::noise_of(o);
            result->sigma_before = swapped ? own : others;
            result->sigma_after = swapped ? others : own;
            const measure::DifferenceOptions options{band, result->sigma_before, result->sigma_after};
            const auto difference = [&](const mesh::TriMesh& one) {
                return swapped ? measure::difference(one, o, options, p)
                               : measure::difference(o, one, options, p);
            };
            result->difference = difference(m);
            if (edited) result->difference_before = difference(whole);
            return;
        }
        const auto volumes = [&](const mesh::TriMesh& one) -> std::optional<measure::Volumes> {
            if (base == kTriangulated) {
                const measure::Difference d = measure::difference(measure::triangulated_rim(one), one, {}, p);
                return measure::Volumes{d.fill, d.cut, d.fill_area, d.cut_area};
            }
            if (base == kPlane && !through) return std::nullopt;
            return measure::volumes(one, base == kPlane    ? measure::plane_of(through->points)
                                         : base == kLevel  ? measure::level(level)
                                         : base == kLowest ? measure::lowest_of_rim(one)
                                                           : measure::mean_of_rim(one));
        };
        result->volumes = volumes(m);
        if (edited && !whole.triangles.empty()) result->volumes_before = volumes(whole);
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
            const auto column = cloud::fetch_column(*map->cloud, render::kChangeColumn, p);
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
    const Lengths l(*document_->site());
    // The unit stands in the head: with it in each row the numbers would be parted from theirs.
    const QString line =
        QStringLiteral("<tr><td>%1&nbsp;</td><td align=right>%2&nbsp;</td><td align=right>%3</td></tr>");
    const auto whole = [](QString figure) { return figure.replace(' ', QStringLiteral("&nbsp;")); };
    const QString unit = l.suffix().trimmed();
    QString table = "<table>" + line.arg(unit.isEmpty() ? tr("Change") : tr("Change [%1]").arg(unit),
                                         tr("Area"), tr("Volume"));
    double area = 0, volume = 0;
    for (const measure::ClassFigures& c : classes) {
        if (c.area == 0) continue;
        area += c.area;
        volume += c.volume;
        // Limits as they were typed, not rounded as figures are.
        const auto limit = [&](double v) { return QLocale().toString(v / l.data(1), 'g', 6); };
        const QString from = limit(c.from), to = limit(c.to);
        table += line.arg(std::isinf(c.from) ? tr("below %1").arg(to)
                          : std::isinf(c.to) ? tr("%1 and more").arg(from)
                                             : tr("%1 to %2").arg(from, to),
                          "<b>" + whole(l.area(c.area)) + "</b>", "<b>" + whole(l.volume(c.volume)) + "</b>");
    }
    table += line.arg(tr("All"), whole(l.area(area)), whole(l.volume(volume))) + "</table>";
    set_rich(now_, table);
    QString text = is_stale_map(map) ? tr("A map of change that is out of date: make it again.")
                                     : tr("A map of change, each piece by its mean.");
    if (figures_)
        text += ' ' + tr("Below are the figures of %1 as they were.").arg(QString::fromStdString(measured_));
    state_->setText(text);
}

// Works figures out beside the window, and says them unless others were asked for meanwhile.
void MeasureCard::start_measuring(const site::ItemPtr& item, std::function<void(Progress&, Figures*)> work) {
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
    latest_.start<Figures>(
        tr("Measuring"), [work = std::move(work)](Progress& p, Figures& result) { work(p, &result); },
        [this, item](Figures& result) {
            figures_ = std::make_shared<Figures>(std::move(result));
            measured_ = item->name;
            fresh_ = true;
            say();
        },
        [this](const QString& why) { state_->setText(why.isEmpty() ? tr("Cancelled.") : why); },
        Jobs::Show::IfLong);
}

void MeasureCard::compute_solid(const site::ItemPtr& item) {
    start_measuring(item, [=](Progress& p, Figures* result) {
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

void MeasureCard::say_solid() {
    const Lengths l(*document_->site());
    const measure::SolidFigures &now = *figures_->solid_now, &before = *figures_->solid_before;
    const auto area = [&](double v) { return l.area(v); };
    const auto volume = [&](const measure::SolidFigures& f) {
        return f.closed ? l.volume(f.volume) : tr("none: open");
    };
    const auto row = [&](const QString& title, const QString& value, const QString& was) {
        QString text = QStringLiteral("<tr><td>%1&nbsp;&nbsp;</td><td align=right><b>%2</b></td></tr>")
                           .arg(title, value);
        if (!was.isEmpty() && was != value)
            text += QStringLiteral("<tr><td></td><td align=right>%1</td></tr>").arg(tr("was %1").arg(was));
        return text;
    };
    QString text = "<table>" + row(tr("Surface area"), area(now.area), area(before.area)) +
                   row(tr("Volume"), volume(now), volume(before));
    if (now.closed && density_->value() > 0)
        text += row(tr("Mass"),
                    l.known()
                        ? QString::fromStdString(mass_text(
                              now.volume * std::pow(l.data_metres(), 3) * density_->value(), number_marks()))
                        : tr("none: unit not set"),
                    {});
    set_rich(now_, text + "</table>");
    state_->setText(tr("As it is shown now."));
    QStringList said;
    if (now.rim_edges > 0)
        said << tr(
            "No volume: %n edge(s) belong to one triangle only. Check and repair (Ctrl+R) marks the rims "
            "and closes them.",
            "", static_cast<int>(now.rim_edges));
    else if (!now.closed)
        said << tr(
            "No volume: edges of more than two triangles, or faces that disagree. Check and repair "
            "(Ctrl+R) shows where.");
    if (now.crossings > 0)
        said << tr("%n pair(s) of triangles cross: the volume counts some places twice.", "",
                   static_cast<int>(now.crossings));
    if (now.inwards) said << tr("The mesh faces inwards; its volume is counted positive.");
    volumes_->setText(said.join(QLatin1Char(' ')));
}

void MeasureCard::say() {
    if (figures_->solid_now) return say_solid();
    const Lengths l(*document_->site());
    const auto area = [&](double x) { return l.area(x); };
    const auto volume = [&](double x) { return l.volume(x); };
    const Figures& f = *figures_;
    const bool edited = f.now.plan_area != f.before.plan_area;
    const auto row = [&](const QString& title, const QString& now, const QString& before) {
        return QStringLiteral("<tr><td>%1&nbsp;&nbsp;</td><td align=right><b>%2</b></td></tr>%3")
            .arg(title, now,
                 edited ? QStringLiteral("<tr><td></td><td align=right>%1</td></tr>")
                              .arg(tr("was %1").arg(before))
                        : QString());
    };
    set_rich(now_, "<table>" + row(tr("Plan area"), area(f.now.plan_area), area(f.before.plan_area)) +
                       row(tr("Surface area"), area(f.now.surface_area), area(f.before.surface_area)) +
                       row(tr("Perimeter"), l.text(f.now.perimeter), l.text(f.before.perimeter)) +
                       "</table>");
    state_->setText(
        tr("As it is shown now; heights %1 to %2.").arg(l.text(f.now.lowest), l.text(f.now.highest)));
    const auto pair = [](const QString& title, const QString& value, const QString& was = {}) {
        return QStringLiteral("<tr><td>%1&nbsp;&nbsp;</td><td align=right><b>%2</b></td></tr>%3")
            .arg(
                title, value,
                was.isEmpty() || was == value
                    ? QString()
                    : QStringLiteral("<tr><td></td><td align=right>%1</td></tr>").arg(tr("was %1").arg(was)));
    };
    const auto was = [&](const auto& before, auto figure) {
        return before ? volume(figure(*before)) : QString();
    };
    if (f.difference) {
        const measure::Difference& d = *f.difference;
        const QString dates = f.later_date.empty() ? QString()
                                                   : tr("%1 minus %2. ")
                                                         .arg(QString::fromStdString(f.later_date),
                                                              QString::fromStdString(f.earlier_date));
        // Turned round on purpose the words are turned round too.
        const bool back = !f.later_date.empty() && f.later_date < f.earlier_date;
        set_rich(
            volumes_,
            dates +
                (back ? tr("Earlier minus later: what reads as fill was taken away between the two dates.")
                      : tr("Later minus earlier: fill is material added.")) +
                "<table>" +
                pair(tr("Cut volume"), volume(d.cut),
                     was(f.difference_before, [](auto& b) { return b.cut; })) +
                pair(tr("Cut area"), area(d.cut_area)) +
                pair(tr("Fill volume"), volume(d.fill),
                     was(f.difference_before, [](auto& b) { return b.fill; })) +
                pair(tr("Fill area"), area(d.fill_area)) +
                pair(tr("Net"), volume(d.net()), was(f.difference_before, [](auto& b) { return b.net(); })) +
                pair(tr("± (1 σ)"), l.spread(d.uncertainty, 3)) +
                pair(tr("Unchanged"), area(d.unchanged_area)) +
                pair(tr("Covered by one survey only"), area(d.uncovered_area)) + "</table>" +
                (noise_->value() > 0 ? tr("Noise %1 and %2, as given.")
                                     : tr("Noise %1 and %2, by local fits."))
                    .arg(l.spread(f.sigma_before), l.spread(f.sigma_after)));
    } else if (f.volumes) {
        set_rich(volumes_, "<table>" +
                               pair(tr("Volume above"), volume(f.volumes->above),
                                    was(f.volumes_before, [](auto& b) { return b.above; })) +
                               pair(tr("Area above"), area(f.volumes->area_above)) +
                               pair(tr("Volume below"), volume(f.volumes->below),
                                    was(f.volumes_before, [](auto& b) { return b.below; })) +
                               pair(tr("Area below"), area(f.volumes->area_below)) + "</table>");
    } else {
        volumes_->setText(base_->currentIndex() == kOther ? tr("There is no other surface yet.")
                          : base_->currentIndex() == kPlane && plane_->count() == 0
                              ? tr("Draw a line of three corners at least: the plane goes through them.")
                              : tr("Nothing of the surface lies there."));
    }
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
            cloud::TriangleParts parts{later->cloud->unit(), later->cloud->crs(), true, "change",
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
                    style.column = "change";
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
