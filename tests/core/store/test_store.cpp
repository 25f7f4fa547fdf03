#include <catch2/catch.hpp>

#include <sys/wait.h>
#include <unistd.h>

#include <csignal>
#include <nlohmann/json.hpp>

#include "core/base/file.h"
#include "core/base/parallel.h"
#include "core/io/keep.h"
#include "core/store/database.h"
#include "core/store/journal.h"
#include "support/cloud_makers.h"

using namespace pristine;
using namespace pristine::site;
using store::Project;

namespace {

SitePtr site_from_las(const test::TemporaryFolder& f, std::uint64_t points) {
    test::write_file(f / "chamber.las", test::las_file({4, 7, points, 2, "", 3}));
    const SitePtr s = add_cloud(Site{}, io::read_cloud(f / "chamber.las").cloud, "Chamber", "chamber.las");
    return set_group(*s, s->active, "Lower");
}

ElementSet random_members(std::uint64_t size, std::uint64_t n, std::mt19937_64& dice) {
    ElementSet s(size);
    for (std::uint64_t i = 0; i < n; ++i) s.insert(dice() % size);
    return s;
}

bool same_parts(const Parts& a, const Parts& b) {
    return std::equal(a.begin(), a.end(), b.begin(), b.end(), [](const auto& x, const auto& y) {
        return x.first == y.first && *x.second == *y.second;
    });
}

bool same_site(const Site& a, const Site& b) {
    bool same = a.name == b.name && a.active == b.active && a.next_id == b.next_id &&
                a.items.size() == b.items.size() && a.selected() == b.selected() &&
                a.of_removed == b.of_removed && same_parts(a.last_selection, b.last_selection) &&
                a.clip == b.clip && a.clips.size() == b.clips.size() && a.unit == b.unit &&
                a.lines.size() == b.lines.size();
    for (std::size_t i = 0; same && i < a.lines.size(); ++i)
        same = a.lines[i]->name == b.lines[i]->name && a.lines[i]->points == b.lines[i]->points &&
               a.lines[i]->closed == b.lines[i]->closed && a.lines[i]->visible == b.lines[i]->visible &&
               a.lines[i]->id == b.lines[i]->id;
    if (same) same = same_parts(a.selection, b.selection);
    for (std::size_t i = 0; same && i < a.items.size(); ++i) {
        const Item &x = *a.items[i], &y = *b.items[i];
        same = x.id == y.id && x.name == y.name && x.group == y.group && x.origin == y.origin &&
               x.visible == y.visible && x.locked == y.locked && x.style == y.style &&
               *x.removed == *y.removed && *x.absent == *y.absent && x.ledger.size() == y.ledger.size() &&
               x.guards.size() == y.guards.size() && x.kept.size() == y.kept.size() &&
               (x.scope == nullptr) == (y.scope == nullptr) && (x.hidden == nullptr) == (y.hidden == nullptr);
        for (std::size_t g = 0; same && g < x.guards.size(); ++g)
            same = x.guards[g].id == y.guards[g].id && x.guards[g].name == y.guards[g].name &&
                   *x.guards[g].elements == *y.guards[g].elements;
        for (std::size_t k = 0; same && k < x.kept.size(); ++k)
            same = x.kept[k].name == y.kept[k].name && *x.kept[k].elements == *y.kept[k].elements;
        for (std::size_t e = 0; same && e < x.ledger.size(); ++e) {
            const LedgerEntry &p = x.ledger[e], &q = y.ledger[e];
            same = p.id == q.id && p.reason == q.reason && p.cause == q.cause && p.who == q.who &&
                   p.when == q.when && p.active == q.active && *p.elements == *q.elements &&
                   (p.picture != nullptr) == (q.picture != nullptr);
            if (same && p.picture)
                same = p.picture->rgb == q.picture->rgb && p.picture->width == q.picture->width;
        }
    }
    return same;
}

bool same_cloud(const cloud::PointCloud& a, const cloud::PointCloud& b) {
    if (a.size() != b.size() || a.records()->count() != b.records()->count()) return false;
    for (std::size_t p = 0; p < a.page_count(); ++p) {
        const auto differ = [](const auto& one, const auto& other) {
            return !std::ranges::equal(one, other);
        };
        const auto at = a.positions(p), bt = b.positions(p);
        if (differ(at.x, bt.x) || differ(at.y, bt.y) || differ(at.z, bt.z)) return false;
        if (a.order()->page(p) != b.order()->page(p) || a.info(p).spacing != b.info(p).spacing) return false;
        if (differ(a.intensity()->page(p), b.intensity()->page(p)) ||
            differ(a.colour()->page(p), b.colour()->page(p)) ||
            differ(a.classification()->page(p), b.classification()->page(p)))
            return false;
    }
    const std::size_t bytes = a.records()->layout().record_bytes;
    std::vector<std::byte> x(a.records()->count() * bytes), y(x.size());
    a.records()->read(0, x);
    b.records()->read(0, y);
    return x == y && a.records()->layout().head == b.records()->layout().head;
}

Decision decision() {
    auto t = std::make_shared<Thumbnail>();
    t->width = 2;
    t->height = 1;
    t->rgb = {1, 2, 3, 4, 5, 6};
    return {"Person", site::said("polygon fence, through"), {"ada", "2026-11-25T08:41:00"}, t};
}

}  // namespace

TEST_CASE("AProjectComesBackWithCloudLedgerSelectionAndHistory") {
    const test::TemporaryFolder f;
    std::mt19937_64 dice(1);
    History h(site_from_las(f, 150000));
    const std::uint64_t n = 150000;
    {
        auto p = Project::create(f / "lock.pristine");
        p->write(h.current());
        h.commit(site::select(*h.now(), random_members(n, 500, dice), Combine::New), "Select");
        p->write(h.current());
        h.commit(set_unit(*put_lines(*remove_selection(*h.now(), decision()),
                                     {{0, "Apron", {{1, 2, 3}, {4, 5, 6}, {7, 1, 2}}, true, false}}),
                          "usft"),
                 "Remove");
        p->write(h.current());
        h.commit(site::select(*h.now(), ElementSet::all(n), Combine::New), "Select all");
        p->write(h.current());
        h.undo();
        p->set_cursor(h.current().number);
        p->set_note("view", "north");
        p->mark_saved(h.current().number);
    }
    std::filesystem::remove(f / "chamber.las");  // nothing of it may still be needed
    auto p = Project::open(f / "lock.pristine");
    History back = p->load();
    CHECK(p->note("view") == "north");
    CHECK(p->saved_mark() == h.current().number);
    REQUIRE(back.commits().size() == 4);
    CHECK(back.cursor() == 2);
    CHECK(back.redo_title() == "Select all");
    CHECK(same_site(*back.now(), *h.now()));
    CHECK(same_cloud(*back.now()->items[0]->cloud, *h.now()->items[0]->cloud));
    for (std::size_t i : {0u, 1u, 3u}) {
        back.go_to(i);
        CHECK(same_site(*back.now(), *h.commits()[i].site));
        CHECK(back.now()->items[0]->cloud == back.commits()[2].site->items[0]->cloud);  // loaded once, shared
    }
    // Do after undo, and reopen once more.
    back.go_to(1);
    back.commit(clear_selection(*back.now()), "Drop");
    p->write(back.current());
    p.reset();
    p = Project::open(f / "lock.pristine");
    const History again = p->load();
    CHECK(again.commits().size() == 3);
    CHECK(again.current().title == "Drop");
}

TEST_CASE("ExportFromAReopenedProjectIsTheComplementBitForBit") {
    const test::TemporaryFolder f;
    std::mt19937_64 dice(2);
    SitePtr s = site_from_las(f, 70000);
    s = remove_selection(*site::select(*s, random_members(70000, 3000, dice), Combine::New), decision());
    io::write_cloud({{s->items[0]->cloud, io::keep_all_but(*s->items[0]->cloud, *s->items[0]->removed)}},
                    f / "direct.las");
    {
        auto p = Project::create(f / "a.pristine");
        p->write({1, "", s});
        io::write_cloud({{s->items[0]->cloud, io::keep_all_but(*s->items[0]->cloud, *s->items[0]->removed)}},
                        f / "moved.las");
    }
    auto p = Project::open(f / "a.pristine");
    const SitePtr back = p->load().now();
    io::write_cloud(
        {{back->items[0]->cloud, io::keep_all_but(*back->items[0]->cloud, *back->items[0]->removed)}},
        f / "stored.las");
    CHECK(test::read_file(f / "direct.las") == test::read_file(f / "stored.las"));
    CHECK(test::read_file(f / "direct.las") == test::read_file(f / "moved.las"));
}

TEST_CASE("ACopyOfAProjectIsWholeAndGoesOnByItself") {
    const test::TemporaryFolder f;
    History h(site_from_las(f, 5000));
    auto p = Project::create(f / "a.pristine");
    p->write(h.current());
    CHECK_THROWS_AS(p->copy_to(f / "chamber.las", false), Error);
    p->copy_to(f / "b.pristine", false);
    auto q = Project::open(f / "b.pristine");
    q->adopt(h);
    h.commit(site::select(*h.now(), ElementSet::all(5000), Combine::New), "Select all");
    q->write(h.current());
    q.reset();
    CHECK(Project::open(f / "b.pristine")->load().now()->selected() == 5000);
    p.reset();
    CHECK(Project::open(f / "a.pristine")->load().commits().size() == 1);
}

TEST_CASE("OneProjectCannotBeOpenedTwice") {
    const test::TemporaryFolder f;
    auto p = Project::create(f / "a.pristine");
    p->write({1, "", site_from_las(f, 10)});
    CHECK(store::ProjectLock::held(f / "a.pristine"));
    CHECK_THROWS_AS(Project::open(f / "a.pristine"), Error);
    p.reset();
    CHECK_FALSE(store::ProjectLock::held(f / "a.pristine"));
    CHECK_NOTHROW(Project::open(f / "a.pristine"));
}

TEST_CASE("OtherFilesAreRefusedAsProjects") {
    const test::TemporaryFolder f;
    test::write_file(f / "no.pristine", "SQLite format 3 but not really");
    CHECK_THROWS_AS(Project::open(f / "no.pristine"), Error);
    test::write_file(f / "empty.pristine", "");
    CHECK_THROWS_AS(Project::open(f / "empty.pristine"), Error);
    CHECK_THROWS_AS(Project::open(f / "missing.pristine"), Error);
}

TEST_CASE("ADamagedProjectGivesAnErrorAndNoCrash") {
    const test::TemporaryFolder f;
    std::mt19937_64 dice(test::seed_for("Damage"));
    {
        auto p = Project::create(f / "a.pristine");
        SitePtr s = site_from_las(f, 20000);
        p->write({1, "", site::select(*s, random_members(20000, 900, dice), Combine::New)});
    }
    const std::string good = test::read_file(f / "a.pristine");
    int refused = 0;
    for (int round = 0; round < 60; ++round) {
        std::string bad = good;
        for (int k = 0; k < 40; ++k) bad[100 + dice() % (bad.size() - 100)] = static_cast<char>(dice());
        test::write_file(f / "bad.pristine", bad);
        try {
            auto p = Project::open(f / "bad.pristine");
            History h = p->load();
            std::vector<std::byte> raw(h.now()->items.at(0)->cloud->records()->layout().record_bytes);
            h.now()->items.at(0)->cloud->records()->read(0, raw);
        } catch (const std::exception&) {
            ++refused;
        }
    }
    CHECK(refused > 0);
}

namespace {

// Puts something else in place of one value of a JSON text.
std::string spoilt(const std::string& text, std::mt19937_64& dice) {
    nlohmann::json j = nlohmann::json::parse(text);
    std::vector<nlohmann::json::json_pointer> places;
    const auto flat = j.flatten();
    for (const auto& [place, value] : flat.items()) places.emplace_back(place);
    if (places.empty()) return "[";
    static const std::vector<nlohmann::json> others{nullptr,
                                                    -1,
                                                    1e18,
                                                    9223372036854775807,
                                                    "word",
                                                    0,
                                                    3,
                                                    1.5,
                                                    true,
                                                    nlohmann::json::array(),
                                                    nlohmann::json::object()};
    auto place = places[dice() % places.size()];
    if (dice() % 4 == 0 && !place.empty()) place.pop_back();
    j[place] = others[dice() % others.size()];
    return j.dump();
}

std::string spoilt_bytes(std::string bytes, std::mt19937_64& dice) {
    if (bytes.empty()) return "x";
    if (dice() % 4 == 0) bytes.resize(dice() % bytes.size());
    for (int k = 0; k < 3 && !bytes.empty(); ++k) bytes[dice() % bytes.size()] = static_cast<char>(dice());
    return bytes;
}

void spoil(const std::filesystem::path& project, std::mt19937_64& dice) {
    static const std::tuple<const char*, const char*, bool> kCells[] = {
        {"cloud", "meta", true},     {"cloud", "head", false},      {"cloud", "info", false},
        {"page", "data", false},     {"page", "ordering", false},   {"record", "data", false},
        {"elements", "data", false}, {"site_commit", "site", true}, {"note", "text", false}};
    const auto& [table, column, is_json] = kCells[dice() % std::size(kCells)];
    store::Database db(project, store::Database::Mode::ReadWrite);
    const std::string key = std::string(table) == "page"     ? "page"
                            : std::string(table) == "record" ? "chunk"
                                                             : "rowid";
    std::string bytes;
    std::string where;
    {
        store::Statement s = db.prepare(
            ("SELECT " + std::string(column) + ", " + key + " FROM " + table + " ORDER BY random() LIMIT 1")
                .c_str());
        if (!s.step()) return;
        bytes = s.bytes(0);
        where = std::to_string(s.number(1));
    }
    bytes = is_json ? spoilt(bytes, dice) : spoilt_bytes(bytes, dice);
    store::Statement u = db.prepare(
        ("UPDATE " + std::string(table) + " SET " + column + "=? WHERE " + key + "=" + where).c_str());
    u.bind(0, bytes, !is_json);
    u.run();
}

// Everything that a project holds is asked for once.
void touch(const std::filesystem::path& project, const test::TemporaryFolder& f) {
    auto p = Project::open(project);
    const History h = p->load();
    for (const ItemPtr& item : h.now()->items) {
        const auto& c = *item->cloud;
        const auto order = c.order();
        for (std::size_t k = 0; k < c.page_count(); ++k) (void)order->page(k);
        const ElementSet removed = *item->removed;
        for (const char* name : {"out.las", "out.ply", "out.e57", "out.ptx", "out.txt"}) try {
                io::write_cloud({{item->cloud, io::keep_all_but(c, removed, Progress::none())}}, f / name,
                                {true});
            } catch (const Error&) {
            }
    }
}

}  // namespace

TEST_CASE("EverythingThatIsReadFromAProjectIsChecked") {
    const test::TemporaryFolder f;
    const std::uint64_t seed = test::seed_for("spoilt projects");
    CAPTURE(seed);
    std::mt19937_64 dice(seed);
    std::vector<std::string> projects;
    const auto keep = [&](const SitePtr& s) {
        {
            auto p = Project::create(f / "a.pristine");
            p->write({1, "", s});
        }
        projects.push_back(test::read_file(f / "a.pristine"));
        REQUIRE(Project::open(f / "a.pristine")->load().now()->items.size() == 1);
        std::filesystem::remove(f / "a.pristine");
    };
    keep(site::select(*site_from_las(f, 3000), random_members(3000, 200, dice), Combine::New));
    keep(add_cloud(Site{}, test::e57_scans(500, 3), "Scans", "scans.e57"));
    test::write_file(f / "a.ptx", test::ptx_text(20, 15, true));
    keep(add_cloud(Site{}, io::read_cloud(f / "a.ptx").cloud, "Grid", "a.ptx"));
    test::write_file(
        f / "a.ply",
        "ply\nformat ascii 1.0\nelement vertex 4\nproperty float x\nproperty float y\nproperty float z\n"
        "property uchar red\nproperty uchar green\nproperty uchar blue\nelement face 2\nproperty list uchar "
        "int vertex_indices\nend_header\n0 0 0 1 2 3\n1 0 0 4 5 6\n1 1 0 7 8 9\n0 1 0 1 1 1\n3 0 1 2\n3 0 2 "
        "3\n");
    keep(add_cloud(Site{}, io::read_cloud(f / "a.ply").cloud, "Mesh", "a.ply"));
    int refused = 0;
    const int rounds = 400;
    for (int round = 0; round < rounds; ++round) {
        CAPTURE(round);
        for (const char* beside : {"bad.pristine-wal", "bad.pristine-shm"})
            std::filesystem::remove(f / beside);
        test::write_file(f / "bad.pristine", projects[dice() % projects.size()]);
        spoil(f / "bad.pristine", dice);
        try {
            touch(f / "bad.pristine", f);
        } catch (const Error&) {
            ++refused;
        }
    }
    CHECK(refused > rounds / 10);
}

TEST_CASE("AProjectIsDataAndNoProgram") {
    const test::TemporaryFolder f;
    {
        auto p = Project::create(f / "a.pristine");
        p->write({1, "", site_from_las(f, 100)});
    }
    {
        store::Database db(f / "a.pristine", store::Database::Mode::ReadWrite);
        db.run(
            "ALTER TABLE note RENAME TO other;"
            "CREATE VIEW note AS WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i+1 FROM n) "
            "SELECT 'cursor' AS key, i AS text FROM n;");
    }
    CHECK_THROWS_AS(Project::open(f / "a.pristine")->load(), Error);
    {
        store::Database db(f / "a.pristine", store::Database::Mode::ReadWrite);
        db.run(
            "DROP VIEW note; ALTER TABLE other RENAME TO note; INSERT OR REPLACE INTO note "
            "VALUES('cursor','word');");
    }
    CHECK(Project::open(f / "a.pristine")->load().now()->items.size() == 1);
}

TEST_CASE("TheJournalWritesInOrderAndTellsWhatIsSafe") {
    const test::TemporaryFolder f;
    History h(site_from_las(f, 1000));
    std::mt19937_64 dice(5);
    {
        store::Journal j(Project::create(f / "a.pristine"));
        j.commit(h.current());
        for (int i = 0; i < 30; ++i)
            j.commit(h.commit(site::select(*h.now(), random_members(1000, 20, dice), Combine::Add),
                              "Select " + std::to_string(i)));
        REQUIRE(j.flush());
        CHECK(j.status().safe == h.current().number);
        CHECK(j.status().waiting == 0);
        j.cursor(7);
    }  // the destructor waits for the cursor
    auto p = Project::open(f / "a.pristine");
    const History back = p->load();
    CHECK(back.commits().size() == 31);
    CHECK(back.current().number == 7);
}

// The child commits in a loop and reports each commit through a pipe after it is safe; the parent kills it at
// a random moment and looks whether everything reported is there and nothing else is broken.
TEST_CASE("NoReportedCommitIsLostWhenTheProcessIsKilled", "[kill]") {
    const test::TemporaryFolder f;
    const SitePtr first = site_from_las(f, 80000);
    const std::uint64_t seed = test::seed_for("Kill");
    CAPTURE(seed);
    std::mt19937_64 dice(seed);
    const char* rounds_text = std::getenv("PRISTINE_KILL_ROUNDS");
    const int rounds = rounds_text ? std::atoi(rounds_text) : 100;
    std::uint64_t all_reported = 0;
    for (int round = 0; round < rounds; ++round) {
        CAPTURE(round);
        const auto file = f / ("k" + std::to_string(round) + ".pristine");
        {
            auto p = Project::create(file);
            p->write({1, "", first});
        }
        int pipe_ends[2];
        REQUIRE(::pipe(pipe_ends) == 0);
        const std::uint64_t child_seed = dice();
        const pid_t child = ::fork();
        REQUIRE(child >= 0);
        if (child == 0) {
            const parallel::WorkerLimit alone(1);  // the threads of the parent do not exist here
            ::close(pipe_ends[0]);
            std::mt19937_64 own(child_seed);
            auto p = Project::open(file);
            History h = p->load();
            std::uint64_t ready = 1;  // the first commit is there already
            if (::write(pipe_ends[1], &ready, sizeof ready) != sizeof ready) ::_exit(0);
            for (std::uint64_t n = 2;; ++n) {
                h.commit(site::select(*h.now(), random_members(80000, 300, own), Combine::New),
                         "Select " + std::to_string(n));
                p->write(h.current());
                if (::write(pipe_ends[1], &n, sizeof n) != sizeof n) ::_exit(0);
            }
        }
        ::close(pipe_ends[1]);
        std::uint64_t reported = 1, n = 0;
        REQUIRE(::read(pipe_ends[0], &n, sizeof n) ==
                sizeof n);  // it is ready; from here on any moment will do
        ::usleep(static_cast<useconds_t>(dice() % 60000));
        ::kill(child, SIGKILL);
        while (::read(pipe_ends[0], &n, sizeof n) == sizeof n) reported = n;
        ::close(pipe_ends[0]);
        int status = 0;
        ::waitpid(child, &status, 0);
        REQUIRE(WIFSIGNALED(status));
        auto p = Project::open(file);
        History h = p->load();
        REQUIRE(h.current().number >= reported);
        REQUIRE(h.current().number <= reported + 1);  // at most the one that was being reported
        // The content is that of the seed, not just some number.
        std::mt19937_64 own(child_seed);
        ElementSet expected(80000);
        for (std::uint64_t k = 2; k <= h.current().number; ++k) expected = random_members(80000, 300, own);
        if (h.current().number > 1) REQUIRE(*h.now()->selection_in_work() == expected);
        all_reported += reported - 1;
    }
    CHECK(all_reported > static_cast<std::uint64_t>(rounds) / 4);  // the children did get to commit
}

TEST_CASE("GuardsPiecesHiddenAndKeptSelectionsAreInTheProject") {
    const test::TemporaryFolder folder;
    std::mt19937_64 dice(11);
    History h(site_from_las(folder, 70000));
    const auto change = [&](const SitePtr& s) { h.commit(s, "Change"); };
    change(site::select(*h.now(), random_members(70000, 500, dice), Combine::New));
    change(keep_selection(*h.now(), "Left wall"));
    change(remove_selection(*h.now(), decision()));
    change(guard(*h.now(), random_members(70000, 900, dice), "Ground, up to 0.05 m"));
    change(site::select(*h.now(), random_members(70000, 900, dice), Combine::New));
    change(set_apart(*h.now(), "Cart", true));
    change(site::select(*h.now(), random_members(70000, 900, dice), Combine::New));
    change(hide_selection(*h.now()));
    change(use_clip(*h.now(), {0, "Corner", {h.now()->items[0]->cloud->bounds().lo, {20, 20, 1000}, 30}}));
    change(select_removed(*h.now(), random_members(70000, 60000, dice), Combine::New));
    {
        auto project = Project::create(folder / "site.pristine");
        for (const Commit& c : h.commits()) project->write(c);
    }
    auto project = Project::open(folder / "site.pristine");
    History back = project->load();
    for (;;) {
        CHECK(same_site(*h.now(), *back.now()));
        if (!h.can_undo()) break;
        h.undo();
        back.undo();
    }
}

TEST_CASE("LinesAreWrittenOnceAndAgainOnlyWhenOneOfThemChanges") {
    const test::TemporaryFolder folder;
    site::SitePtr s = std::make_shared<const site::Site>();
    std::vector<site::Line> many;
    for (int k = 0; k < 300; ++k) {
        site::Line l;
        l.name = "contour " + std::to_string(k);
        for (int i = 0; i < 200; ++i) l.points.push_back({412300.125 + i, 5218930.5 + k, 58 + 0.01 * i});
        l.closed = k % 3 == 0;
        l.group = "Contours";
        many.push_back(std::move(l));
    }
    s = site::put_lines(*s, many);
    site::History h(std::make_shared<const site::Site>());
    h.commit(s, "Contours");
    const auto rows = [&] {
        store::Database db(folder / "a.pristine", store::Database::Mode::Read);
        store::Statement n = db.prepare("SELECT count(*) FROM elements");
        n.step();
        return n.number(0);
    };
    {
        const auto project = store::Project::create(folder / "a.pristine");
        for (const site::Commit& c : h.commits()) project->write(c);
        const auto before = rows();
        for (int k = 0; k < 5; ++k) {
            auto next = std::make_shared<site::Site>(*h.now());
            next->name = "Yard " + std::to_string(k);
            h.commit(next, "Rename");
            project->write(h.current());
        }
        CHECK(rows() == before);
        site::Line one = *h.now()->lines[7];
        one.points[3].z += 1;
        h.commit(site::put_lines(*h.now(), {one}), "Move a corner");
        project->write(h.current());
        CHECK(rows() == before + 1);
    }
    const auto project = store::Project::open(folder / "a.pristine");
    site::History read = project->load();
    const auto same = [](const site::Site& a, const site::Site& b) {
        REQUIRE(a.lines.size() == b.lines.size());
        for (std::size_t i = 0; i < a.lines.size(); ++i) {
            const site::Line &p = *a.lines[i], &q = *b.lines[i];
            REQUIRE(p.id == q.id);
            REQUIRE(p.name == q.name);
            REQUIRE(p.points == q.points);
            REQUIRE(p.closed == q.closed);
            REQUIRE(p.group == q.group);
        }
    };
    same(*read.now(), *h.now());
    CHECK(read.now()->lines[7]->points[3].z == many[7].points[3].z + 1);
    read.undo();
    h.undo();
    same(*read.now(), *h.now());
    CHECK(read.now()->lines[7]->points[3].z == many[7].points[3].z);
    // Two commits with the same lines share them.
    const auto shared = read.now()->lines[0];
    read.undo();
    CHECK(read.now()->lines[0] == shared);
}
