#include "core/cloud/triangle_records.h"

#include <algorithm>
#include <cstring>
#include <map>

#include "core/base/bytes.h"
#include "core/base/error.h"
#include "core/mesh/weld.h"

namespace pristine::cloud {
namespace {

constexpr std::size_t kCorners = 73;  // bytes of corners and the mark of a surface

// Where in a record what lies; 0: nowhere.
struct Places {
    std::size_t colours = 0, normals = 0, texture = 0, group = 0, material = 0;
};

// "x1" … "z3", and so on.
void add_fields(RecordLayout& l, std::initializer_list<const char*> names, FieldType type) {
    for (const char* corner : {"1", "2", "3"})
        for (const char* name : names) {
            l.fields.push_back({std::string(name) + corner, type, l.record_bytes});
            l.record_bytes += bytes_of(type);
        }
}

void add_number(RecordLayout& l, const char* name) {
    l.fields.push_back({name, FieldType::U16, l.record_bytes});
    l.record_bytes += 2;
}

Places places_in(const RecordLayout& l) {
    const auto at = [&](const char* name) {
        const Field* f = l.find(name);
        return f ? f->offset : 0;
    };
    return {at("colour1"), at("nx1"), at("u1"), at("group"), at("material")};
}

void append_text(std::string& out, std::string_view text) {
    append_le(out, static_cast<std::uint64_t>(text.size()));
    out += text;
}

// Texts one after the other, as append_text writes them.
class Texts {
  public:
    explicit Texts(std::string_view all) : all_(all) {}
    std::string next() {
        const auto length = number();
        if (all_.size() < length) throw Error(ErrorCode::Format, "What a mesh carries is damaged");
        std::string text(all_.substr(0, length));
        all_.remove_prefix(length);
        return text;
    }
    std::uint64_t number() {
        if (all_.size() < 8) throw Error(ErrorCode::Format, "What a mesh carries is damaged");
        const auto n = load_le<std::uint64_t>(all_.data());
        all_.remove_prefix(8);
        return n;
    }

  private:
    std::string_view all_;
};

constexpr std::string_view kSurface = "surface", kMesh = "mesh";

std::string head_of(const TriangleParts& parts) {
    std::string head(parts.surface ? kSurface : kMesh);
    const mesh::Attributes& a = parts.attributes;
    if (a.groups.empty() && a.materials.empty()) return head;
    head += '\n';
    append_le(head, static_cast<std::uint64_t>(a.groups.size()));
    for (const std::string& g : a.groups) append_text(head, g);
    append_le(head, static_cast<std::uint64_t>(a.materials.size()));
    std::map<const std::string*, std::size_t> known;  // each picture once
    for (const mesh::Material& m : a.materials) {
        append_text(head, m.name);
        append_le(head, static_cast<std::uint64_t>(m.colour));
        append_text(head, m.image_name);
        const auto [at, fresh] = known.emplace(m.image.get(), known.size());
        append_le(head, static_cast<std::uint64_t>(m.image ? at->second + 1 : 0));
        if (m.image) append_text(head, fresh ? std::string_view(*m.image) : std::string_view());
    }
    return head;
}

void read_head(const std::string& head, mesh::Attributes& a) {
    const auto end = head.find('\n');
    if (end == std::string::npos) return;
    Texts in(std::string_view(head).substr(end + 1));
    for (std::uint64_t n = in.number(); n > 0; --n) a.groups.push_back(in.next());
    std::map<std::uint64_t, std::shared_ptr<const std::string>> known;
    for (std::uint64_t n = in.number(); n > 0; --n) {
        mesh::Material m;
        m.name = in.next();
        m.colour = static_cast<std::uint32_t>(in.number());
        m.image_name = in.next();
        if (const std::uint64_t picture = in.number(); picture > 0) {
            std::string bytes = in.next();
            auto& image = known[picture];
            if (!image) image = std::make_shared<const std::string>(std::move(bytes));
            m.image = image;
        }
        a.materials.push_back(std::move(m));
    }
}

RecordLayout layout_of(const TriangleParts& parts) {
    RecordLayout l{kTriangleFormat, 0, {}, head_of(parts)};
    add_fields(l, {"x", "y", "z"}, FieldType::F64);
    l.record_bytes = kCorners;
    if (!parts.value_name.empty()) {
        l.fields.push_back({parts.value_name, FieldType::F64, l.record_bytes});
        l.record_bytes += 8;
    }
    const mesh::Attributes& a = parts.attributes;
    if (!a.colours.empty()) add_fields(l, {"colour"}, FieldType::U32);
    if (!a.normals.empty()) add_fields(l, {"nx", "ny", "nz"}, FieldType::F32);
    if (!a.texture.empty()) add_fields(l, {"u", "v"}, FieldType::F32);
    if (!a.group.empty()) add_number(l, "group");
    if (!a.material.empty()) add_number(l, "material");
    return l;
}

void put_attributes(const mesh::Attributes& a, std::size_t t, const Places& at, std::byte* record) {
    for (std::size_t k = 0; k < 3; ++k) {
        if (at.colours) store_le(record + at.colours + 4 * k, a.colours[t][k]);
        if (at.normals) std::memcpy(record + at.normals + 12 * k, a.normals[t][k].data(), 12);
        if (at.texture) std::memcpy(record + at.texture + 8 * k, a.texture[t][k].data(), 8);
    }
    if (at.group) store_le(record + at.group, a.group[t]);
    if (at.material) store_le(record + at.material, a.material[t]);
}

void read_attributes(const std::byte* record, const Places& at, mesh::Attributes& a, std::size_t t) {
    for (std::size_t k = 0; k < 3; ++k) {
        if (at.colours) a.colours[t][k] = load_le<std::uint32_t>(record + at.colours + 4 * k);
        if (at.normals) std::memcpy(a.normals[t][k].data(), record + at.normals + 12 * k, 12);
        if (at.texture) std::memcpy(a.texture[t][k].data(), record + at.texture + 8 * k, 8);
    }
    if (at.group) a.group[t] = load_le<std::uint16_t>(record + at.group);
    if (at.material) a.material[t] = load_le<std::uint16_t>(record + at.material);
    if ((at.group && a.group[t] >= a.groups.size()) || (at.material && a.material[t] >= a.materials.size()))
        throw Error(ErrorCode::Format, "What a mesh carries is damaged");
}

// For each record, the element that it became.
std::vector<std::uint32_t> elements_of(const RecordSource& records, const OrderSource& order,
                                       std::size_t pages) {
    std::vector<std::uint32_t> element(records.count());
    std::uint32_t e = 0;
    for (std::size_t p = 0; p < pages; ++p)
        for (const std::uint32_t r : order.page(p)) element[r] = e++;
    return element;
}

// Written when they are asked for: they take several times the room of the mesh.
class MeshRecords : public RecordSource {
  public:
    MeshRecords(const mesh::TriMesh& m, const TriangleParts& parts)
        : layout_(layout_of(parts)), at_(places_in(layout_)), mesh_(m), parts_(parts) {}
    const RecordLayout& layout() const override { return layout_; }
    std::uint64_t count() const override { return mesh_.triangles.size(); }
    void read(std::uint64_t first, std::span<std::byte> out) const override {
        const std::size_t stride = layout_.record_bytes, n = out.size() / stride;
        if (first > count() || n > count() - first)
            throw Error(ErrorCode::Usage, "Records beyond the end were asked for");
        for (std::size_t i = 0; i < n; ++i) write(first + i, out.data() + i * stride);
    }

  private:
    void write(std::size_t t, std::byte* record) const {
        for (std::size_t k = 0; k < 3; ++k)
            for (int a = 0; a < 3; ++a)
                store_le(record + 8 * (3 * k + static_cast<std::size_t>(a)),
                         mesh_.vertices[mesh_.triangles[t][k]][a]);
        record[kCorners - 1] = std::byte{parts_.surface};
        if (!parts_.value_name.empty()) store_le(record + kCorners, parts_.values[t]);
        put_attributes(parts_.attributes, t, at_, record);
    }
    RecordLayout layout_;
    Places at_;
    mesh::TriMesh mesh_;
    TriangleParts parts_;
};

}  // namespace

std::shared_ptr<const RecordSource> records_of(const mesh::TriMesh& m, const TriangleParts& parts) {
    return std::make_shared<MeshRecords>(m, parts);
}

std::vector<std::uint32_t> records_in_order(const PointCloud::Parts& parts) {
    std::vector<std::uint32_t> order;
    order.reserve(parts.size);
    for (std::size_t p = 0; p < parts.info.size(); ++p) {
        const std::vector<std::uint32_t> page = parts.order->page(p);
        order.insert(order.end(), page.begin(), page.end());
    }
    return order;
}

std::uint32_t mean_colour(const mesh::Attributes& a, std::size_t t) {
    constexpr double kThird = 1 / 3.0;
    constexpr std::array<std::array<double, 3>, 7> kAt{{{kThird, kThird, kThird},
                                                        {0.8, 0.1, 0.1},
                                                        {0.1, 0.8, 0.1},
                                                        {0.1, 0.1, 0.8},
                                                        {0.45, 0.45, 0.1},
                                                        {0.1, 0.45, 0.45},
                                                        {0.45, 0.1, 0.45}}};
    constexpr auto kPlaces = static_cast<std::uint32_t>(kAt.size());
    std::array<std::uint32_t, 3> sum{};
    for (const auto& at : kAt) {
        const std::uint32_t c = mesh::colour_at(a, t, at, 0);
        for (std::size_t k = 0; k < 3; ++k) sum[k] += c >> (8 * k) & 255u;
    }
    std::uint32_t out = 0;
    for (std::size_t k = 0; k < 3; ++k) out |= (sum[k] + kPlaces / 2) / kPlaces << (8 * k);
    return out;
}

Vec3 middle_of(const mesh::TriMesh& m, std::size_t t, const Grid& grid) {
    Vec3 middle;
    for (const std::uint32_t v : m.triangles[t]) middle = middle + (m.vertices[v] - grid.offset) * (1 / 3.0);
    return {middle.x / grid.scale.x, middle.y / grid.scale.y, middle.z / grid.scale.z};
}

Triangles triangles_of(const RecordSource& records, const OrderSource& order, std::size_t pages) {
    const RecordLayout& layout = records.layout();
    if (layout.format != kTriangleFormat || layout.record_bytes < kCorners) return {};
    const std::size_t stride = layout.record_bytes, n = records.count();
    const std::vector<std::uint32_t> element = elements_of(records, order, pages);
    const Places at = places_in(layout);
    auto attributes = std::make_shared<mesh::Attributes>();
    read_head(layout.head, *attributes);
    if (at.colours) attributes->colours.resize(n);
    if (at.normals) attributes->normals.resize(n);
    if (at.texture) attributes->texture.resize(n);
    if (at.group) attributes->group.resize(n);
    if (at.material) attributes->material.resize(n);
    std::vector<Vec3> corners(3 * n);
    std::vector<std::byte> raw;
    // Read in file order, put where the elements are.
    for (std::uint64_t first = 0; first < n; first += kPageSize) {
        const std::uint64_t count = std::min<std::uint64_t>(kPageSize, n - first);
        raw.resize(count * stride);
        records.read(first, raw);
        for (std::uint64_t i = 0; i < count; ++i) {
            const std::byte* record = raw.data() + i * stride;
            const std::size_t e = element[first + i];
            for (std::size_t k = 0; k < 3; ++k)
                for (int a = 0; a < 3; ++a)
                    corners[3 * e + k][a] =
                        load_le<double>(record + 8 * (3 * k + static_cast<std::size_t>(a)));
            read_attributes(record, at, *attributes, e);
        }
    }
    Triangles out{std::make_shared<const mesh::TriMesh>(mesh::weld(corners)), nullptr};
    if (!attributes->empty()) out.attributes = std::move(attributes);
    return out;
}

}  // namespace pristine::cloud
