// Zip archives, by libzip.

#include <fmt/format.h>
#include <zip.h>

#include <algorithm>
#include <memory>
#include <vector>

#include "core/base/output.h"
#include "core/report/deliverable.h"

namespace pristine::report {
namespace {

namespace fs = std::filesystem;
constexpr std::uint64_t kMostBytes = 500'000'000'000;

struct Discard {
    void operator()(zip_t* z) const { zip_discard(z); }
};
using Zip = std::unique_ptr<zip_t, Discard>;
struct CloseFile {
    void operator()(zip_file_t* f) const { zip_fclose(f); }
};

std::vector<fs::path> files_in(const fs::path& folder) {
    std::vector<fs::path> out;
    for (const auto& e : fs::recursive_directory_iterator(folder))
        if (e.is_regular_file()) out.push_back(e.path());
    std::sort(out.begin(), out.end());
    return out;
}

[[noreturn]] void fail(zip_t* z, const fs::path& path) {
    throw Error(ErrorCode::Io, std::string("The zip could not be written: ") + zip_strerror(z),
                path.string());
}

// Whether a name stays inside the folder that it is unpacked to.
bool harmless(const std::string& name) {
    const fs::path p(name);
    if (name.empty() || p.is_absolute() || name.find('\\') != std::string::npos ||
        name.find('\0') != std::string::npos)
        return false;
    return std::none_of(p.begin(), p.end(), [](const fs::path& part) { return part == ".." || part == "."; });
}

void unpack(zip_t* z, zip_uint64_t k, const zip_stat_t& stat, const fs::path& folder) {
    const std::unique_ptr<zip_file_t, CloseFile> in(zip_fopen_index(z, k, 0));
    if (!in)
        throw Error(ErrorCode::Format, std::string("A file of the zip cannot be read: ") + zip_strerror(z),
                    stat.name);
    const fs::path to = folder / stat.name;
    fs::create_directories(to.parent_path());
    OutputFile out(to, false);
    std::vector<char> buffer(1 << 20);
    std::uint64_t all = 0;
    for (zip_int64_t n = 0; (n = zip_fread(in.get(), buffer.data(), buffer.size())) != 0;) {
        if (n < 0)
            throw Error(ErrorCode::Format,
                        std::string("A file of the zip is damaged: ") + zip_file_strerror(in.get()),
                        stat.name);
        all += static_cast<std::uint64_t>(n);
        if (all > stat.size)
            throw Error(ErrorCode::Format, "A file of the zip is larger than it says", stat.name);
        out.write(buffer.data(), static_cast<std::size_t>(n));
    }
    out.finish();
}

}  // namespace

void zip_folder(const fs::path& folder, const fs::path& path, bool replace) {
    OutputFolder out(path, replace);
    int code = 0;
    Zip z(zip_open(out.path().c_str(), ZIP_CREATE | ZIP_EXCL, &code));
    if (!z) throw Error(ErrorCode::Io, "The zip could not be made", path.string());
    const std::string top = path.stem().string();
    for (const fs::path& file : files_in(folder)) {
        zip_source_t* source = zip_source_file(z.get(), file.c_str(), 0, -1);
        if (!source) fail(z.get(), path);
        const std::string name = top + "/" + fs::relative(file, folder).generic_string();
        const zip_int64_t index = zip_file_add(z.get(), name.c_str(), source, ZIP_FL_ENC_UTF_8);
        if (index < 0) {
            zip_source_free(source);
            fail(z.get(), path);
        }
        const std::string ending = file.extension().string();
        // What is packed already would only take time.
        if (ending == ".laz" || ending == ".pdf" || ending == ".png")
            zip_set_file_compression(z.get(), static_cast<zip_uint64_t>(index), ZIP_CM_STORE, 0);
    }
    if (zip_close(z.get()) != 0) fail(z.get(), path);
    (void)z.release();
    out.finish();
}

void unzip(const fs::path& path, const fs::path& folder) {
    int code = 0;
    const Zip z(zip_open(path.c_str(), ZIP_RDONLY | ZIP_CHECKCONS, &code));
    if (!z) throw Error(ErrorCode::Format, "This is no zip, or it is damaged", path.string());
    const zip_int64_t count = zip_get_num_entries(z.get(), 0);
    std::uint64_t all = 0;
    for (zip_int64_t k = 0; k < count; ++k) {
        zip_stat_t stat;
        const auto index = static_cast<zip_uint64_t>(k);
        if (zip_stat_index(z.get(), index, 0, &stat) != 0 || !(stat.valid & ZIP_STAT_NAME) ||
            !(stat.valid & ZIP_STAT_SIZE))
            throw Error(ErrorCode::Format, "The list of the zip is damaged", path.string());
        const std::string name = stat.name;
        if (!harmless(name))
            throw Error(ErrorCode::Format, "A name in the zip leads out of its folder", name);
        all += stat.size;
        if (all > kMostBytes) throw Error(ErrorCode::Format, "The zip holds more than 500 GB", path.string());
        if (name.back() != '/') unpack(z.get(), index, stat, folder);
    }
}

}  // namespace pristine::report
