#include "app/panes/panorama_pane.h"

#include <QComboBox>
#include <QHBoxLayout>
#include <QLabel>
#include <QScrollArea>
#include <QScrollBar>
#include <QToolButton>
#include <QVBoxLayout>
#include <algorithm>
#include <cmath>
#include <filesystem>
#include <numbers>
#include <utility>

#include "app/look/theme.h"
#include "app/model/jobs.h"
#include "core/base/parallel.h"
#include "core/cloud/stations.h"
#include "core/io/grid/picture.h"
#include "core/site/origin_file.h"
#include "render/scene.h"

namespace pristine::app {
namespace {

constexpr int kWidth = 1440;
constexpr int kLargestZoom = 4;

// How far gaps between points are closed, in pixels.
int closed_up(int zoom) {
    return std::min(2 * zoom, 6);
}

std::vector<select::PanoramaSource> sources_of(const auto& parts) {
    std::vector<select::PanoramaSource> sources;
    for (const auto& part : parts) sources.push_back({part.item->cloud.get(), &part.shown});
    return sources;
}

// Pixel whose point is drawn here: its own, or one beside it, so that small gaps are closed. `reach` pixels
// are looked at to the left and above, nearest first.
std::size_t drawn_at(const select::RangePicture& seen, int width, int x, int y, int reach) {
    const auto at = [&](int px, int py) {
        return static_cast<std::size_t>(py) * static_cast<std::size_t>(width) + static_cast<std::size_t>(px);
    };
    for (int r = 0; r <= reach; ++r)
        for (int dy = 0; dy <= r; ++dy)
            for (int dx = 0; dx <= r; ++dx)
                if (std::max(dx, dy) == r && x >= dx && y >= dy &&
                    std::isfinite(seen.range[at(x - dx, y - dy)]))
                    return at(x - dx, y - dy);
    return at(x, y);
}

render::Rgb colour_of(const cloud::PointCloud& c, std::uint64_t e, double range, int mode) {
    if (mode == 0 && c.colour()) return (*c.colour())[e];
    if (mode <= 1 && c.intensity()) {
        const auto [lo, hi] = c.intensity_span();
        const double grey =
            std::clamp(((*c.intensity())[e] - lo) / std::max(1e-9, hi - lo) * 255, 0.0, 255.0);
        return 0x010101u * static_cast<render::Rgb>(grey);
    }
    return render::height_colour(static_cast<int>(255 - std::clamp(std::log2(1 + range) * 40, 0.0, 255.0)));
}

// Calls row(y) for each row, on all processors.
void for_rows(int height, const std::function<void(int)>& row) {
    parallel::for_ranges(static_cast<std::size_t>(height), 16, [&](std::size_t begin, std::size_t end) {
        for (std::size_t y = begin; y < end; ++y) row(static_cast<int>(y));
    });
}

constexpr int kPictures = 3;  // among the modes

// The place of the world that a pixel shows; far off where nothing was measured.
Vec3 place_of(const select::PanoramaFrame& f, int x, int y, double range) {
    constexpr double kFar = 1e4, kRadians = std::numbers::pi / 180;
    const double azimuth = (f.left_deg + (x + 0.5) / f.pixels_per_deg) * kRadians;
    const double elevation = (f.top_deg - (y + 0.5) / f.pixels_per_deg) * kRadians;
    const double r = std::isfinite(range) ? range : kFar;
    return f.station + Vec3{std::sin(azimuth) * std::cos(elevation), std::cos(azimuth) * std::cos(elevation),
                            std::sin(elevation)} *
                           r;
}

// 0: no picture shows it.
std::uint32_t pictured(const std::vector<io::ScanPicture>& list,
                       const std::vector<std::shared_ptr<const Mipmap>>& pixels, const Vec3& place) {
    double most = -1;
    std::uint32_t best = 0;
    for (std::size_t k = 0; k < list.size(); ++k) {
        const auto at = pixels[k] ? io::pixel_of(list[k], place) : std::nullopt;
        if (!at) continue;
        const double worth = io::worth_of(list[k], *at);
        if (worth <= most) continue;
        most = worth;
        best = pixels[k]->colour(at->x * pixels[k]->width() / list[k].width,
                                 at->y * pixels[k]->height() / list[k].height, 1);
    }
    return best;
}

QImage base_picture(const select::RangePicture& seen, const select::PanoramaFrame& f, const auto& parts,
                    int mode, int reach, const auto* taken) {
    QImage image(f.width, f.height, QImage::Format_RGB32);
    uchar* const bits = image.bits();
    const auto stride = image.bytesPerLine();
    for_rows(f.height, [&](int y) {
        auto* row = reinterpret_cast<QRgb*>(bits + y * stride);
        for (int x = 0; x < f.width; ++x) {
            const std::size_t at = drawn_at(seen, f.width, x, y, reach);
            render::Rgb rgb = 0x12171E;
            const std::uint32_t shown = mode == kPictures && taken
                                            ? pictured(taken->list, taken->pixels,
                                                       place_of(f, x, y, static_cast<double>(seen.range[at])))
                                            : 0;
            if (shown >> 24 != 0)
                rgb = shown & 0xFFFFFFu;
            else if (std::isfinite(seen.range[at]))
                rgb = colour_of(*parts[seen.source[at]].item->cloud, seen.element[at],
                                static_cast<double>(seen.range[at]), mode == kPictures ? 0 : mode);
            row[x] = 0xFF000000u | rgb;
        }
    });
    return image;
}

}  // namespace

PanoramaPane::PanoramaPane(Jobs* jobs, QWidget* parent) : QWidget(parent), latest_(jobs), loading_(jobs) {
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
    head->addSpacing(10);
    of_ = new QLabel(this);
    of_->setObjectName(QStringLiteral("panoramaOf"));
    head->addWidget(of_, 1);
    head->addWidget(new QLabel(tr("Shows"), this));
    mode_ = combo("panoramaMode", tr("What the panorama shows"));
    mode_->addItems({tr("colour"), tr("intensity"), tr("range"), tr("pictures")});
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
    connect(mode_, &QComboBox::activated, this, [this] {
        paint_base();
        load_pictures();
    });
    connect(view_, &PanoramaView::zoom_wanted, this, &PanoramaPane::zoom);
    connect(view_, &PanoramaView::pulled, this, [this](QPoint by) {
        scroll_->horizontalScrollBar()->setValue(scroll_->horizontalScrollBar()->value() - by.x());
        scroll_->verticalScrollBar()->setValue(scroll_->verticalScrollBar()->value() - by.y());
    });
    hide();
}

void PanoramaPane::open(const site::SitePtr& site, bool all_shown, Vec3 here, double ahead_deg,
                        std::size_t station) {
    ahead_deg_ = ahead_deg;
    zoom_ = 1;
    keep_ = PixelPoint{ahead_deg, 0};
    site_ = site;
    all_shown_ = all_shown;
    here_ = here;
    open_ = true;
    list_stations(station);
    show();
    draw();
}

void PanoramaPane::close_pane() {
    open_ = false;
    latest_.drop();
    loading_.drop();
    taken_ = nullptr;
    seen_ = nullptr;
    parts_ = nullptr;
    aim_.clear();
    hide();
}

std::vector<site::ItemPtr> PanoramaPane::wanted() const {
    std::vector<site::ItemPtr> items;
    for (const site::ItemPtr& item : site_->items)
        if (item->id == site_->active || (all_shown_ && item->visible)) items.push_back(item);
    return items;
}

// Those of the item in work first; without any, where the eye is.
void PanoramaPane::list_stations(std::size_t chosen) {
    from_.clear();
    station_->clear();
    std::vector<site::ItemPtr> items = wanted();
    std::stable_partition(items.begin(), items.end(),
                          [&](const site::ItemPtr& i) { return i->id == site_->active; });
    for (const site::ItemPtr& item : items)
        for (std::size_t k = 0; k < item->cloud->stations().size(); ++k) {
            const cloud::Station& s = item->cloud->stations()[k];
            from_.push_back({item->id, k, s.position});
            station_->addItem(QString::fromStdString(s.name));
        }
    if (from_.empty()) {
        from_.push_back({0, 0, here_});
        station_->addItem(tr("where you stand"));
    }
    station_->setCurrentIndex(std::min(static_cast<int>(chosen), station_->count() - 1));
}

void PanoramaPane::refresh(const site::SitePtr& site, bool all_shown) {
    const bool other = !site_ || site->active != site_->active;
    const bool switched = std::exchange(all_shown_, all_shown) != all_shown;
    site_ = site;
    if (!open_) return;
    // With everything drawn it matters little which item is in work.
    if (!site->active_item() || (other && !all_shown)) return close_pane();
    const std::vector<site::ItemPtr> items = wanted();
    const auto alike = [&](auto same) {
        return std::equal(items.begin(), items.end(), aim_.begin(), aim_.end(), same);
    };
    if (switched || !alike([](const site::ItemPtr& a, const site::ItemPtr& b) {
            return a->id == b->id && a->cloud == b->cloud;
        })) {
        list_stations(static_cast<std::size_t>(std::max(0, station_->currentIndex())));
        return draw();
    }
    if (alike([](const site::ItemPtr& a, const site::ItemPtr& b) { return a->absent == b->absent; }))
        return tint();
    if (seen_)
        follow();
    else
        draw();
}

PanoramaPane::From PanoramaPane::looked_from() const {
    return from_[static_cast<std::size_t>(std::max(0, station_->currentIndex()))];
}

// All of it: from another station, in another size, of other items.
void PanoramaPane::draw() {
    const From from = looked_from();
    load_pictures();
    seen_ = nullptr;
    parts_ = nullptr;
    const std::vector<site::ItemPtr> items = aim_ = wanted();
    of_->setText(items.size() > 1 ? tr("of all %n items that are shown", "", static_cast<int>(items.size()))
                                  : tr("of the item in work"));
    latest_.start<Drawn>(
        tr("Drawing the panorama"),
        [=, taken = taken_, ahead = ahead_deg_, width = kWidth * zoom_, reach = closed_up(zoom_),
         mode = mode_->currentIndex()](Progress& p, Drawn& result) {
            auto parts = std::make_shared<std::vector<Part>>();
            for (const site::ItemPtr& item : items) {
                ElementSet shown = ~*item->absent;
                // Of the scan that the station is of only what it saw.
                if (item->id == from.item && item->cloud->stations().size() > 1 &&
                    cloud::knows_stations(*item->cloud))
                    shown = cloud::of_station(*item->cloud, shown, from.number, p);
                parts->push_back({item, std::move(shown)});
            }
            const auto sources = sources_of(*parts);
            result.frame = select::panorama_for(sources, from.position, width);
            result.frame.left_deg = ahead - 180;
            result.seen =
                std::make_shared<select::RangePicture>(select::draw_panorama(sources, result.frame, p));
            result.base = base_picture(*result.seen, result.frame, *parts, mode, reach, taken.get());
            result.parts = parts;
        },
        [this](Drawn& result) { take(result); });
    base_mode_ = mode_->currentIndex();
}

// The same frame after something went or came back: only what changed is looked at.
void PanoramaPane::follow() {
    behind_ = true;
    aim_ = wanted();
    const From from = looked_from();
    latest_.start<Drawn>(
        tr("Drawing the panorama"),
        [items = aim_, from, taken = taken_, before = parts_, seen = seen_, frame = frame_,
         reach = closed_up(zoom_), mode = mode_->currentIndex()](Progress& p, Drawn& result) {
            auto parts = std::make_shared<std::vector<Part>>();
            std::vector<const ElementSet*> was;
            for (std::size_t k = 0; k < items.size(); ++k) {
                const Part& old = (*before)[k];
                was.push_back(&old.shown);
                ElementSet shown = ~*items[k]->absent;
                if (items[k]->absent == old.item->absent)
                    shown = old.shown;
                else if (items[k]->id == from.item && items[k]->cloud->stations().size() > 1 &&
                         cloud::knows_stations(*items[k]->cloud))
                    shown = cloud::of_station(*items[k]->cloud, shown, from.number, p);
                parts->push_back({items[k], std::move(shown)});
            }
            result.frame = frame;
            result.seen = std::make_shared<select::RangePicture>(*seen);
            select::redraw_panorama(*result.seen, sources_of(*parts), was, frame, p);
            result.base = base_picture(*result.seen, frame, *parts, mode, reach, taken.get());
            result.parts = parts;
        },
        [this](Drawn& result) { take(result); }, {}, Jobs::Show::IfLong);
}

void PanoramaPane::take(Drawn& result) {
    behind_ = false;
    frame_ = result.frame;
    seen_ = result.seen;
    parts_ = result.parts;
    base_ = result.base;
    if (base_mode_ != mode_->currentIndex()) return paint_base();
    tint();
    if (keep_) keep_middle(keep_->x, keep_->y);
    keep_.reset();
}

void PanoramaPane::paint_base() {
    base_mode_ = mode_->currentIndex();
    if (!seen_) return;
    base_ = base_picture(*seen_, frame_, *parts_, base_mode_, closed_up(zoom_), taken_.get());
    tint();
}

// Those that the scanner took at the station looked from; they stay in the file that was opened.
void PanoramaPane::load_pictures() {
    const From from = looked_from();
    if (mode_->currentIndex() != kPictures || !site_) return;
    if (taken_ && taken_->item == from.item && taken_->number == from.number) return;
    taken_ = nullptr;
    const site::ItemPtr item = site_->item(from.item);
    if (!item) return emit said(tr("Only a station has pictures."));
    if (const std::string why = io::why_no_pictures(*item->cloud); !why.empty())
        return emit said(tr("%1.").arg(tr(why.c_str())));
    const std::filesystem::path file = site::origin_file(*item);
    loading_.start<Taken>(
        tr("Reading the pictures"),
        [=](Progress& p, Taken& result) {
            result.item = from.item;
            result.number = from.number;
            const auto all = io::read_e57_pictures(file, true, result.warnings, p);
            for (const io::ScanPicture* one : io::pictures_of(all, *item->cloud, from.number)) {
                p.check();
                result.list.push_back(*one);
                result.pixels.push_back(one->bytes ? io::decode_picture(*one->bytes, one->name) : nullptr);
                result.list.back().bytes = nullptr;
            }
        },
        [this](Taken& result) { show_pictures(result); },
        [this](const QString& why) {
            if (!why.isEmpty()) emit said(why);
        });
}

void PanoramaPane::show_pictures(Taken& result) {
    if (result.list.empty())
        emit said(result.warnings.empty() ? tr("The file has no pictures of this station.")
                                          : QString::fromStdString(result.warnings.front()));
    taken_ = std::make_shared<const Taken>(std::move(result));
    if (mode_->currentIndex() == kPictures) paint_base();
}

// The selection over the picture.
void PanoramaPane::tint() {
    if (!seen_) return;
    QImage image = base_;
    std::vector<site::SetPtr> selected;
    for (const Part& part : *parts_)
        selected.push_back(site_->of_removed ? nullptr : site_->selection_of(part.item->id));
    if (std::any_of(selected.begin(), selected.end(), [](const auto& s) { return s != nullptr; })) {
        uchar* const bits = image.bits();
        const auto stride = image.bytesPerLine();
        for_rows(frame_.height, [&](int y) {
            auto* row = reinterpret_cast<QRgb*>(bits + y * stride);
            for (int x = 0; x < frame_.width; ++x) {
                const std::size_t at = drawn_at(*seen_, frame_.width, x, y, closed_up(zoom_));
                if (!std::isfinite(seen_->range[at])) continue;
                const site::SetPtr& s = selected[seen_->source[at]];
                if (s && s->contains(seen_->element[at]))
                    row[x] = 0xFF000000u | render::mix(row[x] & 0xFFFFFFu, 0xB86BFF, 0.72);
            }
        });
    }
    view_->set_picture(image);
    lay_guides();
}

void PanoramaPane::set_guides(const std::vector<Guide>& guides) {
    guides_ = guides;
    if (open_ && seen_) lay_guides();
}

// A straight line is none here: it goes in short pieces, and ends at the edge of the picture to begin anew at
// the other.
void PanoramaPane::lay_guides() {
    constexpr double kPiece_px = 12;
    std::vector<Guide> laid;
    double range = 0;
    for (const Guide& g : guides_) {
        if (g.points.size() < 2) {
            laid.push_back(g);
            continue;
        }
        std::vector<Guide> pieces(1);
        for (std::size_t i = 1; i < g.points.size(); ++i) {
            const PixelPoint a = frame_.project(g.points[i - 1], range),
                             b = frame_.project(g.points[i], range);
            const int n = std::clamp(static_cast<int>(std::hypot(b.x - a.x, b.y - a.y) / kPiece_px), 1, 48);
            for (int k = i == 1 ? 0 : 1; k <= n; ++k) {
                const Vec3 p = g.points[i - 1] + (g.points[i] - g.points[i - 1]) * (k / double(n));
                std::vector<Vec3>& now = pieces.back().points;
                if (!now.empty() && std::fabs(frame_.project(now.back(), range).x -
                                              frame_.project(p, range).x) > frame_.width / 2.0)
                    pieces.emplace_back();
                pieces.back().points.push_back(p);
            }
        }
        for (Guide& piece : pieces) {
            piece.thick = g.thick;
            piece.colour = g.colour;
            laid.push_back(std::move(piece));
        }
        // The word stands at the middle of the line, its dots at its places.
        Guide dots{.points = {}, .colour = g.colour, .places = g.places};
        for (const Vec3& p : g.places ? g.points : std::vector<Vec3>{}) {
            dots.points = {p};
            laid.push_back(dots);
        }
        if (g.label.isEmpty()) continue;
        const std::size_t half = g.points.size() / 2;
        laid.push_back({.points = {(g.points[half - 1] + g.points[half]) * 0.5},
                        .label = g.label,
                        .colour = g.colour,
                        .level_label = g.level_label});
    }
    view_->set_guides(std::move(laid), [frame = frame_](const Vec3& w) -> std::optional<QPointF> {
        double away = 0;
        const PixelPoint p = frame.project(w, away);
        return away > 0 ? std::optional(QPointF(p.x, p.y)) : std::nullopt;
    });
}

void PanoramaPane::zoom(double notches, QPointF at) {
    if (!seen_ || view_->tool_begun()) return;  // its corners are pixels of this picture
    const int wanted = std::clamp(notches > 0 ? zoom_ * 2 : zoom_ / 2, 1, kLargestZoom);
    if (wanted == zoom_) return;
    const double factor = static_cast<double>(wanted) / zoom_;
    zoom_ = wanted;
    // What is under the pointer stays there: the middle moves by the rest.
    const QPointF middle = QPointF(scroll_->viewport()->rect().center()) - view_->pos();
    const QPointF centre = at + (middle - at) / factor;
    keep_ = PixelPoint{frame_.left_deg + centre.x() / frame_.pixels_per_deg,
                       frame_.top_deg - centre.y() / frame_.pixels_per_deg};
    draw();
}

void PanoramaPane::keep_middle(double azimuth_deg, double elevation_deg) {
    const double x = (azimuth_deg - frame_.left_deg) * frame_.pixels_per_deg;
    const double y = (frame_.top_deg - elevation_deg) * frame_.pixels_per_deg;
    const QRect shown = scroll_->viewport()->rect();
    scroll_->horizontalScrollBar()->setValue(static_cast<int>(x) - shown.width() / 2);
    scroll_->verticalScrollBar()->setValue(static_cast<int>(y) - shown.height() / 2);
}

std::optional<PanoramaPane::Seen> PanoramaPane::seen_at(PixelPoint p) const {
    constexpr int kBeside = 2;
    if (!seen_) return std::nullopt;
    const int px = static_cast<int>(std::floor(p.x)), py = static_cast<int>(std::floor(p.y));
    std::optional<Seen> found;
    int nearest = kBeside * kBeside * 2 + 1;
    for (int y = std::max(0, py - kBeside); y <= std::min(frame_.height - 1, py + kBeside); ++y)
        for (int x = std::max(0, px - kBeside); x <= std::min(frame_.width - 1, px + kBeside); ++x) {
            const std::size_t at = static_cast<std::size_t>(y) * static_cast<std::size_t>(frame_.width) +
                                   static_cast<std::size_t>(x);
            const int away = (x - px) * (x - px) + (y - py) * (y - py);
            if (!std::isfinite(seen_->range[at]) || away >= nearest) continue;
            nearest = away;
            found = Seen{(*parts_)[seen_->source[at]].item->id, seen_->element[at]};
        }
    return found;
}

}  // namespace pristine::app
