#include "app/cards/surface_card.h"

#include <QCheckBox>
#include <QComboBox>
#include <QDoubleSpinBox>
#include <QFormLayout>
#include <QHeaderView>
#include <QLabel>
#include <QPushButton>
#include <QSignalBlocker>
#include <QTreeWidget>
#include <QVBoxLayout>
#include <algorithm>

#include "app/look/theme.h"
#include "app/model/document.h"
#include "app/model/jobs.h"
#include "core/cloud/triangles.h"
#include "core/surface/definition.h"
#include "core/surface/make.h"

namespace pristine::app {
namespace {

constexpr std::uint64_t kMostForPicture = 3'000'000;  // more would hold up whoever waits for the surface

// The surface where the change is, as the camera is now.
std::shared_ptr<const site::Thumbnail> picture_of_change(const site::Rebuilt& r, std::uint32_t number,
                                                         const Document::PictureOf& draw) {
    if (r.cloud->size() > kMostForPicture) return nullptr;
    Box3 place = site::place_of(r.source->edits.at(number), *r.source, number);
    if (place.empty()) return draw(r.cloud, ElementSet::all(r.cloud->size()));
    const double margin = 0.5 * place.diagonal() + 1e-6;
    std::vector<PageBits> bits(r.cloud->page_count());
    for (std::size_t p = 0; p < bits.size(); ++p) {
        const cloud::PositionPage page = r.cloud->positions(p);
        for (std::size_t i = 0; i < page.size(); ++i) {
            const Vec3 at = r.cloud->grid().world(page.x[i], page.y[i], page.z[i]);
            if (at.x > place.lo.x - margin && at.x < place.hi.x + margin && at.y > place.lo.y - margin &&
                at.y < place.hi.y + margin)
                bits[p].set(i);
        }
    }
    ElementSet near(r.cloud->size());
    for (std::size_t p = 0; p < bits.size(); ++p) near.set_page(p, bits[p]);
    return draw(r.cloud, near.empty() ? ElementSet::all(r.cloud->size()) : near);
}

// The report in words: what a surveyor has to know before signing.
QString told(const surface::BuildReport& r, std::size_t triangles) {
    QString text = SurfaceCard::tr("%1 triangles from %2 points.").arg(grouped(triangles), grouped(r.points));
    if (!r.duplicates.empty())
        text += " " + SurfaceCard::tr("%n place(s) with more than one height.", "",
                                      static_cast<int>(r.duplicates.size()));
    if (r.breakline_segments > 0)
        text += " " + SurfaceCard::tr("%1 edges follow lines.").arg(grouped(r.breakline_segments));
    if (!r.crossings.empty())
        text += " " + SurfaceCard::tr("Lines cross at %n place(s); one height holds there.", "",
                                      static_cast<int>(r.crossings.size()));
    if (r.beyond_limits > 0)
        text += " " + SurfaceCard::tr("%1 triangles were beyond the limits.").arg(grouped(r.beyond_limits));
    return text;
}

}  // namespace

SurfaceCard::SurfaceCard(Document* document, Jobs* jobs, QWidget* parent)
    : SideCard(QStringLiteral("surface"), tr("New surface"), QStringLiteral("surfaces.md"), parent),
      document_(document),
      jobs_(jobs) {
    add_settings();
    add_lines();
}

// How a surface is built.
void SurfaceCard::add_settings() {
    auto* form = new QFormLayout;
    const auto length = [&](const char* name, const QString& title, const QString& help, double value) {
        auto* box = new LengthBox(value, 0, 10'000, this);
        box->setObjectName(QString::fromLatin1(name));
        box->setAccessibleName(title);
        box->setToolTip(help);
        form->addRow(title, box);
        return box;
    };
    thin_ = length(
        "surfaceThin", tr("Thin to"),
        tr("Points that lie nearer to the surface of the others than this, in height, are left out; 0: all "
           "points are used"),
        0.02);
    longest_ = length("surfaceLongest", tr("Longest edge"),
                      tr("Triangles with a longer edge in plan go; 0: no limit"), 0);
    rim_ = length("surfaceRim", tr("Rim edge"),
                  tr("From the rim inwards, triangles go while their edge at the rim is longer; 0: no limit"),
                  0);
    thin_->setSpecialValueText(tr("all points"));
    for (LengthBox* box : {longest_, rim_}) box->setSpecialValueText(tr("no limit"));
    angle_ = new QDoubleSpinBox(this);
    angle_->setObjectName(QStringLiteral("surfaceAngle"));
    angle_->setAccessibleName(tr("Rim angle"));
    angle_->setToolTip(tr(
        "From the rim inwards, triangles go while the angle opposite their edge at the rim is larger; 0: no "
        "limit"));
    angle_->setRange(0, 180);
    angle_->setDecimals(1);
    angle_->setSuffix(QStringLiteral("°"));
    angle_->setSpecialValueText(tr("no limit"));
    form->addRow(tr("Rim angle"), angle_);
    duplicates_ = new QComboBox(this);
    duplicates_->setObjectName(QStringLiteral("surfaceDuplicates"));
    duplicates_->addItems({tr("the first"), tr("their mean"), tr("the highest"), tr("the lowest")});
    duplicates_->setToolTip(tr("Which height holds where several points lie in one place in plan"));
    form->addRow(tr("Doubled: takes"), duplicates_);
    crossings_ = new QComboBox(this);
    crossings_->setObjectName(QStringLiteral("surfaceCrossings"));
    crossings_->addItems({tr("their mean"), tr("the upper in the list"), tr("the lower in the list"),
                          tr("the highest"), tr("the lowest")});
    crossings_->setToolTip(tr("Which height holds where two lines cross at different heights"));
    form->addRow(tr("Crossing: takes"), crossings_);
    body()->addLayout(form);
}

// Lines that it follows and ends at, and the button that builds it.
void SurfaceCard::add_lines() {
    const auto box = [&](const char* name, const QString& text, const QString& help) {
        auto* b = new QCheckBox(text, this);
        b->setObjectName(QString::fromLatin1(name));
        b->setToolTip(help);
        body()->addWidget(b);
        return b;
    };
    lines_ = new QTreeWidget(this);
    lines_->setObjectName(QStringLiteral("surfaceLines"));
    lines_->setAccessibleName(tr("Lines that are shown: which triangles follow, and where the surface ends"));
    lines_->setToolTip(
        tr("Follow: triangles keep to the line exactly (a breakline). Ends there: the surface lies inside "
           "the line; a line inside another is a hole"));
    lines_->setHeaderLabels({tr("Line"), tr("Follow"), tr("Ends there")});
    lines_->setRootIsDecorated(false);
    lines_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    lines_->setColumnWidth(0, 104);
    lines_->setColumnWidth(1, 56);
    body()->addWidget(lines_, 1);
    whole_ = box("surfaceWhole", tr("Whole triangles at the boundary"),
                 tr("Off: triangles are cut exactly at the line"));
    state_ = new QLabel(this);
    state_->setObjectName(QStringLiteral("surfaceState"));
    state_->setWordWrap(true);
    body()->addWidget(state_);
    odd_ = new QTreeWidget(this);
    odd_->setObjectName(QStringLiteral("surfaceOdd"));
    odd_->setAccessibleName(tr("Places with more than one height; click or Enter to fly there"));
    odd_->setHeaderLabels({tr("Odd place"), tr("Heights"), tr("Taken")});
    odd_->setRootIsDecorated(false);
    odd_->setUniformRowHeights(true);
    odd_->header()->setSectionResizeMode(QHeaderView::ResizeToContents);
    odd_->setMinimumHeight(96);
    odd_->hide();
    connect(odd_, &QTreeWidget::currentItemChanged, this, &SurfaceCard::go_to_odd);
    connect(odd_, &QTreeWidget::itemActivated, this, &SurfaceCard::go_to_odd);
    body()->addWidget(odd_);
    build_ = new QPushButton(tr("Build the surface"), this);
    build_->setObjectName(QStringLiteral("surfaceBuild"));
    body()->addWidget(build_);
    body()->addStretch(1);
    connect(build_, &QPushButton::clicked, this, &SurfaceCard::build);
}

void SurfaceCard::on_open() {
    for (LengthBox* box : {thin_, longest_, rim_}) box->set_lengths(Lengths(*document_->site()));
    fill_lines();
    take_source();
    refresh();
}

// A surface in work shows what it was built with.
void SurfaceCard::take_source() {
    const site::ItemPtr item = document_->site()->active_item();
    if (!item || !item->source) return;
    const Lengths lengths(*document_->site());
    const surface::Definition& d = item->source->definition;
    longest_->setValue(lengths.shown(d.limits.longest_edge));
    rim_->setValue(lengths.shown(d.limits.rim_edge));
    duplicates_->setCurrentIndex(static_cast<int>(d.duplicates));
    crossings_->setCurrentIndex(static_cast<int>(d.crossings));
    angle_->setValue(d.limits.rim_angle);
    whole_->setChecked(d.boundary_edges == surface::Edges::Whole);
    const auto holds = [](const std::vector<std::uint64_t>& ids, std::uint64_t id) {
        return std::find(ids.begin(), ids.end(), id) != ids.end();
    };
    for (int i = 0; i < lines_->topLevelItemCount(); ++i) {
        QTreeWidgetItem* row = lines_->topLevelItem(i);
        const quint64 id = row->data(0, Qt::UserRole).toULongLong();
        row->setCheckState(1, holds(item->source->breakline_ids, id) ? Qt::Checked : Qt::Unchecked);
        row->setCheckState(2, holds(item->source->boundary_ids, id) ? Qt::Checked : Qt::Unchecked);
    }
}

// By the roles of the lines; of one without a role, a closed one bounds and an open one breaks.
void SurfaceCard::fill_lines() {
    lines_->clear();
    for (const site::LinePtr& l : document_->site()->lines) {
        if (!l->visible) continue;
        const bool free = l->role == LineRole::Free;
        const bool breaks = l->role == LineRole::Breakline || (free && !l->closed);
        const bool bounds = l->closed && (l->role == LineRole::Boundary || l->role == LineRole::Hole || free);
        auto* row = new QTreeWidgetItem(lines_, {QString::fromStdString(l->name)});
        row->setData(0, Qt::UserRole, static_cast<quint64>(l->id));
        row->setCheckState(1, breaks ? Qt::Checked : Qt::Unchecked);
        row->setCheckState(2, bounds ? Qt::Checked : Qt::Unchecked);
    }
    lines_->setVisible(lines_->topLevelItemCount() > 0);
}

void SurfaceCard::refresh() {
    if (!is_open()) return;
    std::size_t shown = 0;
    for (const site::LinePtr& l : document_->site()->lines) shown += l->visible;
    if (shown != static_cast<std::size_t>(lines_->topLevelItemCount())) fill_lines();
    const site::ItemPtr item = document_->site()->active_item();
    const bool points = item && !item->cloud->triangles(), again = item && cloud::is_surface(*item->cloud);
    const bool given = again && (!item->source || !item->source->definition.given.triangles.empty());
    for (QWidget* w : std::initializer_list<QWidget*>{longest_, rim_, angle_, duplicates_, crossings_})
        w->setEnabled(!given);
    build_->setEnabled(points || again);
    build_->setText(again ? tr("Build again") : tr("Build the surface"));
    thin_->setEnabled(!again);
    if (again) {
        if (given)
            return state_->setText(
                tr("Its triangles came from a file and are kept; boundaries and replaced parts count."));
        state_->setText(site::with_lines_of(*item->source, *document_->site())
                            ? tr("Out of date: lines that it follows have moved since it was built.")
                            : tr("From %1 points. What was removed stays removed.")
                                  .arg(grouped(item->source->definition.points.size())));
        return;
    }
    if (!points) return state_->setText(tr("A surface is built from points: take a scan in work."));
    const site::SetPtr part =
        document_->site()->of_removed ? nullptr : document_->site()->selection_in_work();
    const std::uint64_t selected = part ? part->count() : 0;
    state_->setText(selected > 0 ? tr("From the %1 points that are selected.").arg(grouped(selected))
                                 : tr("From the %1 points that are shown.").arg(grouped(item->shown())));
}

// Lines as they are ticked; those that are not shown any more stay as they were.
void SurfaceCard::take_lines(site::SurfaceSource& source) const {
    surface::Definition& d = source.definition;
    d.breaklines.clear();
    d.boundary.clear();
    source.breakline_ids.clear();
    source.boundary_ids.clear();
    for (int i = 0; i < lines_->topLevelItemCount(); ++i) {
        const QTreeWidgetItem* row = lines_->topLevelItem(i);
        const site::LinePtr l = document_->site()->line(row->data(0, Qt::UserRole).toULongLong());
        if (!l) continue;
        if (row->checkState(1) == Qt::Checked) {
            d.breaklines.push_back({l->name, l->points, l->closed});
            source.breakline_ids.push_back(l->id);
        }
        if (row->checkState(2) == Qt::Checked) {
            d.boundary.push_back(l->points);
            source.boundary_ids.push_back(l->id);
        }
    }
}

// Whether a surface can end at its boundary; if not, says why and marks the place.
bool SurfaceCard::fits(const site::SurfaceSource& source) {
    std::optional<surface::RingTrouble> trouble;
    for (std::size_t i = 0; i < source.boundary_ids.size() && !trouble; ++i) {
        const site::LinePtr l = document_->site()->line(source.boundary_ids[i]);
        if (!l || l->closed || l->points.empty()) continue;
        trouble = surface::RingTrouble{
            tr("'%1' is open: a surface cannot end at it").arg(QString::fromStdString(l->name)).toStdString(),
            tr("Close it, or take it as a breakline.").toStdString(), l->points.back()};
    }
    if (!trouble) trouble = surface::trouble_of(source.definition.boundary);
    const bool had = mark_.has_value();
    mark_.reset();
    if (trouble) mark_ = trouble->where;
    mark_of_ = document_->site()->lines;
    if (had || mark_) emit guides_changed();
    if (!trouble) return true;
    state_->setText(tr("%1. The place is marked. %2")
                        .arg(QString::fromStdString(trouble->what), QString::fromStdString(trouble->advice)));
    emit said(state_->text());
    emit fly_near(trouble->where);
    return false;
}

std::vector<std::vector<Vec3>> SurfaceCard::guides() const {
    std::vector<std::vector<Vec3>> out;
    if (!mark_ || document_->site()->lines != mark_of_) return out;
    Box3 box;
    for (const site::LinePtr& l : document_->site()->lines)
        if (l->visible)
            for (const Vec3& p : l->points) box.add(p);
    for (int a = 0; a < 3; ++a) {
        Vec3 d;
        d[a] = box.empty() ? 1 : 0.02 * box.diagonal();
        out.push_back({*mark_ - d, *mark_ + d});
    }
    return out;
}

// Where several points or lines gave one place different heights, the widest apart first.
void SurfaceCard::show_odd(const surface::BuildReport& r) {
    struct Row {
        QString what;
        double lo, hi;
        Vec3 place;
    };
    std::vector<Row> rows;
    for (const auto& d : r.duplicates)
        rows.push_back({tr("%n points", "", static_cast<int>(d.count)), d.lowest, d.highest, d.place});
    for (const auto& c : r.crossings)
        rows.push_back({tr("%1 × %2").arg(QString::fromStdString(c.first), QString::fromStdString(c.second)),
                        std::min(c.earlier, c.later), std::max(c.earlier, c.later), c.place});
    std::stable_sort(rows.begin(), rows.end(),
                     [](const Row& a, const Row& b) { return a.hi - a.lo > b.hi - b.lo; });
    constexpr std::size_t kMost = 5000;  // nobody looks through more
    if (rows.size() > kMost) rows.resize(kMost);
    const Lengths l(*document_->site());
    const QSignalBlocker quiet(odd_);
    odd_->clear();
    odd_places_.clear();
    for (const Row& row : rows) {
        auto* item =
            new QTreeWidgetItem(odd_, {row.what, tr("%1 to %2").arg(l.number(row.lo, 1), l.number(row.hi, 1)),
                                       l.number(row.place.z, 1)});
        item->setToolTip(0, tr("%1 apart in height").arg(l.text(row.hi - row.lo, 1)));
        odd_places_.push_back(row.place);
    }
    odd_->setVisible(!rows.empty());
}

void SurfaceCard::go_to_odd() {
    const auto k = static_cast<std::size_t>(odd_->indexOfTopLevelItem(odd_->currentItem()));
    if (k >= odd_places_.size()) return;
    mark_ = odd_places_[k];
    mark_of_ = document_->site()->lines;
    emit guides_changed();
    emit fly_near(odd_places_[k]);
}

void SurfaceCard::build() {
    const site::ItemPtr item = document_->site()->active_item();
    if (!item) return;
    const bool again = cloud::is_surface(*item->cloud);
    auto source = again ? std::make_shared<site::SurfaceSource>(*site::source_of(*item))
                        : std::make_shared<site::SurfaceSource>();
    surface::Definition& d = source->definition;
    d.duplicates = static_cast<surface::Duplicates>(duplicates_->currentIndex());
    d.crossings = static_cast<surface::Crossings>(crossings_->currentIndex());
    d.boundary_edges = whole_->isChecked() ? surface::Edges::Whole : surface::Edges::Exact;
    take_lines(*source);
    if (!fits(*source)) return;
    site::Edited limited =
        site::with_limits(*source, {longest_->in_data(), rim_->in_data(), angle_->value()});
    if (!limited.source) limited.source = source;
    if (again) return build_again(item->id, limited, tr("Build the surface again"), limits_reason());
    build_new(limited);
}

QString SurfaceCard::limits_reason() const {
    return tr("Limits");
}

void SurfaceCard::build_again(std::uint64_t id, const site::Edited& edited, const QString& title,
                              const QString& reason) {
    const site::ItemPtr item = document_->site()->item(id);
    if (!item || !fits(*edited.source)) return;
    const auto result = std::make_shared<site::Rebuilt>();
    site::Decision decision;
    decision.reason = reason.toStdString();
    decision.cause = edited.cause;
    const auto picture = std::make_shared<std::shared_ptr<const site::Thumbnail>>();
    const Document::PictureOf draw = document_->picture_of();
    jobs_->start(
        title,
        [=](Progress& p) {
            *result = site::rebuild(*item, *edited.source, p);
            if (edited.number != 0) *picture = picture_of_change(*result, edited.number, draw);
        },
        [this, item, result, title, picture, decision, number = edited.number] {
            if (document_->site()->item(item->id) != item)
                return emit said(tr("The surface changed meanwhile; it was not built again."));
            document_->apply(title, [&](const site::Site& s) {
                const site::SitePtr next = site::replace_surface(s, item->id, *result);
                site::Decision own = decision;
                own.picture = *picture;
                return number == 0 ? next : site::enter_edit(*next, item->id, number, own);
            });
            show_odd(result->report);
            const QString text = told(result->report, result->cloud->size());
            state_->setText(text);
            emit said(text);
        },
        [this](const QString& why) {
            state_->setText(why.isEmpty() ? tr("Cancelled.") : why);
            emit said(state_->text());
        });
}

// The new surface knows what it was built from; limits and thinning are entries of its ledger.
site::SitePtr SurfaceCard::entered(const site::Site& s, std::uint64_t made, const site::SurfaceSource& source,
                                   const site::Edited& limited, double tolerance, const site::Item& of,
                                   const site::SetPtr& part,
                                   const std::shared_ptr<const site::Thumbnail>& picture) const {
    const site::Edited thinned =
        tolerance > 0 ? site::with_thinning(source, tolerance, of, part) : site::Edited();
    site::SitePtr next = site::set_source(
        s, made, thinned.source ? thinned.source : std::make_shared<const site::SurfaceSource>(source));
    const auto enter = [&](const site::Edited& change, const QString& reason) {
        site::Decision d;
        d.reason = reason.toStdString();
        d.cause = change.cause;
        d.picture = picture;
        if (change.number != 0) next = site::enter_edit(*next, made, change.number, d);
    };
    enter(thinned, tr("Thinning"));
    enter(limited, limits_reason());
    return next;
}

void SurfaceCard::build_new(const site::Edited& limited) {
    const auto source = std::make_shared<site::SurfaceSource>(*limited.source);
    const site::SitePtr s = document_->site();
    const site::ItemPtr item = s->active_item();
    const double tolerance = thin_->in_data();
    const site::SetPtr selected = s->of_removed ? nullptr : s->selection_in_work();
    struct Result {
        std::shared_ptr<const cloud::PointCloud> cloud;
        QString text;
        surface::BuildReport report;
        std::shared_ptr<const site::Thumbnail> picture;
    };
    const auto result = std::make_shared<Result>();
    const Document::PictureOf draw = document_->picture_of();
    const site::SetPtr part =
        selected && !selected->empty() ? selected : std::make_shared<const ElementSet>(site::eligible(*item));
    jobs_->start(
        tr("Building a surface"),
        [=](Progress& p) {
            surface::Definition own = source->definition;
            own.points = surface::places_of(*item->cloud, *part);
            surface::Made made = surface::make(std::move(own), tolerance, p);
            source->definition = std::move(made.definition);
            const surface::Built& built = made.built;
            cloud::TriangleParts parts;
            parts.surface = true;
            result->cloud = cloud::with_reference(cloud::cloud_of_triangles(built.mesh, parts, p),
                                                  item->cloud->reference());
            result->text = told(built.report, built.mesh.triangles.size());
            result->report = built.report;
            if (result->cloud->size() <= kMostForPicture)
                result->picture = draw(result->cloud, ElementSet::all(result->cloud->size()));
        },
        [this, result, item, source, tolerance, part, limited] {
            const std::string name =
                tr("Surface of %1").arg(QString::fromStdString(item->name)).toStdString();
            document_->apply(
                tr("Build a surface of %1 triangles").arg(grouped(result->cloud->size())),
                [&](const site::Site& now) {
                    site::SitePtr next = site::set_visible(now, item->id, false);
                    next = site::add_cloud(*next, result->cloud, name, "built from " + item->name);
                    const std::uint64_t made = next->items.back()->id;
                    next = entered(*next, made, *source, limited, tolerance, *item, part, result->picture);
                    // A surface is of the survey of its points.
                    if (item->survey != 0) next = site::set_survey(*next, item->survey, {made});
                    return site::activate(*next, next->items.back()->id);
                });
            show_odd(result->report);
            state_->setText(result->text);
            emit said(result->text);
        },
        [this](const QString& why) { state_->setText(why.isEmpty() ? tr("Cancelled.") : why); });
}

}  // namespace pristine::app
