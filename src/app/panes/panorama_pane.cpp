#include "app/panes/panorama_pane.h"

#include <QComboBox>
#include <QHBoxLayout>
#include <QKeyEvent>
#include <QLabel>
#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>
#include <QScrollArea>
#include <QToolButton>
#include <QVBoxLayout>
#include <algorithm>
#include <cmath>
#include <utility>

#include "app/look/theme.h"
#include "app/model/jobs.h"
#include "core/cloud/stations.h"
#include "render/scene.h"

namespace pristine::app {
namespace {

constexpr int kWidth = 1440;

PixelPoint pixel(QPointF p) {
    return {p.x(), p.y()};
}

}  // namespace

PanoramaView::PanoramaView(QWidget* parent) : QWidget(parent) {
    setObjectName(QStringLiteral("panoramaView"));
    setAccessibleName(tr("Panorama: fences drawn here select what the scanner saw"));
    setFocusPolicy(Qt::StrongFocus);
    setMouseTracking(true);
    setCursor(Qt::CrossCursor);
}

ViewFrame PanoramaView::flat() {
    ViewFrame f;
    f.eye = {0, 0, 0};
    f.right = {1, 0, 0};
    f.down = {0, 1, 0};
    f.ahead = {0, 0, 1};
    f.near_depth = -1;
    return f;
}

void PanoramaView::set_picture(const QImage& image) {
    picture_ = image;
    setFixedSize(image.size());
    update();
}

void PanoramaView::set_tool(Tool* tool) {
    tool_ = tool;
    update();
}

void PanoramaView::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.drawImage(0, 0, picture_);
    if (!tool_ || !tool_->begun()) return;
    const Polygon outline = tool_->outline(flat());
    if (outline.empty()) return;
    QPainterPath path(QPointF(outline[0].x, outline[0].y));
    for (const PixelPoint& c : outline) path.lineTo(c.x, c.y);
    path.closeSubpath();
    p.setRenderHint(QPainter::Antialiasing);
    p.setPen(QPen(QColor(0, 0, 0, 130), 3));
    p.drawPath(path);
    p.setPen(QPen(Qt::white, 1.4, Qt::DashLine));
    p.drawPath(path);
}

void PanoramaView::after_tool() {
    if (const auto fence = tool_->take_fence()) emit fence_closed(fence->corners, modifiers_);
    update();
}

void PanoramaView::mousePressEvent(QMouseEvent* e) {
    setFocus();
    if (e->button() != Qt::LeftButton || !tool_) return;
    if (!tool_->begun()) modifiers_ = e->modifiers();
    tool_->press(pixel(e->position()), flat(), [](PixelPoint q) { return Vec3{q.x, q.y, 0}; });
    after_tool();
}

void PanoramaView::mouseMoveEvent(QMouseEvent* e) {
    if (!tool_) return;
    tool_->move(pixel(e->position()), flat());
    if (tool_->begun()) update();
}

void PanoramaView::mouseReleaseEvent(QMouseEvent* e) {
    if (e->button() != Qt::LeftButton || !tool_) return;
    tool_->release(pixel(e->position()), flat());
    after_tool();
}

void PanoramaView::mouseDoubleClickEvent(QMouseEvent* e) {
    if (!tool_) return;
    tool_->double_click(pixel(e->position()), flat());
    after_tool();
}

void PanoramaView::keyPressEvent(QKeyEvent* e) {
    if (!tool_ || !tool_->begun()) return QWidget::keyPressEvent(e);
    if (e->key() == Qt::Key_Return || e->key() == Qt::Key_Enter)
        tool_->key(ToolKey::Finish, flat());
    else if (e->key() == Qt::Key_Backspace)
        tool_->key(ToolKey::Back, flat());
    else if (e->key() == Qt::Key_Escape)
        tool_->key(ToolKey::Cancel, flat());
    else
        return QWidget::keyPressEvent(e);
    after_tool();
}

PanoramaPane::PanoramaPane(Jobs* jobs, QWidget* parent) : QWidget(parent), latest_(jobs) {
    setObjectName(QStringLiteral("panoramaPane"));
    setAttribute(Qt::WA_StyledBackground);
    auto* rows = new QVBoxLayout(this);
    rows->setContentsMargins(0, 0, 0, 0);
    rows->setSpacing(0);
    auto* head = new QHBoxLayout;
    head->setContentsMargins(10, 3, 6, 3);
    head->addWidget(new QLabel(tr("Panorama from"), this));
    const auto combo = [&](const char* name, const QString& what) {
        auto* c = new QComboBox(this);
        c->setObjectName(QString::fromLatin1(name));
        c->setAccessibleName(what);
        head->addSpacing(6);
        head->addWidget(c);
        return c;
    };
    station_ = combo("panoramaStation", tr("Station to look from"));
    head->addStretch(1);
    head->addWidget(new QLabel(tr("Shows"), this));
    mode_ = combo("panoramaMode", tr("What the panorama shows"));
    mode_->addItems({tr("colour"), tr("intensity"), tr("range")});
    auto* close = new QToolButton(this);
    close->setObjectName(QStringLiteral("panoramaClose"));
    close->setText(tr("Close"));
    close->setAccessibleName(tr("Closes the panorama"));
    close->setFocusPolicy(Qt::TabFocus);
    head->addWidget(close);
    rows->addLayout(head);
    scroll_ = new QScrollArea(this);
    scroll_->setFrameShape(QFrame::NoFrame);
    scroll_->setFocusPolicy(Qt::NoFocus);
    view_ = new PanoramaView(scroll_);
    scroll_->setWidget(view_);
    rows->addWidget(scroll_, 1);
    connect(close, &QToolButton::clicked, this, [this] { close_pane(); });
    connect(station_, &QComboBox::activated, this, [this] { draw(); });
    connect(mode_, &QComboBox::activated, this, [this] { colour(); });
    hide();
}

void PanoramaPane::open(const site::SitePtr& site, Vec3 here, double ahead_deg, std::size_t station) {
    ahead_deg_ = ahead_deg;
    centred_ = false;
    site_ = site;
    here_ = here;
    open_ = true;
    station_->clear();
    for (const cloud::Station& s : site->active_item()->cloud->stations())
        station_->addItem(QString::fromStdString(s.name));
    if (station_->count() == 0) station_->addItem(tr("where you stand"));
    station_->setCurrentIndex(std::min(static_cast<int>(station), station_->count() - 1));
    show();
    draw();
}

void PanoramaPane::close_pane() {
    open_ = false;
    latest_.drop();
    seen_ = nullptr;
    hide();
}

void PanoramaPane::refresh(const site::SitePtr& site) {
    const bool other = !site_ || site->active != site_->active;
    site_ = site;
    if (!open_) return;
    const site::ItemPtr item = site->active_item();
    if (!item || other) return close_pane();
    if (item->absent != drawn_absent_ || item->cloud.get() != drawn_cloud_)
        draw();
    else
        colour();
}

void PanoramaPane::draw() {
    const site::ItemPtr item = site_->active_item();
    if (!item) return;
    drawn_absent_ = item->absent;
    drawn_cloud_ = item->cloud.get();
    const auto& stations = item->cloud->stations();
    const auto k = static_cast<std::size_t>(std::max(0, station_->currentIndex()));
    const Vec3 station = k < stations.size() ? stations[k].position : here_;
    const bool several = stations.size() > 1 && cloud::knows_stations(*item->cloud);
    struct Result {
        select::PanoramaFrame frame;
        select::RangePicture seen;
    };
    seen_ = nullptr;
    latest_.start<Result>(
        tr("Drawing the panorama"),
        [=, ahead = ahead_deg_](Progress& p, Result& result) {
            ElementSet shown = ~*item->absent;
            if (several) shown = cloud::of_station(*item->cloud, shown, k, p);
            result.frame = select::panorama_for(*item->cloud, shown, station, kWidth);
            result.frame.left_deg = ahead - 180;
            result.seen = select::draw_panorama(*item->cloud, shown, result.frame, p);
        },
        [this](Result& result) {
            frame_ = result.frame;
            seen_ = std::make_shared<const select::RangePicture>(std::move(result.seen));
            colour();
        });
}

void PanoramaPane::colour() {
    const site::ItemPtr item = site_->active_item();
    if (!seen_ || !item) return;
    const cloud::PointCloud& c = *item->cloud;
    QImage image(frame_.width, frame_.height, QImage::Format_RGB32);
    const auto [i_lo, i_hi] = c.intensity_span();
    const site::SetPtr selected = site_->of_removed ? nullptr : site_->selection_of(item->id);
    const int mode = mode_->currentIndex();
    // Small gaps between points take the colour of the nearest neighbour to the left or above.
    for (int y = 0; y < frame_.height; ++y) {
        auto* row = reinterpret_cast<QRgb*>(image.scanLine(y));
        for (int x = 0; x < frame_.width; ++x) {
            std::size_t at = static_cast<std::size_t>(y) * static_cast<std::size_t>(frame_.width) +
                             static_cast<std::size_t>(x);
            for (const std::size_t back : {std::size_t{1}, static_cast<std::size_t>(frame_.width),
                                           static_cast<std::size_t>(frame_.width) + 1}) {
                if (std::isfinite(seen_->range[at])) break;
                if (at >= back && std::isfinite(seen_->range[at - back])) at -= back;
            }
            const double range = static_cast<double>(seen_->range[at]);
            render::Rgb rgb = 0x12171E;
            if (std::isfinite(range)) {
                const std::uint64_t e = seen_->element[at];
                if (mode == 0 && c.colour())
                    rgb = (*c.colour())[e];
                else if (mode <= 1 && c.intensity())
                    rgb = 0x010101u *
                          static_cast<render::Rgb>(std::clamp(
                              ((*c.intensity())[e] - i_lo) / std::max(1e-9, i_hi - i_lo) * 255, 0.0, 255.0));
                else
                    rgb = render::height_colour(
                        static_cast<int>(255 - std::clamp(std::log2(1 + range) * 40, 0.0, 255.0)));
                if (selected && selected->contains(e)) rgb = render::mix(rgb, 0xB86BFF, 0.72);
            }
            row[x] = 0xFF000000u | rgb;
        }
    }
    view_->set_picture(image);
    if (std::exchange(centred_, true)) return;
    scroll_->ensureVisible(image.width() / 2, static_cast<int>(frame_.top_deg * frame_.pixels_per_deg),
                           scroll_->width() / 2, scroll_->height() / 2);
}

}  // namespace pristine::app
