#include "core/report/deliverable.h"

#include <fmt/format.h>
#include <unistd.h>

#include <algorithm>
#include <fstream>
#include <nlohmann/json.hpp>
#include <set>

#include "core/base/checksum.h"
#include "core/base/output.h"
#include "core/base/units.h"
#include "core/io/ending.h"
#include "core/io/mesh/mesh_cloud.h"
#include "core/report/parts/context.h"
#include "core/site/origin_file.h"
#include "core/site/written.h"

namespace pristine::report {
namespace {

namespace fs = std::filesystem;
using nlohmann::json;
using site::ItemPtr;

// A name of a file: letters of any language, digits and signs that every system takes.
std::string file_name(const std::string& words) {
    std::string out;
    for (const char c : words) {
        const auto u = static_cast<unsigned char>(c);
        out += std::isalnum(u) || u >= 0x80 || c == '-' || c == '_' || c == '.' ? c : '-';
    }
    while (!out.empty() && (out.front() == '.' || out.front() == '-')) out.erase(out.begin());
    return out.empty() ? "item" : out;
}

// Each name once, whatever the case: some systems do not tell it apart.
class Names {
  public:
    std::string take(const std::string& folder, const std::string& stem, const std::string& ending) {
        for (int k = 1;; ++k) {
            const std::string name =
                folder + "/" + stem + (k > 1 ? "-" + std::to_string(k) : "") + "." + ending;
            std::string low = name;
            std::transform(low.begin(), low.end(), low.begin(),
                           [](unsigned char c) { return static_cast<char>(std::tolower(c)); });
            if (taken_.insert(low).second) return name;
        }
    }

  private:
    std::set<std::string> taken_;
};

io::WriteOptions options_of(const DeliverableSetup& setup) {
    io::WriteOptions o;
    o.las = setup.las;
    return o;
}

std::string points_ending(const site::Item& i, const DeliverableSetup& setup) {
    if (!setup.points.empty()) return setup.points;
    std::string ending = io::ending_of(site::origin_file(i));
    if (!ending.empty()) ending.erase(0, 1);
    const std::string& format = i.cloud->records() ? i.cloud->records()->layout().format : std::string();
    // What a file was read from may be none that we write.
    for (const io::CloudFormat& f : io::cloud_formats())
        if (f.write && std::find(f.extensions.begin(), f.extensions.end(), ending) != f.extensions.end())
            return ending;
    for (const io::CloudFormat& f : io::cloud_formats())
        if (f.write && f.id == format) return f.extensions.front();
    return "laz";
}

// One file of an item, planned.
struct Piece {
    std::string path, role, reason;
    ItemPtr item;
    std::shared_ptr<const ElementSet> elements;
};

std::vector<Piece> pieces_of(const site::Site& s, const DeliverableSetup& setup, Names& names) {
    std::vector<Piece> out;
    for (const ItemPtr& i : s.items) {
        const bool triangles = i->cloud->triangles() != nullptr,
                   surface = triangles && i->role == site::ItemRole::Terrain;
        const std::string ending = surface     ? setup.surfaces
                                   : triangles ? setup.meshes
                                               : points_ending(*i, setup);
        const char* role = surface ? "surface" : triangles ? "mesh" : "cleaned";
        const char* folder = surface ? "surfaces" : triangles ? "meshes" : "cleaned";
        const std::string stem = file_name(i->name);
        ElementSet out_of_it = *i->removed;
        if (i->scope) out_of_it = out_of_it | ~*i->scope;
        auto left = std::make_shared<const ElementSet>(~out_of_it);
        if (!left->empty()) out.push_back({names.take(folder, stem, ending), role, {}, i, std::move(left)});
        if (!setup.removed) continue;
        for (site::OutByReason& r : site::out_by_reason(*i)) {
            ElementSet gone = i->scope ? r.elements & *i->scope : std::move(r.elements);
            if (gone.empty()) continue;
            const std::string of = stem + "-" + file_name(r.reason.empty() ? "no reason" : r.reason);
            // Triangles that were removed need not be a surface any more.
            const std::string how = triangles ? setup.meshes : ending;
            out.push_back({names.take("removed", of, how), "removed", r.reason, i,
                           std::make_shared<const ElementSet>(std::move(gone))});
        }
    }
    return out;
}

class FolderWriter {
  public:
    FolderWriter(const Material& m, const DeliverableSetup& setup, fs::path folder, Progress& progress)
        : m_(m), setup_(setup), folder_(std::move(folder)), progress_(progress) {}

    json write() {
        pieces(pieces_of(*m_.site, setup_, names_));
        if (setup_.merged) merged();
        lines();
        text("ledger.json", "ledger", ledger_json(*m_.site).dump(1) + "\n");
        if (!setup_.recipe.empty()) text("recipe.json", "recipe", setup_.recipe);
        if (!setup_.report.parts.empty()) report();
        for (const SheetSetup& s : setup_.sheets) sheet(s);
        if (setup_.sources) sources();
        return manifest();
    }

  private:
    fs::path at(const std::string& path) {
        const fs::path full = folder_ / path;
        fs::create_directories(full.parent_path());
        return full;
    }

    json& listed(const std::string& path, const char* role) {
        files_.push_back({{"path", path}, {"role", role}});
        return files_.back();
    }

    io::WriteItem with_classes(io::WriteItem item) const {
        if (setup_.source_classes) item.classes = nullptr;
        return item;
    }

    void text(const std::string& path, const char* role, const std::string& bytes) {
        OutputFile out(at(path), false);
        out.write(bytes);
        out.finish();
        listed(path, role);
    }

    void pieces(const std::vector<Piece>& all) {
        for (std::size_t k = 0; k < all.size(); ++k) {
            const Piece& p = all[k];
            const Progress::Part part(
                progress_, 0.6 * static_cast<double>(k) / static_cast<double>(all.size()),
                0.6 * static_cast<double>(k + 1) / static_cast<double>(all.size()), p.path);
            const io::WriteItem one = with_classes(site::only(*p.item, *p.elements, progress_));
            const io::WriteOptions how = options_of(setup_);
            const std::uint64_t written = io::write_cloud({one}, at(p.path), how, progress_);
            json& f = listed(p.path, p.role.c_str());
            f["item"] = p.item->id;
            f["records"] = written;
            if (p.role == "removed") f["reason"] = p.reason;
            const auto lost = io::lost_in({one}, p.path, how);
            if (!lost.empty()) f["not_held"] = lost;
        }
        // What writers put beside a file, such as a .prj, belongs to it.
        for (const auto& e : fs::recursive_directory_iterator(folder_)) {
            if (!e.is_regular_file()) continue;
            const std::string path = fs::relative(e.path(), folder_).generic_string();
            if (std::none_of(files_.begin(), files_.end(),
                             [&](const json& f) { return f.at("path") == path; }))
                listed(path, "companion");
        }
    }

    void merged() {
        std::vector<io::WriteItem> all;
        std::string ending;
        for (const ItemPtr& i : m_.site->items) {
            if (i->cloud->triangles()) continue;
            ElementSet gone = *i->removed;
            if (i->scope) gone = gone | ~*i->scope;
            all.push_back(with_classes(site::without(*i, gone, progress_)));
            if (ending.empty()) ending = points_ending(*i, setup_);
        }
        if (all.size() < 2) return;
        const std::string path = names_.take("cleaned", "merged", ending);
        listed(path, "merged")["records"] = io::write_cloud(all, at(path), options_of(setup_), progress_);
    }

    void lines() {
        std::vector<io::MapLine> all;
        for (const site::LinePtr& l : m_.site->lines) all.push_back({l->name, l->points, l->closed, l->role});
        if (all.empty()) return;
        const std::string path = "lines/lines." + setup_.lines;
        io::write_lines(all, at(path), false, site::reference_of(*m_.site));
        listed(path, "lines")["lines"] = all.size();
        for (const auto& e : fs::directory_iterator(folder_ / "lines")) {
            const std::string beside = fs::relative(e.path(), folder_).generic_string();
            if (beside != path) listed(beside, "companion");
        }
    }

    void report() {
        const Progress::Part part(progress_, 0.6, 0.85, "Report");
        const Report made = compose(m_, setup_.report, progress_);
        text("report/report.pdf", "report", pdf_of(made, pages_of(made, setup_.report.page)));
        text("report/report.html", "report", html_of(made));
        text("report/report.json", "report", json_of(made));
        text("report/report.csv", "report", csv_of(made));
    }

    void sheet(const SheetSetup& s) {
        const std::string path =
            names_.take("sheets", file_name(s.title.empty() ? s.part.kind : s.title), "pdf");
        const cloud::Reference r = site::reference_of(*m_.site);
        write_sheets(sheets_of(m_, s, progress_), {s.title, s.surveyor, m_.site->name, m_.program, {}},
                     at(path), false, r, length_unit(r.unit).metres);
        listed(path, "sheet");
    }

    void sources() {
        std::set<std::string> done;
        for (const ItemPtr& i : m_.site->items) {
            const fs::path file = site::origin_file(*i);
            std::error_code fault;
            if (file.empty() || !fs::is_regular_file(file, fault) || !done.insert(file.string()).second)
                continue;
            std::string ending = io::ending_of(file);
            const std::string path = names_.take("sources", file_name(file.stem().string()),
                                                 ending.empty() ? "dat" : ending.substr(1));
            fs::copy_file(file, at(path));
            listed(path, "source");
            copied_[file.string()] = path;
        }
    }

    json item_json(const site::Item& i) {
        json j{{"id", i.id},
               {"name", i.name},
               {"elements", i.cloud->triangles() ? "triangles" : "points"},
               {"records", i.total() - i.made().count()},
               {"left", i.total() - i.removed->count()},
               {"made", i.made().count()},
               {"date", site::date_of(*m_.site, i)},
               {"unit", i.cloud->unit()},
               {"crs", i.cloud->crs()},
               {"removed", json::object()}};
        for (const site::OutByReason& r : site::out_by_reason(i)) {
            const std::uint64_t n = i.scope ? (r.elements & *i.scope).count() : r.elements.count();
            j["removed"][r.reason] = n;
        }
        const fs::path file = site::origin_file(i);
        std::error_code fault;
        if (!file.empty() && fs::is_regular_file(file, fault)) {
            j["source"] = {{"file", file.filename().string()},
                           {"sha256", sha256_of_file(file)},
                           {"bytes", fs::file_size(file)}};
            if (const auto it = copied_.find(file.string()); it != copied_.end())
                j["source"]["path"] = it->second;
        }
        // A piece of a scan, or one of several items of a file, is not all of it.
        j["whole_file"] =
            !i.scope && std::count_if(m_.site->items.begin(), m_.site->items.end(),
                                      [&](const ItemPtr& o) { return site::origin_file(*o) == file; }) == 1;
        return j;
    }

    json manifest() {
        const cloud::Reference r = site::reference_of(*m_.site);
        json j{
            {"format", kManifestFormat}, {"version", 1},   {"site", m_.site->name}, {"date", m_.date},
            {"program", m_.program},     {"unit", r.unit}, {"crs", r.crs},          {"items", json::array()},
            {"files", json::array()}};
        for (const ItemPtr& i : m_.site->items) j["items"].push_back(item_json(*i));
        for (json& f : files_) {
            const fs::path full = folder_ / f.at("path").get<std::string>();
            f["bytes"] = fs::file_size(full);
            f["sha256"] = sha256_of_file(full, progress_);
            j["files"].push_back(f);
        }
        OutputFile out(folder_ / kManifest, false);
        out.write(j.dump(1) + "\n");
        out.finish();
        return j;
    }

    const Material& m_;
    const DeliverableSetup& setup_;
    fs::path folder_;
    Progress& progress_;
    Names names_;
    std::vector<json> files_;
    std::map<std::string, std::string> copied_;
};

// A folder beside the target that is gone unless it was kept.
class Beside {
  public:
    explicit Beside(const fs::path& target) {
        path_ = target.parent_path() / fmt::format(".{}-{}-part", target.filename().string(), ::getpid());
        fs::remove_all(path_);
        std::error_code fault;
        if (!fs::create_directories(path_, fault) || fault)
            throw Error(ErrorCode::Io, "The folder cannot be made: " + fault.message(), target.string());
    }
    ~Beside() {
        std::error_code ignored;
        fs::remove_all(path_, ignored);
    }
    Beside(const Beside&) = delete;
    Beside& operator=(const Beside&) = delete;
    const fs::path& path() const { return path_; }

    void become(const fs::path& target) {
        std::error_code fault;
        const fs::path old = path_.string() + "-old";
        if (fs::exists(target)) fs::rename(target, old, fault);
        if (!fault) fs::rename(path_, target, fault);
        if (fault) {
            std::error_code ignored;
            if (fs::exists(old) && !fs::exists(target)) fs::rename(old, target, ignored);
            throw Error(ErrorCode::Io, "The folder could not be put in its place: " + fault.message(),
                        target.string());
        }
        fs::remove_all(old, fault);
    }

  private:
    fs::path path_;
};

void check_target(const Material& m, const fs::path& target, bool replace) {
    if (m.site->items.empty())
        throw Error(ErrorCode::Usage, "There is nothing to deliver: the site holds no item");
    std::error_code fault;
    for (const ItemPtr& i : m.site->items) {
        const fs::path source = site::origin_file(*i);
        const fs::path inside = source.empty() ? fs::path() : fs::relative(source, target, fault);
        if (!fault && !inside.empty() && *inside.begin() != "..")
            throw Error(ErrorCode::Usage, "The folder holds a source of the site", source.string(),
                        "Choose another one.");
    }
    if (!fs::exists(target, fault)) return;
    if (!replace) throw Error(ErrorCode::Conflict, "It exists already", target.string());
    const bool ours =
        fs::is_directory(target) ? fs::exists(target / kManifest) : io::ending_of(target) == ".zip";
    if (!ours)
        throw Error(ErrorCode::Conflict, "The folder is no deliverable, so it is not replaced",
                    target.string());
}

}  // namespace

DeliverablePlan deliverable_plan(const Material& m, const DeliverableSetup& setup) {
    DeliverablePlan out;
    Names names;
    for (const Piece& p : pieces_of(*m.site, setup, names)) {
        std::string lost;
        for (const std::string& l : io::lost_in({{p.item->cloud}}, p.path, options_of(setup)))
            lost += (lost.empty() ? "" : " ") + l;
        out.files.push_back({p.path, p.role, p.elements->count(), lost});
    }
    if (!m.site->lines.empty())
        out.files.push_back({"lines/lines." + setup.lines, "lines", m.site->lines.size(), {}});
    out.files.push_back({"ledger.json", "ledger", 0, {}});
    if (!setup.recipe.empty()) out.files.push_back({"recipe.json", "recipe", 0, {}});
    if (!setup.report.parts.empty())
        for (const char* e : {"pdf", "html", "json", "csv"})
            out.files.push_back({std::string("report/report.") + e, "report", 0, {}});
    for (const SheetSetup& s : setup.sheets)
        out.files.push_back({names.take("sheets", file_name(s.title.empty() ? s.part.kind : s.title), "pdf"),
                             "sheet",
                             0,
                             {}});
    out.files.push_back({kManifest, "manifest", 0, {}});
    return out;
}

json deliver(const Material& m, const DeliverableSetup& setup, const fs::path& path, bool replace,
             Progress& progress) {
    const fs::path target = fs::absolute(path).lexically_normal();
    check_target(m, target, replace);
    Beside folder(target);
    const json manifest = FolderWriter(m, setup, folder.path(), progress).write();
    if (io::ending_of(target) == ".zip")
        zip_folder(folder.path(), target, replace);
    else
        folder.become(target);
    return manifest;
}

}  // namespace pristine::report
