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

// The places and all that is said of them, as records.
class Columns {
  public:
    explicit Columns(const PointList& list) : list_(list), layout_{"points", 24, {}, {}} {
        layout_.fields = {{"x", FieldType::F64, 0}, {"y", FieldType::F64, 8}, {"z", FieldType::F64, 16}};
        add_words("point", list.names);
        add_words("code", list.codes);
        for (const PointList::Column& c : list.columns) {
            if (!c.words.empty()) add_words(c.name, c.words);
            if (c.numbers.size() != list.points.size()) continue;
            add_field(c.name, FieldType::F64, 8);
            columns_.push_back({{}, &c.numbers});
        }
    }
    const cloud::RecordLayout& layout() const { return layout_; }
    void append_record(std::size_t i, std::string& bytes) const {
        for (int a = 0; a < 3; ++a) append_le(bytes, list_.points[i][a]);
        for (const One& c : columns_) {
            if (c.numbers)
                append_le(bytes, (*c.numbers)[i]);
            else
                append_le(bytes, c.words[i]);
        }
    }

  private:
    struct One {
        std::vector<std::uint32_t> words;
        const std::vector<double>* numbers = nullptr;
    };
    void add_words(const std::string& name, const std::vector<std::string>& values) {
        if (values.empty() || values.size() != list_.points.size()) return;
        auto words = std::make_shared<std::vector<std::string>>();
        columns_.push_back({numbered(values, *words)});
        add_field(name, FieldType::U32, 4);
        layout_.fields.back().words = std::move(words);
    }
    void add_field(const std::string& wanted, FieldType type, std::size_t size) {
        std::string name = wanted.empty() ? "column" : wanted;
        for (int k = 2; layout_.find(name); ++k) name = wanted + " " + std::to_string(k);
        layout_.fields.push_back({name, type, layout_.record_bytes});
        layout_.record_bytes += size;
    }

    const PointList& list_;
    cloud::RecordLayout layout_;
    std::vector<One> columns_;
};

}  // namespace

std::shared_ptr<const cloud::PointCloud> cloud_of_points(const PointList& list,
                                                         const cloud::Reference& reference,
                                                         Progress& progress) {
    Columns columns(list);
    cloud::RecordLayout layout = columns.layout();
    std::string bytes;
    bytes.reserve(list.points.size() * layout.record_bytes);
    for (std::size_t i = 0; i < list.points.size(); ++i) columns.append_record(i, bytes);
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
