#include "core/site/exporting.h"

#include <algorithm>
#include <cctype>
#include <set>

#include "core/base/error.h"
#include "core/io/keep.h"
#include "core/site/making.h"

namespace pristine::site {
namespace {

// Small letters and figures of any alphabet; the rest becomes a dash.
std::string as_file_name(const std::string& words) {
    std::string out;
    for (const char c : words)
        out += std::isalnum(static_cast<unsigned char>(c)) || (c & 0x80)
                   ? static_cast<char>(std::tolower(static_cast<unsigned char>(c)))
                   : '-';
    return out;
}

io::Dropped mark_of(Export what) {
    return what == Export::Withheld    ? io::Dropped::Withheld
           : what == Export::Noise     ? io::Dropped::Noise
           : what == Export::HighNoise ? io::Dropped::HighNoise
                                       : io::Dropped::LeftOut;
}

std::vector<ExportFile> shown_files(const Site& s, Export what) {
    std::vector<ExportFile> out;
    const io::Dropped mark = mark_of(what);
    std::set<std::string> taken;
    for (const ItemPtr& item : s.items) {
        if (!item->visible) continue;
        if (mark != io::Dropped::LeftOut && item->scope)
            throw Error(ErrorCode::Usage,
                        "'" + item->name + "' is a piece of a scan; marking is for whole scans", {},
                        "Put the pieces together first, or export what is shown.");
        if (out.empty() || what == Export::EachShown) out.emplace_back();
        ExportFile& file = out.back();
        file.mark = mark;
        file.items.push_back(item);
        if (what == Export::EachShown) {
            std::string name = " - " + item->name;
            std::replace(name.begin(), name.end(), '/', '-');
            file.suffix = name;
            for (int k = 2; !taken.insert(file.suffix).second; ++k)
                file.suffix = name + " " + std::to_string(k);
        }
        // Marked is what was decided; what is only hidden stays as it is.
        if (mark == io::Dropped::LeftOut) {
            file.elements.push_back(~*item->absent);
        } else {
            file.elements.push_back(ElementSet::all(item->cloud->size()));
            file.marked.push_back(*item->removed);
        }
    }
    if (out.empty())
        throw Error(ErrorCode::Usage, "Nothing is shown, so there is nothing to write", {},
                    "Show an item in the contents.");
    return out;
}

std::vector<ExportFile> removed_files(const Site& s, Export what) {
    const ItemPtr item = s.active_item();
    if (!item) throw Error(ErrorCode::Usage, "No item is in work", {}, "Take one in the contents.");
    std::vector<ExportFile> out;
    const auto add = [&](std::string suffix, ElementSet elements) {
        if (elements.empty()) return;
        out.push_back({std::move(suffix), {item}, {std::move(elements)}, {}});
    };
    if (what == Export::Removed)
        add({}, item->scope ? item->taken() & *item->scope : item->taken());
    else
        for (const std::string& reason : item->reasons())
            add("-" + as_file_name(reason), item->out_for(reason));
    if (out.empty())
        throw Error(ErrorCode::Usage, "Nothing is out of '" + item->name + "', so there is nothing to write");
    return out;
}

}  // namespace

std::vector<ExportFile> export_files(const Site& s, Export what) {
    return what == Export::Removed || what == Export::Reasons ? removed_files(s, what) : shown_files(s, what);
}

std::vector<io::WriteItem> records_of(const ExportFile& file, bool source_classes, Progress& progress) {
    std::vector<io::WriteItem> out;
    for (std::size_t k = 0; k < file.items.size(); ++k) {
        const Item& item = *file.items[k];
        const bool marks = file.mark != io::Dropped::LeftOut;
        out.push_back(without(item, marks ? file.marked[k] : ~file.elements[k], progress));
        out.back().dropped = file.mark;
        if (source_classes) out.back().classes = nullptr;
    }
    return out;
}

std::vector<std::string> stale_in(const Site& s, const ExportFile& file) {
    std::vector<std::string> out;
    for (const ItemPtr& item : file.items)
        if (const Making* m = making_of_item(s, item->id))
            if (const std::string why = why_stale(s, *m); !why.empty())
                out.push_back("'" + item->name + "' is out of date: " + why +
                              ". It was written as it was made.");
    return out;
}

std::filesystem::path file_of(const std::filesystem::path& path, const ExportFile& file) {
    return path.parent_path() / (path.stem().string() + file.suffix + path.extension().string());
}

}  // namespace pristine::site
