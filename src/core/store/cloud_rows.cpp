#include "core/store/cloud_rows.h"

#include <algorithm>
#include <cstring>
#include <nlohmann/json.hpp>

#include "core/base/bytes.h"
#include "core/base/compress.h"
#include "core/base/error.h"
#include "core/base/memory.h"
#include "core/base/parallel.h"
#include "core/cloud/curve.h"
#include "core/cloud/grown.h"
#include "core/cloud/page_sink.h"
#include "core/cloud/triangle_records.h"
#include "core/cloud/triangles.h"
#include "core/io/mesh/images.h"

namespace pristine::store {
namespace {

using cloud::PointCloud;
using cloud::PositionPage;
using nlohmann::json;

// Columns are stored in curve order: before the shuffle neighbours follow each other, so that differences are
// small.
template <class T>
std::vector<T> unshuffled(std::span<const T> page) {
    std::vector<T> out(page.size());
    for (std::size_t b = 0; b < page.size(); b += kBlockSize) {
        const std::size_t n = std::min(kBlockSize, page.size() - b);
        const auto& shuffle = cloud::block_shuffle(n);
        for (std::size_t i = 0; i < n; ++i) out[b + shuffle[i]] = page[b + i];
    }
    return out;
}

template <class T>
std::vector<T> shuffled(const std::vector<T>& curve) {
    std::vector<T> out(curve.size());
    for (std::size_t b = 0; b < curve.size(); b += kBlockSize) {
        const std::size_t n = std::min(kBlockSize, curve.size() - b);
        const auto& shuffle = cloud::block_shuffle(n);
        for (std::size_t i = 0; i < n; ++i) out[b + i] = curve[b + shuffle[i]];
    }
    return out;
}

void append_part(std::string& out, const std::string& part) {
    append_le(out, static_cast<std::uint32_t>(part.size()));
    out += part;
}

class PartReader {
  public:
    explicit PartReader(std::string_view bytes) : bytes_(bytes) {}
    std::string_view next() {
        if (bytes_.size() - at_ < 4) throw damaged();
        const auto n = load_le<std::uint32_t>(bytes_.data() + at_);
        at_ += 4;
        if (bytes_.size() - at_ < n) throw damaged();
        at_ += n;
        return bytes_.substr(at_ - n, n);
    }

  private:
    static Error damaged() { return Error(ErrorCode::Format, "A page in the project file is damaged"); }
    std::string_view bytes_;
    std::size_t at_ = 0;
};

std::string pack_axis(std::span<const std::int32_t> axis) {
    const std::vector<std::int32_t> curve = unshuffled(axis);
    return pack_deltas({reinterpret_cast<const std::uint32_t*>(curve.data()), curve.size()});
}

std::vector<std::int32_t> unpack_axis(std::string_view packed, std::size_t n) {
    const std::vector<std::uint32_t> raw = unpack_deltas(packed, n);
    std::vector<std::int32_t> curve(n);
    std::memcpy(curve.data(), raw.data(), n * 4);
    return shuffled(curve);
}

template <class T>
std::string pack_column(std::span<const T> page) {
    const std::vector<T> curve = unshuffled(page);
    return pack(
        to_planes({reinterpret_cast<const char*>(curve.data()), curve.size() * sizeof(T)}, sizeof(T)));
}

template <class T>
std::vector<T> unpack_column(std::string_view packed, std::size_t n) {
    const std::string raw = from_planes(unpack(packed, n * sizeof(T)), sizeof(T));
    if (raw.size() != n * sizeof(T)) throw Error(ErrorCode::Format, "A page in the project file is damaged");
    std::vector<T> curve(n);
    std::memcpy(curve.data(), raw.data(), raw.size());
    return shuffled(curve);
}

std::string pack_page(const PointCloud& c, std::size_t p) {
    std::string out;
    const PositionPage pos = c.positions(p);
    append_part(out, pack_axis(pos.x));
    append_part(out, pack_axis(pos.y));
    append_part(out, pack_axis(pos.z));
    if (c.intensity()) append_part(out, pack_column(c.intensity()->page(p)));
    if (c.colour()) append_part(out, pack_column(c.colour()->page(p)));
    if (c.classification()) append_part(out, pack_column(c.classification()->page(p)));
    return out;
}

cloud::PageColumns unpack_page(const std::string& data, std::size_t n, const cloud::ColumnSet& set) {
    PartReader part(data);
    cloud::PageColumns c;
    c.x = unpack_axis(part.next(), n);
    c.y = unpack_axis(part.next(), n);
    c.z = unpack_axis(part.next(), n);
    if (set.intensity) c.intensity = unpack_column<std::uint16_t>(part.next(), n);
    if (set.colour) c.colour = unpack_column<std::uint32_t>(part.next(), n);
    if (set.classification) c.classification = unpack_column<std::uint8_t>(part.next(), n);
    return c;
}

json layout_json(const cloud::RecordLayout& l) {
    json fields = json::array();
    for (const cloud::Field& f : l.fields) {
        fields.push_back(
            {f.name, name_of(f.type), f.offset, f.first_bit, f.bits, f.scale, f.shift, f.decimals});
        if (f.words) fields.back().push_back(*f.words);
    }
    return {{"format", l.format}, {"record_bytes", l.record_bytes}, {"fields", fields}};
}

cloud::RecordLayout layout_from(const json& j, std::string head) {
    cloud::RecordLayout l{j.at("format"), j.at("record_bytes"), {}, std::move(head)};
    constexpr std::size_t kLargestRecord = 1u << 20;
    const auto damaged = [] {
        return Error(ErrorCode::Format, "What the records in the project file hold is damaged");
    };
    if (l.record_bytes == 0 || l.record_bytes > kLargestRecord) throw damaged();
    for (const json& f : j.at("fields")) {
        l.fields.push_back(
            {f.at(0), cloud::field_type(f.at(1)), f.at(2), f.at(3), f.at(4), f.at(5), f.at(6), f.at(7)});
        if (f.size() > 8)
            l.fields.back().words =
                std::make_shared<const std::vector<std::string>>(f.at(8).get<std::vector<std::string>>());
        // Everything that is read or written by a field lies in its record.
        const cloud::Field& field = l.fields.back();
        const std::size_t bytes = bytes_of(field.type);
        if (field.offset > l.record_bytes || bytes > l.record_bytes - field.offset ||
            field.first_bit + field.bits > 8 * bytes)
            throw damaged();
    }
    const bool triangles = l.format == cloud::kTriangleFormat;
    for (const char* name : {"x", "y", "z"})
        if (!l.find(triangles ? std::string(name) + "1" : std::string(name))) throw damaged();
    return l;
}

json vec_json(Vec3 v) {
    return {v.x, v.y, v.z};
}
Vec3 vec_from(const json& j) {
    return {j.at(0), j.at(1), j.at(2)};
}

json cloud_json(const PointCloud& c, std::uint64_t records) {
    json stations = json::array();
    for (const cloud::Station& s : c.stations()) stations.push_back({s.name, vec_json(s.position)});
    return {{"size", c.size()},
            {"records", records},
            {"scale", vec_json(c.grid().scale)},
            {"offset", vec_json(c.grid().offset)},
            {"intensity", c.intensity().has_value()},
            {"colour", c.colour().has_value()},
            {"class", c.classification().has_value()},
            {"stations", stations},
            {"crs", c.crs()},
            {"unit", c.unit()},
            {"height_unit", c.height_unit()},
            {"layout", layout_json(c.records()->layout())}};
}

// Makes and puts one after the other, on this thread alone: it runs behind the user's work and must leave the
// cores to it.
void in_order(std::size_t count, Progress& progress, double from, double to,
              const std::function<std::string(std::size_t)>& make,
              const std::function<void(std::size_t, const std::string&)>& put) {
    for (std::size_t i = 0; i < count; ++i) {
        put(i, make(i));
        progress.advance(from + (to - from) * static_cast<double>(i + 1) / static_cast<double>(count));
    }
}

std::string read_blob(Database& db, const char* sql, std::int64_t row, std::int64_t page) {
    const std::lock_guard<std::mutex> guard(db.mutex());
    Statement s = db.prepare(sql);
    s.bind(0, row).bind(1, page);
    if (!s.step())
        throw Error(ErrorCode::Format, "A page is missing in the project file", db.path().string());
    return s.bytes(0);
}

class StoredOrder : public cloud::OrderSource {
  public:
    /// `records`: how many there are; no element comes from beyond them.
    StoredOrder(std::shared_ptr<Database> db, std::int64_t row, std::uint64_t size, std::uint64_t records)
        : db_(std::move(db)), row_(row), size_(size), records_(records) {}
    std::vector<std::uint32_t> page(std::size_t page) const override {
        std::vector<std::uint32_t> order = cloud::unpack_order(packed(page), page_length(size_, page));
        if (order.size() != page_length(size_, page) ||
            std::any_of(order.begin(), order.end(), [&](std::uint32_t r) { return r >= records_; }))
            throw Error(ErrorCode::Format, "The order of points in the project file is damaged",
                        db_->path().string());
        return order;
    }
    std::string packed(std::size_t page) const override {
        return read_blob(*db_, "SELECT ordering FROM page WHERE cloud=? AND page=?", row_,
                         static_cast<std::int64_t>(page));
    }

  private:
    std::shared_ptr<Database> db_;
    std::int64_t row_;
    std::uint64_t size_, records_;
};

// In which cloud's rows the chunks of records lie: runs of chunks, one after the other.
struct Owner {
    std::int64_t row = 0;
    std::uint64_t chunks = 0;
};
using Owners = std::vector<Owner>;

class StoredRecords : public cloud::RecordSource {
  public:
    StoredRecords(std::shared_ptr<Database> db, Owners owners, cloud::RecordLayout layout,
                  std::uint64_t count)
        : db_(std::move(db)), owners_(std::move(owners)), layout_(std::move(layout)), count_(count) {}
    const Owners& owners() const { return owners_; }
    bool in(const Database& db) const { return db_->path() == db.path(); }
    const cloud::RecordLayout& layout() const override { return layout_; }
    std::uint64_t count() const override { return count_; }
    void read(std::uint64_t first, std::span<std::byte> out) const override {
        const std::size_t bytes = layout_.record_bytes;
        for (std::size_t done = 0; done < out.size();) {
            const std::uint64_t record = first + done / bytes;
            const std::size_t chunk = record / kPageSize, at = record % kPageSize;
            const std::size_t length = page_length(count_, chunk);
            const std::string raw =
                from_planes(unpack(read_blob(*db_, "SELECT data FROM record WHERE cloud=? AND chunk=?",
                                             row_of(chunk), static_cast<std::int64_t>(chunk)),
                                   length * bytes),
                            bytes);
            if (raw.size() != length * bytes)
                throw Error(ErrorCode::Format, "Records in the project file are damaged");
            const std::size_t n = std::min(out.size() - done, (length - at) * bytes);
            std::memcpy(out.data() + done, raw.data() + at * bytes, n);
            done += n;
        }
    }

  private:
    std::int64_t row_of(std::uint64_t chunk) const {
        for (const Owner& o : owners_) {
            if (chunk < o.chunks) return o.row;
            chunk -= o.chunks;
        }
        throw Error(ErrorCode::Format, "Records are missing in the project file", db_->path().string());
    }
    std::shared_ptr<Database> db_;
    Owners owners_;
    cloud::RecordLayout layout_;
    std::uint64_t count_;
};

// Whole chunks that lie in this file already, because another cloud has them too; then the cloud's own.
Owners owners_of(const Database& db, const cloud::RecordSource& records, std::int64_t own) {
    Owners out;
    std::uint64_t left = pages_for(records.count());
    const auto* grown = dynamic_cast<const cloud::GrownRecords*>(&records);
    const auto base = grown ? grown->base().records() : nullptr;
    if (const auto* stored = dynamic_cast<const StoredRecords*>(base.get()); stored && stored->in(db)) {
        std::uint64_t shared = grown->base_count() / kPageSize;
        for (const Owner& o : stored->owners()) {
            const std::uint64_t n = std::min(o.chunks, shared);
            if (n == 0) break;
            out.push_back({o.row, n});
            shared -= n;
            left -= n;
        }
    }
    if (!out.empty() && out.back().row == own)
        out.back().chunks += left;
    else
        out.push_back({own, left});
    return out;
}

json owners_json(const Owners& owners) {
    json j = json::array();
    for (const Owner& o : owners) j.push_back({o.row, o.chunks});
    return j;
}

Owners owners_from(const json& meta, std::int64_t own) {
    // Files of before had each record in the rows of its own cloud.
    if (!meta.contains("record_rows")) return {{own, pages_for(meta.at("records"))}};
    Owners out;
    for (const json& o : meta.at("record_rows")) out.push_back({o.at(0), o.at(1)});
    return out;
}

struct CloudRow {
    json meta;
    std::string head, info;
};

CloudRow read_row(Database& db, std::int64_t row) {
    const std::lock_guard<std::mutex> guard(db.mutex());
    Statement s = db.prepare("SELECT meta, head, info FROM cloud WHERE id=?");
    s.bind(0, row);
    if (!s.step())
        throw Error(ErrorCode::Format, "A cloud is missing in the project file", db.path().string());
    return {json::parse(s.bytes(0)), s.bytes(1), s.bytes(2)};
}

}  // namespace

void create_cloud_tables(Database& db) {
    db.run(
        "CREATE TABLE cloud(id INTEGER PRIMARY KEY, meta TEXT, head BLOB, info BLOB);"
        "CREATE TABLE page(cloud INTEGER, page INTEGER, data BLOB, ordering BLOB, PRIMARY KEY(cloud, page)) "
        "WITHOUT ROWID;"
        "CREATE TABLE record(cloud INTEGER, chunk INTEGER, data BLOB, PRIMARY KEY(cloud, chunk)) WITHOUT "
        "ROWID;");
}

std::int64_t write_cloud_rows(Database& db, const PointCloud& c, Progress& progress) {
    Statement last = db.prepare("SELECT coalesce(max(id),0) FROM cloud");
    last.step();
    const std::int64_t row = last.number(0) + 1;
    const auto records = c.records();
    const auto order = c.order();
    const cloud::RecordLayout& layout = records->layout();
    const Owners owners = owners_of(db, *records, row);
    json meta = cloud_json(c, records->count());
    if (owners.size() > 1) meta["record_rows"] = owners_json(owners);
    std::vector<cloud::PageInfo> info;
    for (std::size_t p = 0; p < c.page_count(); ++p) info.push_back(c.info(p));
    {
        Statement s = db.prepare("INSERT INTO cloud VALUES(?,?,?,?)");
        const std::string raw(reinterpret_cast<const char*>(info.data()),
                              info.size() * sizeof(cloud::PageInfo));
        s.bind(0, row).bind(1, meta.dump()).bind(2, layout.head, true).bind(3, pack(raw), true);
        s.run();
    }
    Statement page = db.prepare("INSERT INTO page VALUES(?,?,?,?)");
    in_order(
        c.page_count(), progress, 0, 0.5, [&](std::size_t p) { return pack_page(c, p); },
        [&](std::size_t p, const std::string& data) {
            page.bind(0, row)
                .bind(1, static_cast<std::int64_t>(p))
                .bind(2, data, true)
                .bind(3, order->packed(p), true);
            page.run();
        });
    Statement record = db.prepare("INSERT INTO record VALUES(?,?,?)");
    const std::size_t first = pages_for(records->count()) - owners.back().chunks;
    in_order(
        owners.back().chunks, progress, 0.5, 1,
        [&](std::size_t i) {
            const std::size_t k = first + i;
            std::string raw(page_length(records->count(), k) * layout.record_bytes, '\0');
            records->read(std::uint64_t{k} * kPageSize, std::as_writable_bytes(std::span(raw)));
            return pack(to_planes(raw, layout.record_bytes));
        },
        [&](std::size_t i, const std::string& data) {
            record.bind(0, row).bind(1, static_cast<std::int64_t>(first + i)).bind(2, data, true);
            record.run();
        });
    return row;
}

std::shared_ptr<const PointCloud> read_cloud_rows(const std::shared_ptr<Database>& db, std::int64_t row,
                                                  Progress& progress) {
    const CloudRow stored = read_row(*db, row);
    const json& meta = stored.meta;
    PointCloud::Parts parts;
    parts.size = meta.at("size");
    // A page of positions takes some bytes at least: no file holds more of them than it has.
    std::error_code unknown;
    const auto file_bytes = std::filesystem::file_size(db->path(), unknown);
    if (!unknown && pages_for(parts.size) > file_bytes)
        throw Error(ErrorCode::Format, "A cloud in the project file is damaged", db->path().string());
    parts.grid = {vec_from(meta.at("scale")), vec_from(meta.at("offset"))};
    parts.crs = meta.at("crs");
    parts.unit = meta.at("unit");
    parts.height_unit = meta.value("height_unit", "");
    for (const json& s : meta.at("stations")) parts.stations.push_back({s.at(0), vec_from(s.at(1))});
    const std::size_t pages = pages_for(parts.size);
    const std::string info = unpack(stored.info, std::uint64_t{pages} * sizeof(cloud::PageInfo));
    if (info.size() != pages * sizeof(cloud::PageInfo))
        throw Error(ErrorCode::Format, "A cloud in the project file is damaged");
    parts.info.resize(pages);
    std::memcpy(static_cast<void*>(parts.info.data()), info.data(), info.size());
    const cloud::ColumnSet set{meta.at("intensity"), meta.at("colour"), meta.at("class")};
    cloud::PageSink sink(parts.size, set, !fits_memory(cloud::memory_needed(parts.size, set)));
    std::atomic<std::size_t> done{0};
    parallel::for_each(pages, [&](std::size_t p) {
        sink.put(p, unpack_page(read_blob(*db, "SELECT data FROM page WHERE cloud=? AND page=?", row,
                                          static_cast<std::int64_t>(p)),
                                page_length(parts.size, p), set));
        progress.advance(static_cast<double>(++done) / static_cast<double>(pages));
    });
    parts.order = std::make_shared<StoredOrder>(db, row, parts.size, meta.at("records"));
    parts.records = std::make_shared<StoredRecords>(
        db, owners_from(meta, row), layout_from(meta.at("layout"), stored.head), meta.at("records"));
    sink.finish(parts);
    cloud::Triangles triangles = cloud::triangles_of(*parts.records, *parts.order, pages);
    parts.triangles = std::move(triangles.mesh);
    if (triangles.attributes) {
        auto attributes = std::make_shared<mesh::Attributes>(*triangles.attributes);
        io::decode_images(*attributes);
        parts.attributes = std::move(attributes);
    }
    return std::make_shared<PointCloud>(std::move(parts));
}

void use_cloud_rows(const std::shared_ptr<Database>& db, std::int64_t row, const PointCloud& c) {
    const auto before = c.records();
    c.move_sources(std::make_shared<StoredOrder>(db, row, c.size(), before->count()),
                   std::make_shared<StoredRecords>(db, owners_from(read_row(*db, row).meta, row),
                                                   before->layout(), before->count()));
}

}  // namespace pristine::store
