#include "app/cards/tunnel_card.h"

#include <QComboBox>
#include <QFormLayout>
#include <QLabel>
#include <QMouseEvent>
#include <QPainter>
#include <QPushButton>
#include <QTreeWidget>
#include <QVBoxLayout>
#include <algorithm>
#include <cmath>
#include <numbers>

#include "app/look/theme.h"
#include "app/model/document.h"
#include "app/model/jobs.h"

namespace pristine::app {
namespace {

constexpr QColor kLining(0xD8, 0xD2, 0xC4), kNothing(0xFF, 0xFD, 0xF9);
constexpr double kDeepest = 10;  // times the tolerance: drawn darkest

QColor between(const QColor& a, const QColor& b, double t) {
    const auto mix = [t](int u, int v) { return static_cast<int>(std::lround(u + t * (v - u))); };
    return {mix(a.red(), b.red()), mix(a.green(), b.green()), mix(a.blue(), b.blue())};
}

}  // namespace

UnrolledView::UnrolledView(QWidget* parent) : QWidget(parent) {
    setObjectName(QStringLiteral("tunnelUnrolled"));
    setAccessibleName(tr("The lining laid flat; click to fly there"));
    setToolTip(
        tr("Chainage to the right, the crown in the middle, the floor at both rims. The darker, the "
           "deeper inside something lies; openings in red. Click to fly there."));
    setMinimumHeight(150);
}

void UnrolledView::set(std::shared_ptr<const tunnel::Lining> lining, const std::vector<float>& deepest,
                       double tolerance) {
    lining_ = std::move(lining);
    const auto rows = static_cast<int>(lining_->rows()), columns = static_cast<int>(lining_->columns());
    picture_ = QImage(rows, columns, QImage::Format_RGB32);
    for (int r = 0; r < rows; ++r)
        for (int c = 0; c < columns; ++c) {
            const auto row = static_cast<std::size_t>(r), column = static_cast<std::size_t>(c);
            const auto d = static_cast<double>(deepest[row * lining_->columns() + column]);
            QColor colour = kLining;
            if (lining_->hole(row, column))
                colour = token::fault;
            else if (!std::isfinite(d))
                colour = kNothing;
            else if (d > tolerance)
                colour = between(kLining, token::pick,
                                 std::clamp(std::log(d / tolerance) / std::log(kDeepest), 0.25, 1.0));
            picture_.setPixelColor(r, c, colour);
        }
    update();
}

void UnrolledView::clear() {
    lining_ = nullptr;
    picture_ = {};
    update();
}

QRectF UnrolledView::frame() const {
    return QRectF(rect()).adjusted(1, 1, -1, -17);
}

QPoint UnrolledView::pixel_of(std::size_t row, std::size_t column) const {
    const QRectF f = frame();
    return QPointF(f.left() + (static_cast<double>(row) + 0.5) * f.width() / picture_.width(),
                   f.top() + (static_cast<double>(column) + 0.5) * f.height() / picture_.height())
        .toPoint();
}

void UnrolledView::paintEvent(QPaintEvent*) {
    QPainter p(this);
    const QRectF f = frame();
    if (!picture_.isNull()) p.drawImage(f, picture_);
    p.setPen(token::line);
    p.drawRect(f);
    if (!lining_) return;
    p.setPen(token::ink_soft);
    QFont small = font();
    small.setPointSizeF(small.pointSizeF() * 0.85);
    p.setFont(small);
    const QRectF below(f.left(), f.bottom() + 1, f.width(), 16);
    p.drawText(below, Qt::AlignLeft, tr("0"));
    p.drawText(below, Qt::AlignRight, tr("chainage %1").arg(lining_->axis().length(), 0, 'f', 1));
    p.drawText(f.adjusted(4, 0, 0, 0), Qt::AlignLeft | Qt::AlignVCenter, tr("crown"));
}

void UnrolledView::mousePressEvent(QMouseEvent* e) {
    const QRectF f = frame();
    if (!lining_ || !f.contains(e->position())) return;
    const double u = (e->position().x() - f.left()) / f.width(),
                 v = (e->position().y() - f.top()) / f.height();
    emit clicked(u * lining_->axis().length(), (2 * v - 1) * std::numbers::pi);
}

TunnelCard::TunnelCard(Document* document, Jobs* jobs, QWidget* parent)
    : SideCard(QStringLiteral("tunnel"), tr("Tunnel"), QStringLiteral("tunnel.md"), parent),
      document_(document),
      latest_(jobs) {
    add_settings();
    add_result();
    follow_settings();
}

void TunnelCard::add_settings() {
    auto* form = new QFormLayout;
    line_ = new QComboBox(this);
    line_->setObjectName(QStringLiteral("tunnelLine"));
    line_->setToolTip(tr("A line that runs inside the tunnel, from end to end"));
    form->addRow(tr("Along"), line_);
    const auto length = [&](const char* name, const QString& title, const QString& help, double value,
                            double least, double most) {
        auto* box = new LengthBox(value, least, most, this);
        box->setObjectName(QString::fromLatin1(name));
        box->setAccessibleName(title);
        box->setToolTip(help);
        box->setKeyboardTracking(false);
        form->addRow(title, box);
        return box;
    };
    lift_ = length("tunnelLift", tr("Lift"), tr("The line is raised by this first"), 0, -100, 100);
    spacing_ = length("tunnelSpacing", tr("Cells"), tr("Side of a cell on the lining"), 0.2, 0.02, 10);
    fitting_ = length("tunnelFitting", tr("Widest fitting"), tr("What is wider belongs to the lining"), 0.8,
                      0.01, 20);
    tolerance_ = length("tunnelTolerance", tr("Lining up to"), tr("What lies less far inside is lining"),
                        0.05, 0.001, 5);
    interval_ = length("tunnelInterval", tr("Report every"), tr("Volumes by chainage"), 10, 0.1, 1000);
    body()->addLayout(form);
}

// What was found, and what can be done with it.
void TunnelCard::add_result() {
    state_ = new QLabel(this);
    state_->setObjectName(QStringLiteral("tunnelState"));
    state_->setWordWrap(true);
    body()->addWidget(state_);
    unrolled_ = new UnrolledView(this);
    body()->addWidget(unrolled_);
    volumes_ = new QLabel(this);
    volumes_->setObjectName(QStringLiteral("tunnelVolume"));
    volumes_->setWordWrap(true);
    body()->addWidget(volumes_);
    design_told_ = new QLabel(this);
    design_told_->setObjectName(QStringLiteral("tunnelBreaks"));
    design_told_->setWordWrap(true);
    design_told_->hide();
    body()->addWidget(design_told_);
    openings_ = new QTreeWidget(this);
    openings_->setObjectName(QStringLiteral("tunnelOpenings"));
    openings_->setAccessibleName(tr("Openings; those that are ticked are closed over in the mesh"));
    openings_->setToolTip(openings_->accessibleName());
    openings_->setHeaderHidden(true);
    openings_->setRootIsDecorated(false);
    body()->addWidget(openings_, 1);
    const auto button = [&](const char* name, const QString& text) {
        auto* b = new QPushButton(text, this);
        b->setObjectName(QString::fromLatin1(name));
        return b;
    };
    design_ = button("tunnelDesign", tr("Hold against a design…"));
    design_->setToolTip(
        tr("A text with offset to the right of the line and height above it on each line: "
           "over- and underbreak by chainage"));
    body()->addWidget(design_);
    take_ = button("tunnelTake", tr("Select what is inside"));
    body()->addWidget(take_);
    auto* row = new QHBoxLayout;
    row->addWidget(mesh_ = button("tunnelMesh", tr("Lining as an item")));
    mesh_->setToolTip(
        tr("A mesh of the lining in the contents: openings that are ticked are closed over, "
           "ends are capped. It is measured, repaired and exported like any other"));
    row->addWidget(report_ = button("tunnelReport", tr("Save report…")));
    body()->addLayout(row);
}

void TunnelCard::follow_settings() {
    for (LengthBox* box : {lift_, spacing_, fitting_, tolerance_})
        connect(box, &QDoubleSpinBox::valueChanged, this, &TunnelCard::compute);
    connect(interval_, &QDoubleSpinBox::valueChanged, this, &TunnelCard::show_result);
    connect(line_, &QComboBox::activated, this, &TunnelCard::compute);
    connect(unrolled_, &UnrolledView::clicked, this, &TunnelCard::fly_to);
    connect(openings_, &QTreeWidget::itemClicked, this, [this](QTreeWidgetItem* i) {
        const auto holes = lining_ ? lining_->holes() : std::vector<tunnel::Hole>();
        const auto n = static_cast<std::size_t>(openings_->indexOfTopLevelItem(i));
        if (n < holes.size()) fly_to(holes[n].chainage, holes[n].angle_deg * std::numbers::pi / 180);
    });
    connect(take_, &QPushButton::clicked, this, &TunnelCard::chosen);
    connect(mesh_, &QPushButton::clicked, this, &TunnelCard::make_item);
    connect(design_, &QPushButton::clicked, this, &TunnelCard::choose_design);
    connect(report_, &QPushButton::clicked, this, &TunnelCard::save_report);
}

void TunnelCard::on_open() {
    fill_lines();
    compute();
}

void TunnelCard::on_close() {
    latest_.drop();
}

void TunnelCard::fill_lines() {
    const quint64 before = line_->currentData().toULongLong();
    line_->clear();
    for (const site::LinePtr& l : document_->site()->lines)
        line_->addItem(QString::fromStdString(l->name), static_cast<quint64>(l->id));
    if (const int at = line_->findData(before); at >= 0) line_->setCurrentIndex(at);
}

void TunnelCard::refresh() {
    if (!is_open()) return;
    if (static_cast<std::size_t>(line_->count()) != document_->site()->lines.size()) fill_lines();
    const site::ItemPtr item = document_->site()->active_item();
    if ((item ? item->cloud : nullptr) != cloud_) compute();
}

void TunnelCard::compute() {
    lining_ = nullptr;
    inside_ = nullptr;
    show_result();
    const site::ItemPtr item = document_->site()->active_item();
    const site::LinePtr line = document_->site()->line(line_->currentData().toULongLong());
    cloud_ = item ? item->cloud : nullptr;
    if (!item || !line) return state_->setText(tr("A scan and a line that runs inside it are needed."));
    const Lengths lengths(*document_->site());
    for (LengthBox* box : {lift_, spacing_, fitting_, tolerance_, interval_}) box->set_lengths(lengths);
    tunnel::Options options;
    options.metres_per_unit = lengths.data_metres();
    options.spacing = spacing_->in_data();
    options.lift = lift_->in_data();
    options.widest_fitting = fitting_->in_data() * options.metres_per_unit;
    const double tolerance = tolerance_->in_data();
    state_->setText(tr("Looking for the lining…"));
    struct Result {
        std::shared_ptr<const tunnel::Lining> lining;
        std::shared_ptr<const tunnel::Inside> inside;
    };
    latest_.start<Result>(
        tr("Unrolling the tunnel"),
        [=](Progress& p, Result& result) {
            const ElementSet eligible = site::eligible(*item);
            result.lining =
                std::make_shared<tunnel::Lining>(*item->cloud, eligible, line->points, options, p);
            result.inside = std::make_shared<tunnel::Inside>(
                tunnel::inside(*item->cloud, eligible, *result.lining, tolerance, p));
        },
        [this, tolerance](Result& result) {
            lining_ = result.lining;
            inside_ = result.inside;
            unrolled_->set(lining_, inside_->deepest, tolerance);
            show_result();
        },
        [this](const QString& why) { state_->setText(why.isEmpty() ? tr("Cancelled.") : why); });
}

double TunnelCard::interval() const {
    return interval_->in_data();
}

void TunnelCard::show_result() {
    for (QPushButton* b : {take_, mesh_, report_, design_}) b->setEnabled(lining_ != nullptr);
    breaks_.clear();
    design_told_->hide();
    openings_->clear();
    volumes_->clear();
    if (!lining_) return unrolled_->clear();
    const Lengths lengths(*document_->site());
    const double area = std::pow(lengths.shown(1), 2), volume = std::pow(lengths.shown(1), 3);
    const auto holes = lining_->holes();
    for (const tunnel::Hole& h : holes) {
        auto* row = new QTreeWidgetItem(
            openings_, {tr("At %1, %2°: %3%4")
                            .arg(lengths.text(h.chainage), QString::number(h.angle_deg, 'f', 0),
                                 shown_figure(h.area * area, 2), lengths.power(2))});
        row->setFlags(row->flags() | Qt::ItemIsUserCheckable);
        row->setCheckState(0, Qt::Checked);
    }
    state_->setText(tr("%1 points inside; %n opening(s).", "", static_cast<int>(holes.size()))
                        .arg(grouped(inside_->points.count())));
    double sum = 0;
    for (const auto& i : lining_->volumes(interval())) sum += i.volume;
    volumes_->setText(
        tr("The lining encloses %1%2 over %3, openings closed over.")
            .arg(shown_figure(sum * volume, 1), lengths.power(3), lengths.text(lining_->axis().length())));
    if (!profile_.corners.empty()) show_breaks(lengths);
}

void TunnelCard::set_design(tunnel::DesignProfile profile, const QString& name) {
    profile_ = std::move(profile);
    profile_name_ = name;
    show_result();
}

// Over- and underbreak, and where the largest is.
void TunnelCard::show_breaks(const Lengths& l) {
    design_told_->show();
    try {
        breaks_ = tunnel::against_design(*lining_, profile_, interval());
    } catch (const Error& e) {
        return design_told_->setText(QString::fromStdString(e.what()));
    }
    double over = 0, under = 0, measured = 0;
    const tunnel::BreakInterval *most_over = &breaks_.front(), *most_under = most_over;
    for (const tunnel::BreakInterval& i : breaks_) {
        over += i.over, under += i.under;
        measured += i.measured * (i.to - i.from) / lining_->axis().length();
        if (i.most_over > most_over->most_over) most_over = &i;
        if (i.most_under > most_under->most_under) most_under = &i;
    }
    const auto stretch = [&](const tunnel::BreakInterval& i) {
        return tr("%1 to %2").arg(l.number(i.from), l.text(i.to));
    };
    QString text = tr("Against %1: overbreak %2 (up to %3, from %4), underbreak %5 (up to %6, from %7).")
                       .arg(profile_name_, l.volume(over), l.text(most_over->most_over), stretch(*most_over),
                            l.volume(under), l.text(most_under->most_under), stretch(*most_under));
    if (measured < 0.999)
        text += QLatin1Char(' ') + tr("%1 % of it is closed over openings, where nothing was measured.")
                                       .arg(QString::number(100 * (1 - measured), 'f', 1));
    design_told_->setText(text);
}

site::SetPtr TunnelCard::inside() const {
    const site::ItemPtr item = document_->site()->active_item();
    if (!inside_ || !item || item->cloud != cloud_) return nullptr;
    return std::make_shared<const ElementSet>(inside_->points);
}

site::Cause TunnelCard::cause() const {
    site::Act act{.kind = site::Act::Kind::Lining};
    if (line_->currentIndex() >= 0) act.settings["line"] = line_->currentText().toStdString();
    return site::by(std::move(act));
}

mesh::TriMesh TunnelCard::mesh() const {
    std::vector<char> close;
    for (int i = 0; i < openings_->topLevelItemCount(); ++i)
        close.push_back(openings_->topLevelItem(i)->checkState(0) == Qt::Checked);
    return lining_->mesh(close, true);
}

QString TunnelCard::report() const {
    const Lengths lengths(*document_->site());
    const QString unit = lengths.known() ? lengths.suffix().trimmed() : tr("unit not set");
    QString csv = "from [" + unit + "],to [" + unit + "],volume [" + unit + "3],area [" + unit + "2]";
    if (!breaks_.empty())
        csv += ",overbreak [" + unit + "3],underbreak [" + unit + "3],largest over [" + unit +
               "],largest under [" + unit + "],measured [%]";
    csv += '\n';
    const double volume = std::pow(lengths.shown(1), 3);
    const auto all = lining_->volumes(interval());
    for (std::size_t k = 0; k < all.size(); ++k) {
        const auto& i = all[k];
        csv += QStringLiteral("%1,%2,%3,%4")
                   .arg(lengths.shown(i.from), 0, 'f', 3)
                   .arg(lengths.shown(i.to), 0, 'f', 3)
                   .arg(i.volume * volume, 0, 'f', 6)
                   .arg(i.area * std::pow(lengths.shown(1), 2), 0, 'f', 3);
        if (!breaks_.empty())
            csv += QStringLiteral(",%1,%2,%3,%4,%5")
                       .arg(breaks_[k].over * volume, 0, 'f', 3)
                       .arg(breaks_[k].under * volume, 0, 'f', 3)
                       .arg(lengths.shown(breaks_[k].most_over), 0, 'f', 3)
                       .arg(lengths.shown(breaks_[k].most_under), 0, 'f', 3)
                       .arg(100 * breaks_[k].measured, 0, 'f', 1);
        csv += '\n';
    }
    return csv;
}

void TunnelCard::fly_to(double chainage, double angle) {
    if (!lining_) return;
    const auto row = std::min(lining_->rows() - 1,
                              static_cast<std::size_t>(std::max(0.0, chainage / lining_->row_length())));
    const auto column = std::min(
        lining_->columns() - 1,
        static_cast<std::size_t>(std::max(0.0, (angle + std::numbers::pi) / lining_->column_angle())));
    double r = lining_->radius(row, column);
    if (!std::isfinite(r)) r = 0;
    const Vec3 at = lining_->axis().world(chainage, angle, r);
    const double half = 1 / Lengths(*document_->site()).data_metres();
    Box3 box;
    box.add(at - Vec3{half, half, half});
    box.add(at + Vec3{half, half, half});
    emit fly(box);
}

}  // namespace pristine::app
