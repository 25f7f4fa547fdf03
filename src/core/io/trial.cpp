#include "core/io/trial.h"

#include <unistd.h>

#include <algorithm>
#include <cmath>
#include <exception>
#include <limits>
#include <set>
#include <thread>

#include "core/base/memory.h"
#include "core/base/units.h"
#include "core/io/keep.h"
#include "core/io/mesh/mesh_cloud.h"
#include "core/io/mesh/mesh_io.h"

namespace pristine::io {
namespace {

namespace fs = std::filesystem;

// Gone with everything in it.
class TrialFolder {
  public:
    TrialFolder() {
        std::string name = (scratch_folder() / "pristine-trial-XXXXXX").string();
        if (!::mkdtemp(name.data()))
            throw Error(ErrorCode::Io, "Could not make a folder for a trial", scratch_folder().string());
        path_ = name;
    }
    ~TrialFolder() {
        std::error_code ignored;
        fs::remove_all(path_, ignored);
    }
    TrialFolder(const TrialFolder&) = delete;
    TrialFolder& operator=(const TrialFolder&) = delete;
    const fs::path& path() const { return path_; }
    std::uint64_t bytes() const {
        std::uint64_t n = 0;
        for (const fs::directory_entry& e : fs::directory_iterator(path_)) n += e.file_size();
        return n;
    }

  private:
    fs::path path_;
};

// Places in the order of records, of points or of corners of triangles.
void add_places(const WriteItem& item, std::vector<Vec3>& out) {
    const cloud::PointCloud& c = *item.cloud;
    std::vector<std::pair<std::uint32_t, std::uint64_t>> by_record;
    for (std::size_t p = 0; p < c.page_count(); ++p) {
        const auto order = c.order()->page(p);
        for (std::size_t i = 0; i < order.size(); ++i)
            if (!item.keep || (*item.keep)[order[i]]) by_record.emplace_back(order[i], p * kPageSize + i);
        if (item.keep && by_record.size() >= item.keep->count()) break;
    }
    std::sort(by_record.begin(), by_record.end());
    const mesh::TriMesh* m = c.triangles().get();
    for (const auto& [record, element] : by_record)
        if (m)
            for (const std::uint32_t v : m->triangles[element]) out.push_back(m->vertices[v]);
        else
            out.push_back(c.position(element));
}

// The first elements of each cloud, in the order in which they lie together.
std::vector<WriteItem> sampled(const std::vector<WriteItem>& items, std::uint64_t most) {
    std::vector<WriteItem> out = items;
    for (WriteItem& item : out) {
        std::uint64_t left = std::max<std::uint64_t>(1, most / items.size());
        auto keep = std::make_shared<KeepBits>(item.cloud->records()->count(), false);
        for (std::size_t p = 0; p < item.cloud->page_count() && left > 0; ++p)
            for (const std::uint32_t record : item.cloud->order()->page(p)) {
                if (left == 0) break;
                const bool all = !item.keep || item.dropped != Dropped::LeftOut;
                if (!all && !(*item.keep)[record]) continue;
                keep->keep(record);
                --left;
            }
        item.keep = std::move(keep);
        item.dropped = Dropped::LeftOut;
    }
    return out;
}

std::uint64_t elements_of(const std::vector<WriteItem>& items, Progress& progress) {
    std::uint64_t n = 0;
    for (const WriteItem& item : items) {
        const bool all = !item.keep || item.dropped != Dropped::LeftOut;
        n += all ? item.cloud->size() : keep_points(item, progress)->count();
    }
    return n;
}

std::set<std::string> columns_of(const cloud::RecordLayout& l) {
    std::set<std::string> out;
    for (const cloud::Field& f : l.fields)
        if (!f.words) out.insert(f.name);
    return out;
}

// Those that have a value other than zero in a record that is kept.
std::set<std::string> columns_with_values(const WriteItem& item, Progress& progress) {
    const cloud::RecordLayout l = layout_of(item);
    std::set<std::string> out;
    for_kept_records(item, progress, 0, 1, [&](const std::byte* records, std::size_t n) {
        for (const cloud::Field& f : l.fields) {
            if (f.words || out.contains(f.name)) continue;
            for (std::size_t i = 0; i < n; ++i)
                if (value(f, records + i * l.record_bytes) != 0) {
                    out.insert(f.name);
                    break;
                }
        }
    });
    return out;
}

double largest_move(const std::vector<Vec3>& was, const std::vector<Vec3>& now, double plan, double up) {
    if (was.size() != now.size()) return std::numeric_limits<double>::quiet_NaN();
    double most = 0;
    for (std::size_t i = 0; i < was.size(); ++i)
        most = std::max({most, std::fabs(now[i].x * plan - was[i].x), std::fabs(now[i].y * plan - was[i].y),
                         std::fabs(now[i].z * up - was[i].z)});
    return most;
}

const std::string& height_unit_of(const cloud::PointCloud& c) {
    return c.height_unit().empty() ? c.unit() : c.height_unit();
}

// What the file of the trial holds, against what went in.
void compare(const std::vector<WriteItem>& items, const fs::path& file, Trial& t, Progress& progress) {
    std::vector<Vec3> was, now;
    std::set<std::string> before, after;
    for (const WriteItem& item : items) {
        add_places(item, was);
        before.merge(columns_of(layout_of(item)));
    }
    const cloud::PointCloud& source = *items.front().cloud;
    const bool triangles = source.triangles() != nullptr;
    std::string unit, height_unit;
    const auto take = [&](const std::shared_ptr<const cloud::PointCloud>& c) {
        add_places({c}, now);
        after.merge(columns_of(c->records()->layout()));
        unit = c->unit();
        height_unit = height_unit_of(*c);
    };
    if (triangles) {
        for (const MeshFile& m : read_meshes(file, progress)) {
            t.format = m.format;
            for (const auto& corners : m.mesh.triangles)
                for (const std::uint32_t v : corners) now.push_back(m.mesh.vertices[v]);
            unit = m.unit;
            height_unit = m.height_unit.empty() ? m.unit : m.height_unit;
        }
    } else {
        for (const ReadResult& r : read_items(file, {}, progress)) {
            t.format = r.format;
            take(r.cloud);
        }
        std::set<std::string> used;
        for (const WriteItem& item : items) used.merge(columns_with_values(item, progress));
        for (const std::string& c : before)
            if (!after.contains(c)) (used.contains(c) ? t.columns : t.empty_columns).push_back(c);
    }
    const bool both = is_length(unit) && is_length(source.unit());
    const double plan = both ? length_unit(unit).metres / length_unit(source.unit()).metres : 1,
                 up = both ? length_unit(height_unit).metres / length_unit(height_unit_of(source)).metres : 1;
    if (both && unit != source.unit()) t.unit = unit;
    t.moved = largest_move(was, now, plan, up);
}

Trial tried(const std::vector<WriteItem>& items, const fs::path& path, const WriteOptions& options,
            Progress& progress, std::uint64_t most) {
    Trial t;
    t.elements = elements_of(items, progress);
    t.lost = lost_in(items, path, options);
    if (t.elements == 0) throw Error(ErrorCode::Usage, "There is nothing to write");
    const TrialFolder one, many;
    WriteOptions how = options;
    how.replace = true;
    const std::vector<WriteItem> first = sampled(items, 1), sample = sampled(items, most);
    write_cloud(first, one.path() / path.filename(), how, progress);
    write_cloud(sample, many.path() / path.filename(), how, progress);
    std::uint64_t in_one = 0, in_many = 0;
    for (const WriteItem& item : first) in_one += item.keep->count();
    for (const WriteItem& item : sample) in_many += item.keep->count();
    const auto least = static_cast<double>(one.bytes()), more = static_cast<double>(many.bytes());
    t.bytes =
        in_many == in_one
            ? many.bytes()
            : static_cast<std::uint64_t>(std::llround(
                  least + (more - least) * (static_cast<double>(t.elements) - static_cast<double>(in_one)) /
                              static_cast<double>(in_many - in_one)));
    for (const fs::directory_entry& e : fs::directory_iterator(many.path()))
        if (e.path().filename() != path.filename()) t.beside.push_back(e.path().filename().string());
    std::sort(t.beside.begin(), t.beside.end());
    compare(sample, many.path() / path.filename(), t, progress);
    return t;
}

}  // namespace

Trial try_write(const std::vector<WriteItem>& items, const fs::path& path, const WriteOptions& options,
                Progress& progress, std::uint64_t most) {
    if (items.empty()) throw Error(ErrorCode::Usage, "There is nothing to write");
    // Files of a thread may wait for its group (base/output.h); those of a trial must not.
    Trial t;
    std::exception_ptr failed;
    std::thread([&] {
        try {
            t = tried(items, path, options, progress, most);
        } catch (...) {
            failed = std::current_exception();
        }
    }).join();
    if (failed) std::rethrow_exception(failed);
    return t;
}

}  // namespace pristine::io
