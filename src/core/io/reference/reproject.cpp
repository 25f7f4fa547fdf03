#include "core/io/reference/reproject.h"

#include <mutex>
#include <vector>

#include "core/base/error.h"
#include "core/io/mapped_cloud.h"
#include "core/io/reference/system.h"

namespace pristine::io {
namespace {

// What makes one is slow beside using it, and only one thread may use one at a time.
class Ways {
  public:
    Ways(const cloud::Reference& from, std::string to) : from_(from), to_(std::move(to)) { give(take()); }
    void apply(std::vector<Vec3>& places) {
        auto way = take();
        way->apply(places);
        give(std::move(way));
    }

  private:
    std::unique_ptr<Reprojection> take() {
        {
            const std::lock_guard<std::mutex> guard(mutex_);
            if (!free_.empty()) {
                auto way = std::move(free_.back());
                free_.pop_back();
                return way;
            }
        }
        return std::make_unique<Reprojection>(from_.crs, from_.unit, from_.height_unit, to_);
    }
    void give(std::unique_ptr<Reprojection> way) {
        const std::lock_guard<std::mutex> guard(mutex_);
        free_.push_back(std::move(way));
    }
    cloud::Reference from_;
    std::string to_;
    std::mutex mutex_;
    std::vector<std::unique_ptr<Reprojection>> free_;
};

Error no_image(std::uint64_t count) {
    return Error(ErrorCode::Usage, std::to_string(count) + " points have no image in that reference system",
                 {}, "Choose one that covers the site.");
}

}  // namespace

std::shared_ptr<const cloud::PointCloud> reprojected(const std::shared_ptr<const cloud::PointCloud>& c,
                                                     const std::string& target, Progress& progress) {
    const System to = system_of(target);
    const cloud::Reference reference{target, to.unit, to.height_unit};
    const auto ways = std::make_shared<Ways>(c->reference(), target);
    const auto made = mapped(
        c, [ways](std::vector<Vec3>& places) { ways->apply(places); }, reference, progress);
    if (!made.cloud) throw no_image(made.without_image);
    return made.cloud;
}

std::string fitting_zone(const cloud::PointCloud& c) {
    const Box3 box = c.robust_bounds();
    if (box.empty()) return {};
    return zone_for((box.lo.x + box.hi.x) / 2, (box.lo.y + box.hi.y) / 2);
}

}  // namespace pristine::io
