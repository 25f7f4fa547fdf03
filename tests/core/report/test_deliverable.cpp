// Deliverables: whole, checked by another office, and what is found when they were changed.

#include "core/report/deliverable.h"

#include <catch2/catch.hpp>

#include <fstream>
#include <nlohmann/json.hpp>
#include <set>

#include "core/base/checksum.h"
#include "core/base/error.h"
#include "core/report/report_site.h"
#include "core/report/verify.h"

using namespace pristine;
using namespace pristine::report;
using nlohmann::json;
namespace fs = std::filesystem;

namespace {

struct Made {
    test::TemporaryFolder folder;
    site::SitePtr site;
    Material material;

    Made() {
        test::LasSpec spec;
        spec.points = 5000;
        spec.scan_like = true;
        test::write_file(folder / "Kammer.las", test::las_file(spec));
        site = test::report_site(folder / "Kammer.las");
        material.site = site;
        material.program = "test";
        material.date = "2026-06-10";
    }
    fs::path at(const std::string& name) const { return folder / name; }
    json deliver(const std::string& name, DeliverableSetup setup = {}, bool replace = false) const {
        return report::deliver(material, setup, at(name), replace);
    }
};

DeliverableSetup with_sources() {
    DeliverableSetup s;
    s.sources = true;
    return s;
}

void change_json(const fs::path& path, const std::function<void(json&)>& change) {
    json j = json::parse(test::read_file(path));
    change(j);
    test::write_file(path, j.dump(1));
}

// The manifest says again what the files are, as somebody would who covers his tracks.
void say_again(const fs::path& folder) {
    change_json(folder / kManifest, [&](json& j) {
        for (json& f : j["files"]) {
            const fs::path file = folder / f.at("path").get<std::string>();
            if (!fs::exists(file)) continue;
            f["bytes"] = fs::file_size(file);
            f["sha256"] = sha256_of_file(file);
        }
    });
}

std::vector<fs::path> files_in(const fs::path& folder) {
    std::vector<fs::path> out;
    for (const auto& e : fs::recursive_directory_iterator(folder))
        if (e.is_regular_file() && e.path().filename() != kManifest) out.push_back(e.path());
    std::sort(out.begin(), out.end());
    return out;
}

void flip(const fs::path& file, std::uint64_t at) {
    std::fstream f(file, std::ios::in | std::ios::out | std::ios::binary);
    f.seekg(static_cast<std::streamoff>(at));
    const char c = static_cast<char>(f.get() ^ 0x10);
    f.seekp(static_cast<std::streamoff>(at));
    f.put(c);
}

}  // namespace

TEST_CASE("ADeliverableIsWholeAndChecksOut") {
    const Made m;
    const json manifest = m.deliver("out", with_sources());
    const Verified v = verify(m.at("out"));
    CHECK(v.problems == std::vector<std::string>{});
    CHECK(v.items == 3);
    CHECK(v.against_source == 1);
    CHECK(v.files == manifest.at("files").size());
    std::set<std::string> roles;
    for (const json& f : manifest["files"]) roles.insert(f.at("role").get<std::string>());
    CHECK(roles == std::set<std::string>{"cleaned", "ledger", "lines", "removed", "source", "surface"});
    // Umlauts and signs of the names are in paths that every system takes.
    for (const fs::path& f : files_in(m.at("out")))
        CHECK(f.filename().string().find_first_of("<>:\"/\\|?*") == std::string::npos);
}

TEST_CASE("AZipIsTheSameAsAFolder") {
    const Made m;
    m.deliver("out.zip", with_sources());
    m.deliver("out", with_sources());
    const Verified a = verify(m.at("out.zip")), b = verify(m.at("out"));
    CHECK(a.sound());
    CHECK(a.files == b.files);
    CHECK(a.against_source == 1);
    // Another program unpacks it.
    CHECK(std::system(("cd " + m.folder.path().string() + " && mkdir x && cd x && cmake -E tar xf ../out.zip")
                          .c_str()) == 0);
    CHECK(verify(m.at("x") / "out").sound());
}

TEST_CASE("SourcesMayLieElsewhere") {
    const Made m;
    m.deliver("out");
    const Verified without = verify(m.at("out")), with = verify(m.at("out"), m.folder.path());
    CHECK(without.sound());
    CHECK(without.against_source == 0);
    REQUIRE_FALSE(without.notes.empty());
    CHECK(with.against_source == 1);
    CHECK(with.sound());
}

TEST_CASE("EveryTamperingIsFound", "[statistics]") {
    const Made m;
    m.deliver("clean", with_sources());
    const auto seed = test::seed_for("tampering");
    CAPTURE(seed);
    std::mt19937_64 dice(seed);
    const fs::path folder = m.at("out");
    const auto pick = [&](const char* role) {
        std::vector<std::string> all;
        const json manifest = json::parse(test::read_file(folder / kManifest));
        for (const json& f : manifest["files"])
            if (f.at("role") == role) all.push_back(f.at("path"));
        return folder / all[std::uniform_int_distribution<std::size_t>(0, all.size() - 1)(dice)];
    };
    const auto anywhere = [&](const fs::path& file, std::uint64_t from = 0) {
        return std::uniform_int_distribution<std::uint64_t>(from, fs::file_size(file) - 1)(dice);
    };
    constexpr std::uint64_t kHead = 375;  // of a LAS 1.4 file
    const std::vector<std::pair<const char*, std::function<void()>>> kinds{
        {"a byte of any file",
         [&] {
             const auto all = files_in(folder);
             const fs::path f = all[std::uniform_int_distribution<std::size_t>(0, all.size() - 1)(dice)];
             flip(f, anywhere(f));
         }},
        {"a file is cut",
         [&] {
             const fs::path f = pick("cleaned");
             fs::resize_file(f, anywhere(f));
         }},
        {"a file is gone", [&] { fs::remove(pick("removed")); }},
        {"a file too many", [&] { test::write_file(folder / "removed" / "more.txt", "x"); }},
        {"a coordinate of a cleaned record, told anew",
         [&] {
             const fs::path f = pick("cleaned");
             // x, y or z of some record; the header says how long one is.
             const std::string bytes = test::read_file(f);
             const auto length = static_cast<std::uint64_t>(static_cast<unsigned char>(bytes[105])) |
                                 static_cast<std::uint64_t>(static_cast<unsigned char>(bytes[106])) << 8;
             std::uint32_t start = 0;
             std::memcpy(&start, bytes.data() + 96, 4);
             const std::uint64_t records = (bytes.size() - start) / length;
             flip(f, start + length * std::uniform_int_distribution<std::uint64_t>(0, records / 2)(dice) +
                         std::uniform_int_distribution<std::uint64_t>(0, 11)(dice));
             say_again(folder);
         }},
        {"a removed file is another's, told anew",
         [&] {
             const fs::path f = pick("removed");
             for (const fs::path& other : files_in(folder / "removed"))
                 if (other != f) {
                     fs::copy_file(other, f, fs::copy_options::overwrite_existing);
                     break;
                 }
             say_again(folder);
         }},
        {"the ledger forgets a decision",
         [&] {
             change_json(folder / "ledger.json", [](json& j) { j["items"][2]["entries"].erase(0); });
             say_again(folder);
         }},
        {"the ledger says fewer",
         [&] {
             change_json(folder / "ledger.json", [](json& j) { j["items"][2]["entries"][1]["count"] = 3; });
             say_again(folder);
         }},
        {"the ledger says that it is lifted",
         [&] {
             change_json(folder / "ledger.json",
                         [](json& j) { j["items"][2]["entries"][0]["in_force"] = false; });
             say_again(folder);
         }},
        {"the manifest says fewer removed",
         [&] { change_json(folder / kManifest, [](json& j) { j["items"][2]["removed"]["Person"] = 1; }); }},
        {"the manifest says more left",
         [&] { change_json(folder / kManifest, [](json& j) { j["items"][2]["left"] = 5000; }); }},
        {"the manifest forgets a file",
         [&] { change_json(folder / kManifest, [](json& j) { j["files"].erase(1); }); }},
        {"the manifest forgets an item",
         [&] { change_json(folder / kManifest, [](json& j) { j["items"].erase(0); }); }},
        {"the source is another, told anew",
         [&] {
             const fs::path f = pick("source");
             flip(f, anywhere(f, kHead));
             say_again(folder);
         }},
        {"a triangle less, told anew",
         [&] {
             const fs::path f = pick("surface");
             std::string text = test::read_file(f);
             const auto last = text.rfind("<F");
             const auto end = text.find("</F>", last);
             text.erase(last, end + 4 - last);
             test::write_file(f, text);
             say_again(folder);
         }},
    };
    // Each twice, at places drawn anew.
    for (int round = 0; round < 2; ++round)
        for (const auto& [name, tamper] : kinds) {
            CAPTURE(name, round);
            fs::remove_all(folder);
            fs::copy(m.at("clean"), folder, fs::copy_options::recursive);
            REQUIRE(verify(folder).sound());
            tamper();
            bool found = false;
            try {
                found = !verify(folder).sound();
            } catch (const Error&) {
                found = true;
            }
            CHECK(found);
        }
}

TEST_CASE("ADeliverableReplacesOnlyAnotherOne") {
    const Made m;
    m.deliver("out");
    CHECK_THROWS_AS(m.deliver("out"), Error);
    CHECK_NOTHROW(m.deliver("out", {}, true));
    CHECK(verify(m.at("out")).sound());
    fs::create_directory(m.at("photos"));
    test::write_file(m.at("photos") / "mine.jpg", "x");
    CHECK_THROWS_AS(m.deliver("photos", {}, true), Error);
    CHECK(fs::exists(m.at("photos") / "mine.jpg"));
    // Never into the folder of its own sources.
    CHECK_THROWS_AS(report::deliver(m.material, {}, m.folder.path(), true), Error);
    CHECK(fs::exists(m.at("Kammer.las")));
    for (const auto& e : fs::directory_iterator(m.folder.path()))
        CHECK(e.path().filename().string()[0] != '.');
}

TEST_CASE("ACancelledDeliverableLeavesNothing") {
    const Made m;
    Progress p;
    p.cancel();
    CHECK_THROWS_AS(report::deliver(m.material, with_sources(), m.at("out"), false, p), Cancelled);
    CHECK_FALSE(fs::exists(m.at("out")));
    for (const auto& e : fs::directory_iterator(m.folder.path()))
        CHECK(e.path().filename().string()[0] != '.');
}

TEST_CASE("ThePlanOfADeliverableIsWhatIsWritten") {
    const Made m;
    DeliverableSetup setup;
    setup.recipe = R"({"pristine_recipe":1,"steps":[]})";
    std::set<std::string> planned, written{kManifest};
    for (const auto& f : deliverable_plan(m.material, setup).files) planned.insert(f.path);
    const json manifest = m.deliver("out", setup);
    for (const json& f : manifest.at("files"))
        if (f.at("role") != "companion") written.insert(f.at("path").get<std::string>());
    CHECK(planned == written);
}

TEST_CASE("BrokenDeliverablesAreRefusedWithASentence") {
    const test::TemporaryFolder folder;
    for (const char* text :
         {"", "{}", "[]", R"({"format":"pristine-deliverable","version":1,"files":[{}],"items":[{}]})",
          R"({"format":"pristine-deliverable","version":99,"files":[],"items":[]})"}) {
        test::write_file(folder / kManifest, text);
        CHECK_THROWS_AS(verify(folder.path()), Error);
    }
    test::write_file(folder / "x.zip", "PK nonsense");
    CHECK_THROWS_AS(verify(folder / "x.zip"), Error);
    CHECK_THROWS_AS(verify(folder / "nothing"), Error);
    test::write_file(
        folder / kManifest,
        R"({"format":"pristine-deliverable","version":1,"items":[],"files":[{"path":"../../etc/passwd","bytes":1,"sha256":"x"}]})");
    CHECK_FALSE(verify(folder.path()).sound());
}

TEST_CASE("Sha256IsThatOfTheStandard") {
    CHECK(sha256_of("") == "e3b0c44298fc1c149afbf4c8996fb92427ae41e4649b934ca495991b7852b855");
    CHECK(sha256_of("abc") == "ba7816bf8f01cfea414140de5dae2223b00361a396177a9cb410ff61f20015ad");
    CHECK(sha256_of(std::string(1'000'000, 'a')) ==
          "cdc76e5c9914fb9281a1c7e284d73e67f1809a48a497200e046d39ccc7112cd0");
    const test::TemporaryFolder folder;
    test::write_file(folder / "a", std::string(3'000'001, 'b'));
    CHECK(sha256_of_file(folder / "a") == sha256_of(std::string(3'000'001, 'b')));
}
