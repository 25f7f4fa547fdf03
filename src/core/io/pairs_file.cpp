#include "core/io/pairs_file.h"

#include <algorithm>
#include <cstdlib>

#include "core/base/error.h"
#include "core/base/file.h"
#include "core/io/cloud_io.h"

namespace pristine::io {
namespace {

// The table as a cloud of the places that are.
std::shared_ptr<const cloud::PointCloud> table(const std::filesystem::path& path, bool names,
                                               Progress& progress) {
    ReadOptions options;
    TextReading reading;
    if (names) reading.columns.push_back("point");
    for (const char* column : {"x", "y", "z", "to_x", "to_y", "to_z"}) reading.columns.push_back(column);
    reading.guess_shape = true;
    options.text = reading;
    auto c = read_cloud(path, options, progress).cloud;
    for (const char* column : {"to_x", "to_y", "to_z"})
        if (const cloud::Field* f = c->records()->layout().find(column); !f || f->words)
            throw Error(ErrorCode::Format, "A line of pairs has six numbers", path.filename().string());
    return c;
}

}  // namespace

std::vector<place::Pair> read_pairs(const std::filesystem::path& path, Progress& progress) {
    std::shared_ptr<const cloud::PointCloud> c;
    try {
        c = table(path, true, progress);
    } catch (const Error&) {
        c = table(path, false, progress);
    }
    const auto records = c->records();
    const cloud::RecordLayout& layout = records->layout();
    std::vector<std::byte> bytes(records->count() * layout.record_bytes);
    records->read(0, bytes);
    std::vector<place::Pair> pairs;
    for (std::uint64_t k = 0; k < records->count(); ++k) {
        const std::byte* r = bytes.data() + k * layout.record_bytes;
        const auto number = [&](const char* name) { return value(*layout.find(name), r); };
        place::Pair p{
            {}, {number("x"), number("y"), number("z")}, {number("to_x"), number("to_y"), number("to_z")}};
        if (const cloud::Field* name = layout.find("point"))
            p.name = name->words ? word_of(*name, value(*name, r))
                                 : std::to_string(static_cast<long long>(value(*name, r)));
        if (!p.name.empty() && p.name.front() == '-') {
            p.used = false;
            p.name.erase(0, 1);
        }
        if (p.name.empty()) p.name = std::to_string(k + 1);
        pairs.push_back(std::move(p));
    }
    return pairs;
}

Similarity read_matrix(const std::filesystem::path& path) {
    const InputFile file(path);
    std::string text = file.read_string(0, file.size());
    for (char& c : text)
        if (c == ',' || c == ';' || c == '[' || c == ']') c = ' ';
    std::array<double, 16> m{};
    const char* at = text.c_str();
    for (double& v : m) {
        char* end = nullptr;
        v = std::strtod(at, &end);
        if (end == at)
            throw Error(ErrorCode::Format, "The file does not hold sixteen numbers",
                        path.filename().string());
        at = end;
    }
    return Similarity::of_matrix(m);
}

}  // namespace pristine::io
