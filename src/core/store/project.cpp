#include "core/store/project.h"

#include <fcntl.h>
#include <fmt/format.h>
#include <unistd.h>

#include <array>
#include <charconv>
#include <cstring>

#include "core/base/bytes.h"
#include "core/base/compress.h"
#include "core/base/file.h"
#include "core/base/output.h"
#include "core/store/cloud_rows.h"
#include "core/store/object_json.h"

namespace pristine::store {
namespace fs = std::filesystem;
namespace {

using site::Item;
using site::LedgerEntry;
using site::Site;
constexpr int kFormatVersion = 7;
constexpr int kApplicationId = 0x50524354;  // "PRCT"

void sync_file(const fs::path& path) {
    const int fd = ::open(path.c_str(), O_RDONLY | O_CLOEXEC);
    const bool synced = fd >= 0 && ::fsync(fd) == 0;
    if (fd >= 0) ::close(fd);
    if (!synced) throw Error(ErrorCode::Io, "Could not bring the project to the disk", path.string());
}

// Rows are those of the cloud as it came; each commit may say anew what its coordinates mean.
const std::shared_ptr<const cloud::PointCloud>& with_own_reference(
    const std::shared_ptr<const cloud::PointCloud>& cloud) {
    return cloud->base() ? cloud->base() : cloud;
}

class Transaction {
  public:
    explicit Transaction(Database& db) : db_(db) { db_.run("BEGIN IMMEDIATE"); }
    ~Transaction() {
        if (!done_) try {
                db_.run("ROLLBACK");
            } catch (const Error&) {  // the error that brought us here matters more
            }
    }
    void commit() {
        db_.run("COMMIT");
        done_ = true;
    }

  private:
    Database& db_;
    bool done_ = false;
};
}  // namespace

bool is_project(const fs::path& path) {
    const InputFile file(path);
    std::array<std::byte, 72> head{};
    if (file.read_some(0, head) < head.size() || std::memcmp(head.data(), "SQLite format 3", 16) != 0)
        return false;
    int id = 0;
    for (int i = 0; i < 4; ++i) id = id << 8 | static_cast<int>(head[static_cast<std::size_t>(68 + i)]);
    return id == kApplicationId;
}

Project::Project(const fs::path& path, Database::Mode mode)
    : path_(path),
      lock_(mode == Database::Mode::Read ? nullptr : std::make_unique<ProjectLock>(path)),
      db_(std::make_unique<Database>(path, mode)) {}

std::unique_ptr<Project> Project::create(const fs::path& path) {
    std::error_code ignored;
    if (fs::exists(path, ignored)) throw Error(ErrorCode::Conflict, "The file exists already", path.string());
    std::unique_ptr<Project> p(new Project(path, Database::Mode::Create));
    p->db_->run(
        "PRAGMA page_size=65536; PRAGMA journal_mode=OFF; PRAGMA synchronous=OFF; PRAGMA temp_store=MEMORY;");
    p->db_->run(
        fmt::format("PRAGMA application_id={}; PRAGMA user_version={};", kApplicationId, kFormatVersion)
            .c_str());
    create_cloud_tables(*p->db_);
    p->db_->run(
        "CREATE TABLE elements(id INTEGER PRIMARY KEY, data BLOB);"
        "CREATE TABLE picture(entry INTEGER PRIMARY KEY, data BLOB);"
        "CREATE TABLE site_commit(number INTEGER PRIMARY KEY, title TEXT, site TEXT);"
        "CREATE TABLE note(key TEXT PRIMARY KEY, text TEXT);");
    p->bulk_ = true;
    return p;
}

std::unique_ptr<Project> Project::open(const fs::path& path, Access access) {
    if (!is_project(path))
        throw Error(ErrorCode::Format, "This is no Pristine Cloud project, or its start is damaged",
                    path.string());
    const bool writes = access == Access::Write;
    std::unique_ptr<Project> p(new Project(path, writes ? Database::Mode::ReadWrite : Database::Mode::Read));
    const auto version = [&] {
        Statement s = p->db_->prepare("PRAGMA user_version");
        s.step();
        return s.number(0);  // the statement must be gone before the journal mode can change
    }();
    if (version > kFormatVersion)
        throw Error(ErrorCode::Unsupported, "The project was made by a later version of this program",
                    path.string(), "Update the program.");
    if (writes) p->db_->run("PRAGMA journal_mode=WAL; PRAGMA synchronous=FULL; PRAGMA temp_store=MEMORY;");
    p->reader_ = std::make_shared<Database>(path, Database::Mode::Read);
    return p;
}

void Project::leave_bulk() {
    sync_file(path_);
    db_->run("PRAGMA journal_mode=WAL; PRAGMA synchronous=FULL;");
    reader_ = std::make_shared<Database>(path_, Database::Mode::Read);
    bulk_ = false;
}

std::int64_t Project::cloud_row(const std::shared_ptr<const cloud::PointCloud>& c, Progress& progress) {
    if (const auto it = cloud_rows_.find(c); it != cloud_rows_.end()) return it->second;
    return write_cloud_rows(*db_, *c, progress);
}

std::int64_t Project::set_row(const site::SetPtr& set) {
    if (const auto it = set_rows_.find(set); it != set_rows_.end()) return it->second;
    Statement s = db_->prepare("INSERT INTO elements(data) VALUES(?)");
    s.bind(0, set->packed(), true);
    s.run();
    Statement id = db_->prepare("SELECT last_insert_rowid()");
    id.step();
    return id.number(0);
}

std::int64_t Project::keep_set(const site::SetPtr& set) {
    const std::int64_t row = set_row(set);
    set_rows_[set] = row;
    sets_[row] = set;
    return row;
}

// Beside the sets: rows of bytes that others refer to.
template <class T>
std::int64_t Project::keep(Rows<T>& rows, const std::shared_ptr<const T>& thing,
                           const std::function<std::string(const T&)>& packed) {
    if (const auto it = rows.find(thing); it != rows.end()) return it->second;
    Statement s = db_->prepare("INSERT INTO elements(data) VALUES(?)");
    s.bind(0, packed(*thing), true);
    s.run();
    Statement id = db_->prepare("SELECT last_insert_rowid()");
    id.step();
    return rows[thing] = id.number(0);
}

template <class T>
std::shared_ptr<const T> Project::load(Rows<T>& rows, std::int64_t row,
                                       const std::function<T(const std::string&)>& unpacked,
                                       const char* what) {
    for (const auto& [known, at] : rows)
        if (at == row)
            if (auto thing = known.lock()) return thing;
    Statement s = db_->prepare("SELECT data FROM elements WHERE id=?");
    s.bind(0, row);
    if (!s.step())
        throw Error(ErrorCode::Format, std::string(what) + " is missing in the project file", path_.string());
    auto thing = std::make_shared<const T>(unpacked(std::string(s.bytes(0))));
    rows[thing] = row;
    return thing;
}

std::int64_t Project::keep_lines(const std::vector<site::LinePtr>& lines) {
    if (lines_.row != 0 && lines_.lines == lines) return lines_.row;
    json all = json::array();
    for (const site::LinePtr& l : lines) all.push_back(line_json(*l));
    const std::string text = all.dump();
    std::string raw;
    append_le(raw, static_cast<std::uint64_t>(text.size()));
    raw += pack(text);
    Statement s = db_->prepare("INSERT INTO elements(data) VALUES(?)");
    s.bind(0, raw, true);
    s.run();
    Statement id = db_->prepare("SELECT last_insert_rowid()");
    id.step();
    lines_ = {id.number(0), lines};
    return lines_.row;
}

std::vector<site::LinePtr> Project::load_lines(std::int64_t row) {
    if (row == lines_.row) return lines_.lines;
    Statement s = db_->prepare("SELECT data FROM elements WHERE id=?");
    s.bind(0, row);
    const std::string raw = s.step() ? std::string(s.bytes(0)) : std::string();
    if (raw.size() < 8)
        throw Error(ErrorCode::Format, "Lines are missing in the project file", path_.string());
    std::vector<site::LinePtr> lines;
    for (const json& l :
         json::parse(unpack(std::string_view(raw).substr(8), load_le<std::uint64_t>(raw.data()))))
        lines.push_back(std::make_shared<const site::Line>(line_from(l)));
    lines_ = {row, lines};
    return lines;
}

std::string Project::site_json(const Site& s, Progress& progress) {
    json items = json::array();
    for (const site::ItemPtr& item : s.items) {
        json ledger = json::array();
        for (const LedgerEntry& e : item->ledger) {
            const std::int64_t row = keep_set(e.elements);
            ledger.push_back({{"id", e.id},
                              {"reason", e.reason},
                              {"how", site::told(e.cause)},
                              {"cause", json::parse(site::json_of(e.cause))},
                              {"who", e.who},
                              {"when", e.when},
                              {"active", e.active},
                              {"elements", row},
                              {"picture", e.picture != nullptr}});
            if (e.made) ledger.back()["made"] = keep_set(e.made);
            if (e.to_class) ledger.back()["class"] = *e.to_class;
            if (e.edit != 0) ledger.back()["edit"] = e.edit;
            if (!e.picture) continue;
            Statement picture = db_->prepare("INSERT OR IGNORE INTO picture VALUES(?,?)");
            picture.bind(0, static_cast<std::int64_t>(e.id)).bind(1, picture_blob(*e.picture), true);
            picture.run();
        }
        const auto& own = with_own_reference(item->cloud);
        const std::int64_t cloud = cloud_row(own, progress);
        cloud_rows_[own] = cloud;
        clouds_[cloud] = own;
        items.push_back({{"id", item->id},
                         {"name", item->name},
                         {"group", item->group},
                         {"origin", item->origin},
                         {"date", item->date},
                         {"visible", item->visible},
                         {"locked", item->locked},
                         {"style", style_json(item->style)},
                         {"ledger", ledger},
                         {"cloud", cloud}});
        json& j = items.back();
        if (item->cloud->base()) {
            j["reference"] = reference_json(*item->cloud);
            views_[{cloud, j["reference"].dump()}] = item->cloud;
        }
        if (item->survey != 0) j["survey"] = item->survey;
        if (item->thinned > 0) j["thinned"] = item->thinned;
        if (item->role != site::usual_role(*item->cloud)) j["role"] = site::name_of(item->role);
        if (!item->placement.empty()) j["placement"] = item->placement;
        if (!item->placed_by.empty()) j["placed_by"] = item->placed_by;
        for (const Feature& f : item->features) j["features"].push_back(feature_json(f));
        if (item->source) j["source"] = keep<site::SurfaceSource>(source_rows_, item->source, site::packed);
        if (item->drape)
            j["drape"] = keep<surface::Orthophoto>(drape_rows_, item->drape,
                                                   [](const auto& picture) { return picture.packed(); });
        if (item->scope) j["scope"] = keep_set(item->scope);
        if (item->hidden) j["hidden"] = keep_set(item->hidden);
        if (!item->unseen_classes.empty()) j["unseen_classes"] = item->unseen_classes;
        if (item->clipped) j["clipped"] = keep_set(item->clipped);
        if (item->clip_open) j["clip_open"] = true;
        for (const site::Guard& g : item->guards) j["guards"].push_back({g.id, g.name, keep_set(g.elements)});
        for (const site::KeptSelection& k : item->kept)
            j["kept"].push_back({k.id, k.name, keep_set(k.elements), site::told(k.origin.cause),
                                 k.origin.reason, json::parse(site::json_of(k.origin.cause))});
    }
    json j{{"name", s.name}, {"items", items}, {"active", s.active}, {"next_id", s.next_id}};
    const auto parts_json = [&](const site::Parts& parts) {
        if (parts.size() == 1 && parts.contains(s.active)) return json(keep_set(parts.begin()->second));
        json all = json::array();
        for (const auto& [item, set] : parts) all.push_back({item, keep_set(set)});
        return all;
    };
    if (!s.selection.empty()) j["selection"] = parts_json(s.selection);
    if (!s.selection.empty()) j["origin"] = origin_json(s.origin);
    if (!s.last_selection.empty()) j["last_origin"] = origin_json(s.last_origin);
    for (const site::ClipBox& c : s.clips) j["clips"].push_back(clip_json(c));
    if (s.clip != 0) j["clip"] = s.clip;
    if (s.of_removed) j["of_removed"] = true;
    if (!s.unit.empty()) j["unit"] = s.unit;
    for (const site::SiteClass& c : s.classes) j["classes"].push_back({c.code, c.name, c.colour});
    for (const site::Survey& v : s.surveys)
        j["surveys"].push_back({v.id, v.name, v.date, v.method, v.noise, v.systematic});
    for (const site::Making& m : s.makings) {
        json from = json::array();
        for (const site::MadeFrom& f : m.from) from.push_back({f.id, f.line, f.stamp});
        j["makings"].push_back({static_cast<int>(m.kind), m.item, m.group, from, m.interval, m.smoothed});
    }
    if (s.codes != site::CodeTable{}) {
        j["codes"] = {{"start", s.codes.start}, {"end", s.codes.end}, {"close", s.codes.close}};
        for (const site::CodeRule& r : s.codes.rules)
            j["codes"]["rules"].push_back({r.code, static_cast<int>(r.role)});
    }
    if (!s.lines.empty()) j["line_row"] = keep_lines(s.lines);
    if (!s.marks.empty()) j["marks"] = marks_json(s);
    if (!s.marks.empty()) j["marks_in"] = reference_json(site::reference_of(s));
    if (!s.last_selection.empty()) j["last_selection"] = parts_json(s.last_selection);
    return j.dump();
}

void Project::write(const site::Commit& commit, Progress& progress) {
    const auto known_clouds = cloud_rows_;
    const auto known_sets = set_rows_;
    const auto known_sources = source_rows_;
    const auto known_drapes = drape_rows_;
    const Lines known_lines = lines_;
    const auto clouds_before = clouds_;
    const auto sets_before = sets_;
    try {
        Transaction t(*db_);
        // An older program would take entries that give a class for removals.
        if (!current_) db_->run(fmt::format("PRAGMA user_version={}", kFormatVersion).c_str());
        Statement drop = db_->prepare("DELETE FROM site_commit WHERE number>=?");
        drop.bind(0, static_cast<std::int64_t>(commit.number));
        drop.run();
        Statement s = db_->prepare("INSERT INTO site_commit VALUES(?,?,?)");
        s.bind(0, static_cast<std::int64_t>(commit.number))
            .bind(1, commit.title)
            .bind(2, site_json(*commit.site, progress));
        s.run();
        set_note("cursor", std::to_string(commit.number));
        if (saved_mark() >= commit.number) set_note("saved", "0");  // what was saved has just been dropped
        t.commit();
    } catch (...) {
        cloud_rows_ = known_clouds;  // nothing of it is in the file
        set_rows_ = known_sets;
        source_rows_ = known_sources;
        drape_rows_ = known_drapes;
        lines_ = known_lines;
        clouds_ = clouds_before;
        sets_ = sets_before;
        throw;
    }
    current_ = true;
    if (bulk_) leave_bulk();
    for (const site::ItemPtr& item : commit.site->items)
        if (const auto& own = with_own_reference(item->cloud); known_clouds.find(own) == known_clouds.end())
            use_cloud_rows(reader_, cloud_rows_.at(own), *own);
    std::erase_if(set_rows_, [](const auto& known) { return known.first.expired(); });
    std::erase_if(sets_, [](const auto& known) { return known.second.expired(); });
}

void Project::set_cursor(std::uint64_t number) {
    set_note("cursor", std::to_string(number));
}
void Project::mark_saved(std::uint64_t number) {
    set_note("saved", std::to_string(number));
}

std::uint64_t Project::saved_mark() {
    const std::string text = note("saved");
    return text.empty() ? 0 : std::stoull(text);
}

void Project::set_note(const std::string& key, const std::string& text) {
    Statement s = db_->prepare("INSERT OR REPLACE INTO note VALUES(?,?)");
    s.bind(0, key).bind(1, text);
    s.run();
}

std::string Project::note(const std::string& key) {
    Statement s = db_->prepare("SELECT text FROM note WHERE key=?");
    s.bind(0, key);
    return s.step() ? s.bytes(0) : std::string();
}

site::SetPtr Project::load_set(std::int64_t row) {
    if (auto known = sets_[row].lock()) return known;
    Statement s = db_->prepare("SELECT data FROM elements WHERE id=?");
    s.bind(0, row);
    if (!s.step())
        throw Error(ErrorCode::Format, "A set of elements is missing in the project file", path_.string());
    auto set = std::make_shared<const ElementSet>(ElementSet::unpacked(s.bytes(0)));
    sets_[row] = set;
    set_rows_[set] = row;
    return set;
}

std::shared_ptr<const cloud::PointCloud> Project::load_cloud(std::int64_t row, Progress& progress) {
    if (auto known = clouds_[row].lock()) return known;
    auto c = read_cloud_rows(reader_, row, progress);
    clouds_[row] = c;
    cloud_rows_[c] = row;
    return c;
}

std::shared_ptr<const cloud::PointCloud> Project::under_reference(
    std::int64_t row, const std::string& reference, std::shared_ptr<const cloud::PointCloud> own) {
    auto& known = views_[{row, reference}];
    if (auto view = known.lock()) return view;
    const json j = json::parse(reference);
    auto view = cloud::with_reference(own, {j.at("crs"), j.at("unit"), j.value("height_unit", "")});
    if (j.contains("stations")) {
        std::vector<cloud::Station> stations;
        for (const json& s : j.at("stations")) stations.push_back({s.at(0), {s.at(1), s.at(2), s.at(3)}});
        view = cloud::with_stations(view, stations);
    }
    known = view;
    return view;
}

// A set of an item; it must be over as many elements.
site::SetPtr Project::load_set_for(const site::Item& item, std::int64_t row) {
    site::SetPtr set = load_set(row);
    if (set->size() != item.cloud->size())
        throw Error(ErrorCode::Format, "A set of elements does not fit its cloud", path_.string());
    return set;
}

site::LedgerEntry Project::load_entry(const site::Item& item, const json& e) {
    LedgerEntry entry{e.at("id"),
                      e.at("reason"),
                      cause_in(e.value("cause", json()), e.at("how")),
                      e.at("who"),
                      e.at("when"),
                      e.at("active"),
                      load_set_for(item, e.at("elements")),
                      nullptr};
    if (e.at("picture").get<bool>()) {
        Statement p = db_->prepare("SELECT data FROM picture WHERE entry=?");
        p.bind(0, static_cast<std::int64_t>(entry.id));
        if (p.step()) entry.picture = picture_from(p.bytes(0));
    }
    if (const auto made = e.find("made"); made != e.end()) entry.made = load_set_for(item, *made);
    if (const auto code = e.find("class"); code != e.end()) entry.to_class = code->get<std::uint8_t>();
    entry.edit = e.value("edit", 0u);
    return entry;
}

site::ItemPtr Project::load_item(const json& i, Progress& progress) {
    auto item = std::make_shared<Item>();
    item->id = i.at("id");
    item->name = i.at("name");
    item->group = i.value("group", "");
    item->origin = i.at("origin");
    item->date = i.value("date", "");
    item->survey = i.value("survey", std::uint64_t{0});
    item->thinned = i.value("thinned", 0.0);
    item->placement = i.value("placement", std::vector<double>{});
    item->placed_by = i.value("placed_by", "");
    for (const json& f : i.value("features", json::array())) item->features.push_back(feature_from(f));
    item->visible = i.at("visible");
    item->locked = i.at("locked");
    item->style = style_from(i.at("style"));
    item->cloud = load_cloud(i.at("cloud"), progress);
    if (i.contains("reference"))
        item->cloud = under_reference(i.at("cloud"), i.at("reference").dump(), item->cloud);
    item->role = site::role_of(i.value("role", ""), *item->cloud);
    for (const json& e : i.at("ledger")) item->ledger.push_back(load_entry(*item, e));
    if (i.contains("source"))
        item->source = load<site::SurfaceSource>(source_rows_, i.at("source"), site::unpacked_source,
                                                 "What a surface was built from");
    if (i.contains("drape"))
        item->drape = load<surface::Orthophoto>(drape_rows_, i.at("drape"), surface::Orthophoto::unpacked,
                                                "A picture of the ground");
    if (i.contains("scope")) item->scope = load_set_for(*item, i.at("scope"));
    item->unseen_classes = i.value("unseen_classes", std::vector<std::uint8_t>{});
    if (i.contains("hidden")) item->hidden = load_set_for(*item, i.at("hidden"));
    if (i.contains("clipped")) item->clipped = load_set_for(*item, i.at("clipped"));
    item->clip_open = i.value("clip_open", false);
    for (const json& g : i.value("guards", json::array()))
        item->guards.push_back({g.at(0), g.at(1), load_set_for(*item, g.at(2))});
    for (const json& k : i.value("kept", json::array()))
        item->kept.push_back({k.at(0), k.at(1), load_set_for(*item, k.at(2)),
                              k.size() > 4 ? origin_from(k, 3) : site::Origin{}});
    item->refresh_removed();
    return item;
}

// A number: of the item in work; older files know nothing else.
site::Parts Project::load_parts(const Site& site, const json& j) {
    site::Parts parts;
    const auto add = [&](std::uint64_t id, std::int64_t row) {
        const site::ItemPtr item = site.item(id);
        site::SetPtr set = load_set(row);
        // One that does not fit is none; the data matter more.
        if (item && set->size() == item->cloud->size() && !set->empty()) parts[id] = std::move(set);
    };
    if (j.is_number())
        add(site.active, j);
    else
        for (const json& one : j) add(one.at(0), one.at(1));
    return parts;
}

site::SitePtr Project::load_site(std::uint64_t number, Progress& progress) {
    Statement s = db_->prepare("SELECT site FROM site_commit WHERE number=?");
    s.bind(0, static_cast<std::int64_t>(number));
    if (!s.step()) throw Error(ErrorCode::Format, "A commit is missing in the project file", path_.string());
    try {
        const json j = json::parse(s.bytes(0));
        auto out = std::make_shared<Site>();
        out->name = j.at("name");
        out->active = j.at("active");
        out->next_id = j.at("next_id");
        for (const json& i : j.at("items")) out->items.push_back(load_item(i, progress));
        if (j.contains("selection")) out->selection = load_parts(*out, j.at("selection"));
        if (j.contains("origin")) out->origin = origin_from(j.at("origin"), 0);
        if (j.contains("last_origin")) out->last_origin = origin_from(j.at("last_origin"), 0);
        read_small_things(j, *out);
        if (j.contains("line_row")) out->lines = load_lines(j.at("line_row"));
        // Files of before had them here.
        for (const json& l : j.value("lines", json::array()))
            out->lines.push_back(std::make_shared<const site::Line>(line_from(l)));
        if (j.contains("last_selection")) out->last_selection = load_parts(*out, j.at("last_selection"));
        return out;
    } catch (const json::exception& e) {
        throw Error(ErrorCode::Format,
                    fmt::format("Commit {} in the project file is damaged: {}", number, e.what()),
                    path_.string());
    }
}

site::History Project::load(Progress& progress) {
    std::vector<site::Commit> commits;
    Statement s = db_->prepare("SELECT number, title FROM site_commit ORDER BY number");
    while (s.step()) commits.push_back({static_cast<std::uint64_t>(s.number(0)), s.bytes(1), nullptr});
    if (commits.empty()) throw Error(ErrorCode::Format, "The project holds nothing yet", path_.string());
    const std::string text = note("cursor");
    std::uint64_t at = commits.back().number;
    std::from_chars(text.data(), text.data() + text.size(), at);  // a word that is no number: the last one
    std::size_t cursor = commits.size() - 1;
    for (std::size_t i = 0; i < commits.size(); ++i)
        if (commits[i].number == at) cursor = i;
    commits[cursor].site = load_site(commits[cursor].number, progress);
    return site::History(std::move(commits), cursor,
                         [this](std::uint64_t number) { return load_site(number, Progress::none()); });
}

void Project::adopt(const site::History& history) {
    for (const site::Commit& c : history.commits()) {
        if (!c.site) continue;
        Statement s = db_->prepare("SELECT site FROM site_commit WHERE number=?");
        s.bind(0, static_cast<std::int64_t>(c.number));
        if (!s.step()) continue;
        const json j = json::parse(s.bytes(0));
        const json& items = j.at("items");
        for (std::size_t i = 0; i < std::min(items.size(), c.site->items.size()); ++i) {
            const Item& item = *c.site->items[i];
            const std::int64_t row = items[i].at("cloud");
            const auto& own = with_own_reference(item.cloud);
            if (cloud_rows_.emplace(own, row).second) use_cloud_rows(reader_, row, *own);
            clouds_[row] = own;
            if (items[i].contains("reference")) views_[{row, items[i].at("reference").dump()}] = item.cloud;
            const json& ledger = items[i].at("ledger");
            for (std::size_t e = 0; e < std::min(ledger.size(), item.ledger.size()); ++e) {
                set_rows_[item.ledger[e].elements] = ledger[e].at("elements");
                sets_[ledger[e].at("elements")] = item.ledger[e].elements;
                if (!item.ledger[e].made) continue;
                set_rows_[item.ledger[e].made] = ledger[e].at("made");
                sets_[ledger[e].at("made")] = item.ledger[e].made;
            }
            const auto known = [&](const json& row, const site::SetPtr& set) {
                if (!set) return;
                set_rows_[set] = row;
                sets_[row] = set;
            };
            if (item.source && items[i].contains("source")) source_rows_[item.source] = items[i].at("source");
            if (item.drape && items[i].contains("drape")) drape_rows_[item.drape] = items[i].at("drape");
            if (items[i].contains("scope")) known(items[i].at("scope"), item.scope);
            if (items[i].contains("hidden")) known(items[i].at("hidden"), item.hidden);
            if (items[i].contains("clipped")) known(items[i].at("clipped"), item.clipped);
            for (std::size_t g = 0; g < item.guards.size(); ++g)
                known(items[i].at("guards").at(g).at(2), item.guards[g].elements);
            for (std::size_t k = 0; k < item.kept.size(); ++k)
                known(items[i].at("kept").at(k).at(2), item.kept[k].elements);
        }
        const auto known_parts = [&](const char* key, const site::Parts& parts) {
            if (!j.contains(key)) return;
            const json& rows = j.at(key);
            std::size_t k = 0;
            for (const auto& [item_id, set] : parts) {
                const std::int64_t row = rows.is_number() ? rows : rows.at(k++).at(1);
                set_rows_[set] = row;
                sets_[row] = set;
            }
        };
        if (j.contains("line_row")) lines_ = {j.at("line_row"), c.site->lines};
        known_parts("selection", c.site->selection);
        known_parts("last_selection", c.site->last_selection);
    }
}

void Project::copy_to(const fs::path& target, bool replace) {
    std::error_code ignored;
    if (!replace && fs::exists(target, ignored))
        throw Error(ErrorCode::Conflict, "The file exists already", target.string(),
                    "Choose another name, or allow it to be replaced.");
    if (ProjectLock::held(target))
        throw Error(ErrorCode::Conflict, "The target is open in another window", target.string());
    // In a folder of its own, which takes along what SQLite leaves beside a copy that failed.
    OutputFolder folder(target, replace);
    {
        Statement s = db_->prepare("VACUUM INTO ?");
        s.bind(0, folder.path().string());
        s.run();
    }
    folder.finish();
}

}  // namespace pristine::store
