#include "core/report/verify.h"

#include <fmt/format.h>
#include <unistd.h>

#include <algorithm>
#include <array>
#include <cstring>
#include <map>
#include <nlohmann/json.hpp>
#include <optional>
#include <random>
#include <set>

#include "core/base/checksum.h"
#include "core/base/file.h"
#include "core/io/cloud_io.h"
#include "core/io/ending.h"
#include "core/report/deliverable.h"

namespace pristine::report {
namespace {

namespace fs = std::filesystem;
using nlohmann::json;

std::string bytes_of(const fs::path& path) {
    const InputFile file(path);
    return file.read_string(0, file.size());
}

bool inside_the_folder(const std::string& path) {
    const fs::path p(path);
    return !path.empty() && !p.is_absolute() &&
           std::none_of(p.begin(), p.end(), [](const fs::path& part) { return part == ".."; });
}

std::uint64_t mixed(std::uint64_t v) {  // the finaliser of splitmix64 (Steele et al. 2014)
    v = (v ^ (v >> 30)) * 0xbf58476d1ce4e5b9ull;
    v = (v ^ (v >> 27)) * 0x94d049bb133111ebull;
    return v ^ (v >> 31);
}

// A sum over a multiset of byte strings, the same in any order.
struct BagSum {
    std::uint64_t a = 0, b = 0, count = 0;
    void add(const BagSum& o) {
        a += o.a;
        b += o.b;
        count += o.count;
    }
    bool operator==(const BagSum&) const = default;
};

class Bags {
  public:
    Bags() {
        std::random_device device;
        for (std::uint64_t& k : key_) k = std::uint64_t{device()} << 32 | device();
    }

    void add(BagSum& to, const std::byte* data, std::size_t length) const {
        std::uint64_t x = key_[0], y = key_[1];
        for (std::size_t at = 0; at < length; at += 8) {
            std::uint64_t word = 0;
            std::memcpy(&word, data + at, std::min<std::size_t>(8, length - at));
            x = mixed(x ^ word) + key_[2];
            y = mixed(y + (word ^ key_[3]));
        }
        to.a += mixed(x ^ length);
        to.b += mixed(y + length);
        ++to.count;
    }

  private:
    std::array<std::uint64_t, 4> key_{};
};

bool same_layout(const cloud::RecordLayout& a, const cloud::RecordLayout& b) {
    if (a.record_bytes != b.record_bytes || a.fields.size() != b.fields.size()) return false;
    for (std::size_t k = 0; k < a.fields.size(); ++k) {
        const cloud::Field &f = a.fields[k], &g = b.fields[k];
        if (f.name != g.name || f.type != g.type || f.offset != g.offset || f.first_bit != g.first_bit ||
            f.bits != g.bits || f.scale != g.scale || f.shift != g.shift)
            return false;
    }
    return true;
}

// What is known of the records of a file.
struct FileRecords {
    std::uint64_t count = 0;
    std::shared_ptr<const cloud::RecordSource> source;
};

class Checker {
  public:
    Checker(fs::path folder, fs::path sources, Progress& progress)
        : folder_(std::move(folder)), sources_(std::move(sources)), progress_(progress) {}

    Verified check() {
        read_manifest();
        files();
        unlisted();
        ledger();
        items();
        return std::move(out_);
    }

  private:
    template <class... Args>
    void wrong(fmt::format_string<Args...> text, Args&&... args) {
        out_.problems.push_back(fmt::format(text, std::forward<Args>(args)...));
    }

    void read_manifest() {
        const fs::path path = folder_ / kManifest;
        const std::string text = bytes_of(path);
        out_.manifest_sha256 = sha256_of(text);
        manifest_ = json::parse(text, nullptr, false);
        if (!manifest_.is_object() || manifest_.value("format", "") != kManifestFormat ||
            !manifest_.contains("files") || !manifest_.contains("items"))
            throw Error(ErrorCode::Format, "The manifest is damaged, or this is no deliverable",
                        path.string());
        if (manifest_.value("version", 0) > 1)
            throw Error(ErrorCode::Unsupported, "The deliverable was made by a later version of this program",
                        path.string());
    }

    void files() {
        const auto count = static_cast<double>(manifest_["files"].size());
        double k = 0;
        for (const json& f : manifest_["files"]) {
            const Progress::Part part(progress_, 0.4 * k / count, 0.4 * (k + 1) / count, "Checksums");
            ++k;
            const std::string path = f.at("path");
            if (!inside_the_folder(path)) {
                wrong("The manifest names a file outside of the folder: {}.", path);
                continue;
            }
            if (!listed_.insert(path).second) wrong("The manifest names {} twice.", path);
            std::error_code fault;
            if (!fs::is_regular_file(folder_ / path, fault)) {
                wrong("{} is missing.", path);
                continue;
            }
            if (fs::file_size(folder_ / path) != f.at("bytes").get<std::uint64_t>())
                wrong("{} has {} bytes; the manifest says {}.", path, fs::file_size(folder_ / path),
                      f.at("bytes").get<std::uint64_t>());
            else if (sha256_of_file(folder_ / path, progress_) != f.at("sha256").get<std::string>())
                wrong("{} is not the file that was written: its SHA-256 differs.", path);
            ++out_.files;
        }
    }

    void unlisted() {
        for (const auto& e : fs::recursive_directory_iterator(folder_)) {
            if (e.is_directory()) continue;
            const std::string path = fs::relative(e.path(), folder_).generic_string();
            if (path != kManifest && listed_.count(path) == 0) wrong("{} is not in the manifest.", path);
        }
    }

    void ledger() {
        std::error_code fault;
        if (!fs::is_regular_file(folder_ / "ledger.json", fault)) return wrong("There is no ledger.json.");
        const json ledger = json::parse(bytes_of(folder_ / "ledger.json"), nullptr, false);
        if (!ledger.is_object() || ledger.value("format", "") != kLedgerFormat)
            return wrong("ledger.json is damaged.");
        for (const json& i : ledger.at("items")) ledger_[i.at("id").get<std::uint64_t>()] = i;
        if (ledger_.size() != manifest_["items"].size())
            wrong("The ledger has {} items, the manifest {}.", ledger_.size(), manifest_["items"].size());
    }

    void items() {
        const auto count = static_cast<double>(manifest_["items"].size());
        double k = 0;
        for (const json& i : manifest_["items"]) {
            const Progress::Part part(progress_, 0.4 + 0.6 * k / count, 0.4 + 0.6 * (k + 1) / count,
                                      "Records");
            ++k;
            try {
                item(i);
            } catch (const Error& e) {
                wrong("{}: {}", i.value("name", ""), e.what());
            }
        }
    }

    void item(const json& i) {
        const std::uint64_t id = i.at("id"), records = i.at("records"), left = i.at("left"),
                            made = i.value("made", std::uint64_t{0});
        const std::string name = i.at("name");
        against_ledger(i, id, name, left);
        std::uint64_t gone = 0, written_left = 0, written_gone = 0;
        bool has_left = false;
        std::map<std::string, std::uint64_t> by_reason;
        for (const auto& [reason, n] : i.at("removed").items()) gone += n.get<std::uint64_t>();
        std::vector<FileRecords> parts;
        for (const json& f : manifest_["files"]) {
            if (f.value("item", std::uint64_t{0}) != id || !f.contains("records")) continue;
            const std::string path = f.at("path");
            std::error_code fault;
            if (!inside_the_folder(path) || !fs::is_regular_file(folder_ / path, fault)) continue;
            parts.push_back(records_of(folder_ / path));
            const std::uint64_t n = parts.back().count;
            if (n != f.at("records").get<std::uint64_t>())
                wrong("{} holds {} records; the manifest says {}.", path, n,
                      f.at("records").get<std::uint64_t>());
            if (f.at("role") == "removed") {
                written_gone += n;
                by_reason[f.value("reason", "")] += n;
            } else {
                written_left += n;
                has_left = true;
            }
        }
        ++out_.items;
        if (made == 0 && left + gone != records)
            wrong("{}: {} left and {} removed are not the {} that there were.", name, left, gone, records);
        if ((has_left || left == 0) && written_left != left)
            wrong("{}: {} are left by the manifest, and {} in its file.", name, left, written_left);
        if (written_gone > 0 || !by_reason.empty())
            for (const auto& [reason, n] : i.at("removed").items())
                if (by_reason[reason] != n.get<std::uint64_t>())
                    wrong("{}: {} were removed for '{}' by the manifest, and {} are in the files.", name,
                          n.get<std::uint64_t>(), reason, by_reason[reason]);
        if (made == 0 && i.value("elements", "") == "points")
            against_source(i, name, parts, written_gone == gone);
    }

    void against_ledger(const json& i, std::uint64_t id, const std::string& name, std::uint64_t left) {
        const auto it = ledger_.find(id);
        if (it == ledger_.end()) return wrong("The ledger does not know {}.", name);
        const json& l = it->second;
        if (l.at("left").get<std::uint64_t>() != left || l.at("name") != i.at("name"))
            wrong("{}: {} are left by the ledger, and {} by the manifest.", name,
                  l.at("left").get<std::uint64_t>(), left);
        std::set<std::string> reasons;
        std::map<std::string, std::uint64_t> most;
        for (const json& e : l.at("entries"))
            if (e.at("in_force").get<bool>() && (e.at("kind") == "removal" || e.at("kind") == "repair")) {
                reasons.insert(e.at("reason").get<std::string>());
                most[e.at("reason").get<std::string>()] += e.at("count").get<std::uint64_t>();
            }
        for (const auto& [reason, n] : i.at("removed").items()) {
            if (reasons.count(reason) == 0)
                wrong("{}: the ledger has no decision in force for '{}'.", name, reason);
            if (n.get<std::uint64_t>() > most[reason])
                wrong("{}: {} were removed for '{}', more than the ledger's decisions took ({}).", name,
                      n.get<std::uint64_t>(), reason, most[reason]);
        }
        for (const std::string& reason : reasons)
            if (!i.at("removed").contains(reason))
                wrong("{}: the ledger has a decision for '{}' that the manifest leaves out.", name, reason);
    }

    FileRecords records_of(const fs::path& path) {
        FileRecords out;
        const io::ReadResult r = io::read_cloud(path, {}, progress_);
        out.source = r.cloud->records();
        out.count = r.cloud->triangles() || !out.source ? r.cloud->size() : out.source->count();
        return out;
    }

    std::optional<fs::path> source_file(const json& source) const {
        std::error_code fault;
        if (source.contains("path") && inside_the_folder(source.at("path")) &&
            fs::is_regular_file(folder_ / source.at("path").get<std::string>(), fault))
            return folder_ / source.at("path").get<std::string>();
        if (sources_.empty()) return {};
        for (const auto& e : fs::recursive_directory_iterator(sources_))
            if (e.is_regular_file() && e.path().filename() == source.at("file").get<std::string>())
                return e.path();
        return {};
    }

    void against_source(const json& i, const std::string& name, const std::vector<FileRecords>& parts,
                        bool complete) {
        const auto note = [&](const char* why) {
            out_.notes.push_back(name + ": not compared with its source: " + why + ".");
        };
        if (!i.contains("source")) return note("none is named");
        if (!i.value("whole_file", false)) return note("it is a part of its file");
        if (!complete) return note("what was removed is not in the deliverable");
        const json& source = i.at("source");
        const auto file = source_file(source);
        if (!file) return note("the source is not at hand (--sources names its folder)");
        if (sha256_of_file(*file, progress_) != source.at("sha256").get<std::string>())
            return wrong("{}: the source {} is not the file that was read: its SHA-256 differs.", name,
                         file->filename().string());
        const FileRecords whole = records_of(*file);
        if (!whole.source) return note("its records cannot be read");
        const bool bytes = std::all_of(parts.begin(), parts.end(), [&](const FileRecords& p) {
            return p.source && same_layout(p.source->layout(), whole.source->layout());
        });
        BagSum all, together;
        all = sum_of(*whole.source, bytes);
        for (const FileRecords& p : parts)
            if (p.source) together.add(sum_of(*p.source, bytes));
        if (all.count != together.count)
            wrong("{}: the source has {} records, cleaned and removed together {}.", name, all.count,
                  together.count);
        else if (!(all == together)) {
            if (!bytes)
                return note(
                    "the files have another format, in which coordinates are rounded; the counts agree");
            wrong("{}: cleaned and removed are together not the records of the source.", name);
        }
        ++out_.against_source;
    }

    // Of whole records, or of their places alone.
    BagSum sum_of(const cloud::RecordSource& r, bool bytes) const {
        BagSum sum;
        const cloud::RecordLayout& layout = r.layout();
        const cloud::Field *x = layout.find("x"), *y = layout.find("y"), *z = layout.find("z");
        constexpr std::uint64_t kStretch = 65536;
        std::vector<std::byte> buffer;
        for (std::uint64_t first = 0; first < r.count(); first += kStretch) {
            progress_.check();
            const std::uint64_t n = std::min(kStretch, r.count() - first);
            buffer.resize(static_cast<std::size_t>(n) * layout.record_bytes);
            r.read(first, buffer);
            for (std::size_t k = 0; k < n; ++k) {
                const std::byte* record = buffer.data() + k * layout.record_bytes;
                if (bytes || !x || !y || !z) {
                    bags_.add(sum, record, layout.record_bytes);
                } else {
                    const std::array<double, 3> place{cloud::value(*x, record), cloud::value(*y, record),
                                                      cloud::value(*z, record)};
                    bags_.add(sum, reinterpret_cast<const std::byte*>(place.data()), sizeof place);
                }
            }
        }
        return sum;
    }

    fs::path folder_, sources_;
    Progress& progress_;
    Bags bags_;
    json manifest_;
    std::set<std::string> listed_;
    std::map<std::uint64_t, json> ledger_;
    Verified out_;
};

// A folder that is gone with the object.
struct Unpacked {
    fs::path path = fs::temp_directory_path() / fmt::format("pristine-verify-{}", ::getpid());
    Unpacked() {
        fs::remove_all(path);
        fs::create_directories(path);
    }
    ~Unpacked() {
        std::error_code ignored;
        fs::remove_all(path, ignored);
    }
    Unpacked(const Unpacked&) = delete;
    Unpacked& operator=(const Unpacked&) = delete;

    // Everything in a zip lies in one folder, or at its top.
    fs::path top() const {
        if (fs::exists(path / kManifest)) return path;
        for (const auto& e : fs::directory_iterator(path))
            if (e.is_directory() && fs::exists(e.path() / kManifest)) return e.path();
        return path;
    }
};

}  // namespace

Verified verify(const fs::path& path, const fs::path& sources, Progress& progress) {
    try {
        if (fs::is_directory(path)) return Checker(path, sources, progress).check();
        const Unpacked unpacked;
        unzip(path, unpacked.path);
        return Checker(unpacked.top(), sources, progress).check();
    } catch (const json::exception&) {
        throw Error(ErrorCode::Format, "The manifest or the ledger lacks what it must hold", path.string());
    }
}

}  // namespace pristine::report
