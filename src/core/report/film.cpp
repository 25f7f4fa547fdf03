#include "core/report/film.h"

#include <fmt/format.h>
#include <webp/encode.h>
#include <webp/mux.h>

#include <cmath>
#include <memory>

#include "core/base/output.h"
#include "core/base/units.h"
#include "core/io/ending.h"
#include "core/report/figures/view.h"
#include "core/report/paint.h"
#include "core/report/parts/context.h"
#include "core/report/parts/plans.h"

namespace pristine::report {
namespace {

std::vector<site::ItemPtr> shown_items(const site::Site& s) {
    std::vector<site::ItemPtr> out;
    for (const site::ItemPtr& i : s.items)
        if (i->visible) out.push_back(i);
    if (out.empty()) throw Error(ErrorCode::Empty, "Nothing is shown");
    return out;
}

// What was there before any decision: nothing is out, and nothing was made.
Seen seen_before(const site::Item& i) {
    Seen s = seen(i);
    ElementSet out = i.made();
    if (i.scope) out = out | ~*i.scope;
    s.hidden = std::make_shared<const ElementSet>(std::move(out));
    s.decided = nullptr;
    return s;
}

Shot shot_of(const Material& m, const StillLook& look, const Box3& box) {
    Shot shot;
    for (const site::ItemPtr& i : shown_items(*m.site))
        shot.things.push_back(look.before ? seen_before(*i) : seen(*i));
    shot.box = box;
    shot.plan = look.plan;
    shot.yaw_deg = look.yaw_deg;
    shot.pitch_deg = look.pitch_deg;
    shot.width = look.width;
    shot.height = look.height;
    return shot;
}

// A plan shows its box exactly: made as wide or as high as the picture needs.
Box3 filling(Box3 box, const StillLook& look) {
    const double wide = box.hi.x - box.lo.x, high = box.hi.y - box.lo.y,
                 aspect = static_cast<double>(look.width) / look.height;
    const Vec3 middle = box.centre();
    const double half = std::max(wide, high * aspect) / 2 * 1.04;
    box.lo.x = middle.x - half, box.hi.x = middle.x + half;
    box.lo.y = middle.y - half / aspect, box.hi.y = middle.y + half / aspect;
    return box;
}

Image drawn(const Material& m, const StillLook& look, const Box3& box) {
    if (!m.draw) throw Error(ErrorCode::Usage, "Pictures were not asked for");
    if (look.width < 16 || look.height < 16 || std::int64_t{look.width} * look.height > 200'000'000)
        throw Error(ErrorCode::Usage,
                    fmt::format("A picture of {} x {} pixels cannot be made", look.width, look.height), {},
                    "Take between 16 x 16 and 200 million pixels.");
    const Shot shot = shot_of(m, look, look.plan ? filling(box, look) : box);
    if (!look.legend) {
        Image image = m.draw(shot);
        if (!look.clear)
            for (std::uint32_t& p : image.argb)
                if (p >> 24 == 0) p = 0xff000000u | kPaper;
        return image;
    }
    // As on paper, at so many pixels to the inch that words can be read.
    constexpr double kDpi = 150;
    const site::Item& first = *shown_items(*m.site).front();
    const Shown shown(*m.site, first.cloud->reference());
    ViewLook on_paper{look.width / kDpi * 25.4, look.height / kDpi * 25.4, {}, shown.factor(), shown.unit()};
    on_paper.framed = false;
    Drawing d = view(shot, on_paper, m.draw, kDpi);
    const std::string words = m.site->name + (look.before ? ", before" : "") + ". " +
                              (look.plan ? "From above" : told_view(look.yaw_deg, look.pitch_deg)) + ".";
    Text t;
    t.at = {3, 6};
    t.runs = {{words, false}};
    t.size = 8;
    t.haloed = true;
    d.shapes.emplace_back(std::move(t));
    Image image = image_of(d, kDpi, look.clear);
    return image;
}

// Frames into one file, each compressed as it comes.
class WebP {
  public:
    WebP(int width, int height, int frame_ms) : frame_ms_(frame_ms) {
        WebPAnimEncoderOptions options;
        if (!WebPAnimEncoderOptionsInit(&options) || !WebPConfigInit(&config_))
            throw Error(ErrorCode::Unsupported, "This machine cannot write WebP");
        config_.quality = 80;
        config_.method = 2;  // fast
        encoder_.reset(WebPAnimEncoderNew(width, height, &options));
        if (!encoder_) throw std::bad_alloc();
    }
    void add(const Image& image) {
        WebPPicture picture;
        if (!WebPPictureInit(&picture)) throw Error(ErrorCode::Unsupported, "This machine cannot write WebP");
        picture.use_argb = 1;
        picture.width = image.width;
        picture.height = image.height;
        if (!WebPPictureAlloc(&picture)) throw std::bad_alloc();
        for (int y = 0; y < image.height; ++y)
            std::copy_n(image.argb.data() + static_cast<std::ptrdiff_t>(y) * image.width, image.width,
                        picture.argb + static_cast<std::ptrdiff_t>(y) * picture.argb_stride);
        const bool added = WebPAnimEncoderAdd(encoder_.get(), &picture, at_, &config_) != 0;
        WebPPictureFree(&picture);
        if (!added) fail();
        at_ += frame_ms_;
    }
    std::string bytes() {
        WebPData data;
        WebPDataInit(&data);
        const bool done = WebPAnimEncoderAdd(encoder_.get(), nullptr, at_, nullptr) &&
                          WebPAnimEncoderAssemble(encoder_.get(), &data);
        std::string out(reinterpret_cast<const char*>(data.bytes), data.size);
        WebPDataClear(&data);
        if (!done) fail();
        return out;
    }

  private:
    [[noreturn]] void fail() const {
        throw Error(ErrorCode::Io,
                    std::string("The film could not be made: ") + WebPAnimEncoderGetError(encoder_.get()));
    }
    struct Delete {
        void operator()(WebPAnimEncoder* e) const { WebPAnimEncoderDelete(e); }
    };
    std::unique_ptr<WebPAnimEncoder, Delete> encoder_;
    WebPConfig config_{};
    int frame_ms_, at_ = 0;
};

// Ahead along a line, at even steps of its length; the box moves with the place.
struct Flight {
    std::vector<Vec3> line;
    double length = 0;
    explicit Flight(const std::vector<Vec3>& l) : line(l) {
        for (std::size_t k = 1; k < line.size(); ++k) length += norm(line[k] - line[k - 1]);
        if (!(length > 0)) throw Error(ErrorCode::Usage, "The line of the flight has no length");
    }
    std::pair<Vec3, Vec3> at(double share) const {  // place, direction
        double left = share * length;
        for (std::size_t k = 1; k < line.size(); ++k) {
            const double step = norm(line[k] - line[k - 1]);
            if (left <= step && step > 0)
                return {line[k - 1] + (line[k] - line[k - 1]) * (left / step),
                        normalized(line[k] - line[k - 1])};
            left -= step;
        }
        return {line.back(), normalized(line.back() - line[line.size() - 2])};
    }
};

// A folder that is made if it is not there, and goes again while nothing was put into it.
class FreshFolder {
  public:
    explicit FreshFolder(const std::filesystem::path& path) : path_(path) {
        if (!path.empty()) made_ = std::filesystem::create_directories(path);
    }
    ~FreshFolder() {
        std::error_code ignored;
        if (made_ && std::filesystem::is_empty(path_, ignored)) std::filesystem::remove(path_, ignored);
    }
    FreshFolder(const FreshFolder&) = delete;
    FreshFolder& operator=(const FreshFolder&) = delete;

  private:
    std::filesystem::path path_;
    bool made_ = false;
};

}  // namespace

Image still(const Material& m, const StillLook& look) {
    const Box3 box = shown_box(shown_items(*m.site));
    if (box.empty()) throw Error(ErrorCode::Empty, "Everything is out of what is shown");
    return drawn(m, look, box);
}

Image before_and_after(const Material& m, const StillLook& look) {
    StillLook before = look, after = look;
    before.before = true;
    after.before = false;
    const Image a = still(m, before), b = still(m, after);
    constexpr int kGap = 8;
    Image out{a.width + kGap + b.width, a.height, {}};
    out.argb.assign(static_cast<std::size_t>(out.width) * static_cast<std::size_t>(out.height),
                    look.clear ? 0 : 0xff000000u | kPaper);
    for (int y = 0; y < a.height; ++y) {
        const auto to = out.argb.begin() + static_cast<std::ptrdiff_t>(y) * out.width;
        std::copy_n(a.argb.begin() + static_cast<std::ptrdiff_t>(y) * a.width, a.width, to);
        std::copy_n(b.argb.begin() + static_cast<std::ptrdiff_t>(y) * b.width, b.width, to + a.width + kGap);
    }
    return out;
}

void write_film(const Material& m, const FilmSpec& spec, const std::filesystem::path& path, bool replace,
                Progress& progress) {
    if (spec.frames < 2 || spec.frames > 10'000)
        throw Error(ErrorCode::Usage, "A film has 2 to 10,000 frames");
    const bool webp = io::ending_of(path) == ".webp";
    const Box3 box = shown_box(shown_items(*m.site));
    if (box.empty()) throw Error(ErrorCode::Empty, "Everything is out of what is shown");
    const auto flight = spec.along.empty() ? nullptr : std::make_unique<const Flight>(spec.along);
    const int frame_ms = std::max(10, static_cast<int>(1000 * spec.seconds / spec.frames));
    std::unique_ptr<WebP> film;
    std::unique_ptr<OutputFile> file;
    if (webp) file = std::make_unique<OutputFile>(path, replace);
    const FreshFolder made(webp ? std::filesystem::path() : path);
    OutputGroup together;
    for (int k = 0; k < spec.frames; ++k) {
        progress.advance(static_cast<double>(k) / spec.frames);
        StillLook look = spec.look;
        Box3 seen_box = box;
        if (flight) {
            const auto [place, ahead] = flight->at(static_cast<double>(k) / (spec.frames - 1));
            look.yaw_deg = std::atan2(ahead.x, ahead.y) * 180 / M_PI;
            const double reach = 0.12 * box.diagonal();
            seen_box = {};
            seen_box.add(place - Vec3{reach, reach, reach});
            seen_box.add(place + Vec3{reach, reach, reach});
        } else {
            look.yaw_deg += spec.turn_deg * k / spec.frames;
        }
        const Image frame = drawn(m, look, seen_box);
        if (webp) {
            if (!film) film = std::make_unique<WebP>(frame.width, frame.height, frame_ms);
            film->add(frame);
        } else {
            OutputFile out(path / fmt::format("frame-{:04}.png", k + 1), replace);
            out.write(png_of(frame));
            out.finish();
        }
    }
    if (webp) {
        file->write(film->bytes());
        file->finish();
    }
    together.commit();
}

}  // namespace pristine::report
