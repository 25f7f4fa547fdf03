// The arrow of dependency, read from the includes.

#include <catch2/catch.hpp>

#include <algorithm>
#include <cctype>
#include <filesystem>
#include <regex>
#include <sstream>

#include "support/cloud_makers.h"

namespace fs = std::filesystem;

namespace {

const std::vector<std::string> kCoreOrder{"base",    "geometry", "elements", "topology", "mesh",
                                          "cloud",   "terrain",  "surface",  "select",   "place",
                                          "tunnel",  "score",    "objects",  "recipe",   "repair",
                                          "measure", "io",       "site",     "store",    "report"};

const std::vector<std::string> kAppOrder{"look",  "model", "tools",    "stage",
                                         "cards", "panes", "handover", "window"};

int rank(const std::vector<std::string>& order, const std::string& folder) {
    const auto it = std::find(order.begin(), order.end(), folder);
    return it == order.end() ? -1 : static_cast<int>(it - order.begin());
}

// What a file of this part of the tree may not include; empty: fine.
std::string fault(const std::string& file, const std::string& include, bool angle) {
    std::stringstream parts(file);
    std::string layer, folder;
    std::getline(parts, layer, '/');
    std::getline(parts, folder, '/');
    const bool qt = angle && include.size() > 1 && include[0] == 'Q' &&
                    std::isupper(static_cast<unsigned char>(include[1])) != 0;
    if ((layer == "core" || layer == "render" || layer == "cli" || layer == "demo") &&
        (qt || include.rfind("Qt", 0) == 0))
        return "a Qt header";
    if (angle && include.rfind("tbb/", 0) == 0 && file.rfind("core/base/parallel", 0) != 0)
        return "the threading library outside base/parallel";
    if (angle && include == "sqlite3.h" && file.rfind("core/store/database", 0) != 0)
        return "SQLite outside store/database";
    if (angle) return {};
    const std::string target = include.substr(0, include.find('/'));
    if (layer == "core" && target != "core") return "core includes " + target;
    if (layer == "render" && target != "core" && target != "render") return "render includes " + target;
    if (layer == "cli" && target == "app") return "the command line includes the window";
    if ((layer != "core" && layer != "app") || target != layer) return {};
    if (layer == "app" && file == "app/main.cpp") return {};
    const auto& order = layer == "core" ? kCoreOrder : kAppOrder;
    std::string other = include.substr(layer.size() + 1);
    other = other.substr(0, other.find('/'));
    if (rank(order, folder) < 0 || rank(order, other) < 0) return "an unknown folder of " + layer;
    return rank(order, other) > rank(order, folder) ? folder + " includes " + other : std::string();
}

// What a line includes, and whether in angle brackets; empty if it includes nothing.
std::pair<std::string, bool> included(std::string row) {
    std::erase_if(row, [](unsigned char c) { return std::isspace(c) != 0; });
    if (row.rfind("#include", 0) != 0 || row.size() < 10) return {};
    const bool angle = row[8] == '<';
    const std::size_t end = row.find(angle ? '>' : '"', 9);
    return {row.substr(9, end == std::string::npos ? end : end - 9), angle};
}

}  // namespace

TEST_CASE("NoFileIncludesWhatItsLayerForbids") {
    const fs::path src = PRISTINE_SOURCE_DIR "/src";
    int files = 0;
    for (const auto& entry : fs::recursive_directory_iterator(src)) {
        const std::string ext = entry.path().extension().string();
        if (ext != ".cpp" && ext != ".h") continue;
        ++files;
        std::stringstream text(pristine::test::read_file(entry.path()));
        const std::string name = fs::relative(entry.path(), src).generic_string();
        for (std::string row; std::getline(text, row);) {
            const auto [include, angle] = included(row);
            if (include.empty()) continue;
            const std::string why = fault(name, include, angle);
            CAPTURE(name, row, why);
            CHECK(why.empty());
        }
    }
    CHECK(files > 60);
}

TEST_CASE("TheRuleItselfCatchesForbiddenIncludes") {
    CHECK_FALSE(fault("core/cloud/builder.cpp", "QString", true).empty());
    CHECK_FALSE(fault("render/shade.cpp", "QtWidgets/QWidget", true).empty());
    CHECK_FALSE(fault("core/cloud/builder.cpp", "core/io/cloud_io.h", false).empty());
    CHECK_FALSE(fault("core/site/site.cpp", "render/scene.h", false).empty());
    CHECK_FALSE(fault("core/cloud/builder.cpp", "tbb/parallel_for.h", true).empty());
    CHECK_FALSE(fault("cli/info.cpp", "app/look/theme.h", false).empty());
    CHECK(fault("core/io/keep.cpp", "core/cloud/record.h", false).empty());
    CHECK(fault("app/stage/stage.cpp", "QWidget", true).empty());
    CHECK(included("  #  include <QString>  // why") == std::pair<std::string, bool>{"QString", true});
    CHECK(included("#include \"core/io/keep.h\"") == std::pair<std::string, bool>{"core/io/keep.h", false});
    CHECK(included("// #include <QString>").first.empty());
}

namespace {

// A call that looks into a text for words: .contains("…"), .startsWith(tr("…")), .rfind("…") and the like.
bool looks_for_words(const std::string& row) {
    static const std::regex call(
        "\\.(contains|startsWith|endsWith|indexOf|rfind|find|starts_with|ends_with)\\((QStringLiteral|"
        "QLatin1String|"
        "tr|u8?)?\\(?\"");
    return std::regex_search(row, call);
}

}  // namespace

TEST_CASE("NoTextThatIsShownDecidesAnything") {
    CHECK(looks_for_words("if (text.contains(QStringLiteral(\"can be read\")))"));
    CHECK(looks_for_words("if (name.startsWith(tr(\"Hole\")))"));
    CHECK(looks_for_words("e.how.rfind(\"rule \", 0) == 0"));
    CHECK_FALSE(looks_for_words("set.contains(i)"));
    // What is no text that is shown: file endings, placeholders, keys of JSON, names of columns of a file,
    // marks that a person types.
    const std::vector<std::pair<std::string, std::string>> allowed{
        {"app/look/plurals.cpp", "(s)"},       {"app/model/mending.cpp", "%1"},
        {"app/cards/mesh_card.cpp", "%1"},     {"app/window/files.cpp", ".pristine"},
        {"app/window/views.cpp", "\"saved\""}, {"app/window/references.cpp", "\"code\""}};
    const fs::path src = PRISTINE_SOURCE_DIR "/src";
    int files = 0;
    for (const auto& entry : fs::recursive_directory_iterator(src / "app")) {
        if (entry.path().extension() != ".cpp") continue;
        ++files;
        std::stringstream text(pristine::test::read_file(entry.path()));
        const std::string name = fs::relative(entry.path(), src).generic_string();
        for (std::string row; std::getline(text, row);) {
            // By key, in tables of columns and of commands.
            if (row.find("layout().find(") != std::string::npos ||
                row.find("commands_.find(") != std::string::npos || !looks_for_words(row))
                continue;
            const bool known = std::any_of(allowed.begin(), allowed.end(), [&](const auto& a) {
                return a.first == name && row.find(a.second) != std::string::npos;
            });
            CAPTURE(name, row);
            CHECK(known);
        }
    }
    CHECK(files > 60);
}

TEST_CASE("TestsStandInTheRoomsOfTheCode") {
    const fs::path root = PRISTINE_SOURCE_DIR;
    for (const std::string part : {"core", "app"}) {
        int rooms = 0;
        for (const auto& entry : fs::directory_iterator(root / "tests" / part)) {
            const std::string name = entry.path().filename().string();
            CAPTURE(part, name);
            if (!entry.is_directory()) {
                CHECK(name.rfind("test_", 0) != 0);  // only what all rooms share
                continue;
            }
            ++rooms;
            // The trial sites are a room of their own.
            CHECK((fs::is_directory(root / "src" / part / name) || fs::is_directory(root / "src" / name)));
        }
        CHECK(rooms > 3);
    }
}

TEST_CASE("NoFileIsLongerThanAPersonReads") {
    constexpr int kMostLines = 600;
    int files = 0;
    for (const auto& entry : fs::recursive_directory_iterator(fs::path(PRISTINE_SOURCE_DIR) / "src")) {
        const std::string ext = entry.path().extension().string();
        if (ext != ".cpp" && ext != ".h") continue;
        ++files;
        const std::string text = pristine::test::read_file(entry.path());
        const auto lines = std::count(text.begin(), text.end(), '\n');
        CAPTURE(entry.path().string(), lines);
        CHECK(lines <= kMostLines);
    }
    CHECK(files > 200);
}
