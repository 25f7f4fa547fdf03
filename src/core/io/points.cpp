#include "core/io/points.h"

#include <unordered_map>

#include "core/base/bytes.h"
#include "core/io/record_cloud.h"

namespace pristine::io {
namespace {

using cloud::FieldType;

// The number of each word, and the words.
std::vector<std::uint32_t> numbered(const std::vector<std::string>& all, std::vector<std::string>& words) {
    std::unordered_map<std::string, std::uint32_t> number;
    std::vector<std::uint32_t> out;
    for (const std::string& w : all) {
        const auto [it, fresh] = number.emplace(w, static_cast<std::uint32_t>(words.size()));
        if (fresh) words.push_back(w);
        out.push_back(it->second);
    }
    return out;
}

}  // namespace

std::shared_ptr<const cloud::PointCloud> cloud_of_points(const PointList& list,
                                                         const cloud::Reference& reference,
                                                         Progress& progress) {
    cloud::RecordLayout layout{"points", 24, {}, {}};
    layout.fields = {{"x", FieldType::F64, 0}, {"y", FieldType::F64, 8}, {"z", FieldType::F64, 16}};
    std::vector<std::vector<std::uint32_t>> columns;
    const auto add = [&](const char* name, const std::vector<std::string>& values) {
        if (values.size() != list.points.size()) return;
        auto words = std::make_shared<std::vector<std::string>>();
        columns.push_back(numbered(values, *words));
        layout.fields.push_back({name, FieldType::U32, layout.record_bytes});
        layout.fields.back().words = std::move(words);
        layout.record_bytes += 4;
    };
    add("point", list.names);
    add("code", list.codes);
    std::string bytes;
    bytes.reserve(list.points.size() * layout.record_bytes);
    for (std::size_t i = 0; i < list.points.size(); ++i) {
        for (int a = 0; a < 3; ++a) append_le(bytes, list.points[i][a]);
        for (const auto& column : columns) append_le(bytes, column[i]);
    }
    const auto records = std::make_shared<cloud::MemoryRecords>(std::move(layout), std::move(bytes));
    const auto ranges = field_ranges(*records, progress);
    cloud::PointCloud::Parts known;
    known.crs = reference.crs;
    known.unit = reference.unit;
    known.height_unit = reference.height_unit;
    std::vector<std::string> warnings;
    return cloud_from_records(records, ranges, -1, warnings, progress, std::move(known));
}

}  // namespace pristine::io
