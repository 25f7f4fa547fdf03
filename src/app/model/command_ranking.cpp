#include "app/model/command_ranking.h"

#include <algorithm>
#include <optional>

namespace pristine::app {
namespace {

// "Export what is out…" as "export what is out".
QString plain(const QString& text) {
    QString out;
    for (const QChar c : text.normalized(QString::NormalizationForm_D))
        if (c.isLetterOrNumber())
            out += c.toLower();
        else if (c.category() != QChar::Mark_NonSpacing && !out.endsWith(QLatin1Char(' ')))
            out += QLatin1Char(' ');
    return out.trimmed();
}

bool all_in(const QStringList& words, const QString& text) {
    return std::all_of(words.begin(), words.end(), [&](const QString& w) { return text.contains(w); });
}

// Each word begins a word of the text.
bool all_begin_in(const QStringList& words, const QString& text) {
    const QString spaced = QLatin1Char(' ') + text;
    return std::all_of(words.begin(), words.end(),
                       [&](const QString& w) { return spaced.contains(QLatin1Char(' ') + w); });
}

std::optional<int> rank_of(const Command& c, const QString& typed) {
    const QString title = plain(c.live_title ? c.live_title() : c.title), fixed = plain(c.title);
    const QStringList words = typed.split(QLatin1Char(' '), Qt::SkipEmptyParts);
    // Of titles that hold all words, those that hold few others come first.
    constexpr int kKind = 100;
    const int others_in_title = static_cast<int>(fixed.count(QLatin1Char(' ')));
    if (title == typed || fixed == typed) return 0;
    if (title.startsWith(typed) || fixed.startsWith(typed)) return kKind + others_in_title;
    if (all_begin_in(words, fixed)) return 2 * kKind + others_in_title;
    if (all_in(words, fixed)) return 3 * kKind + others_in_title;
    const QString others = plain(other_words(c.id).join(QLatin1Char(' ')));
    if (all_begin_in(words, others)) return 4 * kKind;
    if (all_begin_in(words, fixed + QLatin1Char(' ') + others)) return 5 * kKind;
    if (all_in(words, plain(c.title + ' ' + c.help + ' ' + c.menu) + QLatin1Char(' ') + others))
        return 6 * kKind;
    return std::nullopt;
}

}  // namespace

const std::vector<std::pair<QString, QStringList>>& trade_words() {
    static const std::vector<std::pair<QString, QStringList>> words = [] {
        std::vector<std::pair<QString, QStringList>> list;
        const auto add = [&](const char* w, std::initializer_list<const char*> ids) {
            QStringList all;
            for (const char* id : ids) all << QString::fromLatin1(id);
            list.emplace_back(QString::fromLatin1(w), all);
        };
        add("delete", {"decide.remove"});
        add("erase", {"decide.remove", "decide.keep"});
        add("clean", {"decide.remove", "select.rule", "site.run_recipe", "tools.mesh"});
        add("remove", {"decide.remove"});
        add("crop", {"decide.keep", "view.clip"});
        add("isolate", {"view.only_selection", "decide.keep"});
        add("trim", {"decide.keep", "select.inside_lines", "tools.surface"});
        add("cut", {"view.clip", "view.section", "decide.apart"});
        add("noise", {"select.rule"});
        add("outlier", {"select.rule"});
        add("denoise", {"select.rule"});
        add("filter", {"select.rule"});
        add("threshold", {"select.rule"});
        add("segment", {"select.connected", "decide.apart"});
        add("cluster", {"select.connected", "select.objects"});
        add("split", {"decide.apart"});
        add("extract", {"decide.apart_copy", "decide.apart"});
        add("copy", {"decide.apart_copy"});
        add("join", {"decide.merge"});
        add("combine", {"decide.merge"});
        add("classify", {"select.objects", "select.rule", "site.export_noise"});
        add("class", {"select.rule", "site.export_noise"});
        add("vegetation", {"select.objects"});
        add("trees", {"select.objects"});
        add("buildings", {"select.objects"});
        add("vehicles", {"select.objects"});
        add("people", {"select.objects", "select.rule"});
        add("passers-by", {"select.rule"});
        add("ground", {"select.objects", "decide.guard_ground", "select.rule"});
        add("bare earth", {"select.objects", "decide.guard_ground"});
        add("density", {"select.rule"});
        add("thin", {"site.open_grid", "tools.surface"});
        add("intensity", {"select.rule"});
        add("report", {"tools.measure"});
        add("volume", {"tools.measure", "view.volumes"});
        add("area", {"tools.measure"});
        add("stockpile", {"tools.measure"});
        add("cut and fill", {"tools.measure", "view.volumes"});
        add("earthworks", {"view.volumes"});
        add("dtm", {"tools.surface"});
        add("dem", {"tools.surface", "site.open_grid"});
        add("tin", {"tools.surface"});
        add("terrain model", {"tools.surface"});
        add("triangulate", {"tools.surface"});
        add("breaklines", {"site.add_lines", "view.line", "item.code_lines"});
        add("contours", {"tools.measure"});
        add("cross-section", {"view.section", "view.profile"});
        add("slice", {"view.section", "view.clip"});
        add("longitudinal", {"view.profile"});
        add("chainage", {"select.tunnel", "view.profile"});
        add("tape", {"view.line", "view.pick"});
        add("coordinates", {"view.pick", "item.reference"});
        add("crs", {"item.reference", "item.to_site"});
        add("epsg", {"item.reference", "item.to_site"});
        add("datum", {"item.reference"});
        add("feet", {"view.unit_ft", "item.reference"});
        add("import", {"site.open", "site.open_text", "site.add_lines"});
        add("load", {"site.open"});
        add("write", {"site.export", "site.save_as"});
        add("deliver", {"site.export", "site.export_lines"});
        add("watertight", {"tools.mesh", "tools.holes"});
        add("fill holes", {"tools.holes"});
        add("decimate", {"tools.mesh"});
        add("smooth", {"tools.relax", "tools.mesh"});
        add("register", {"tools.align"});
        add("best fit", {"tools.align"});
        add("targets", {"tools.markers"});
        add("lasso", {"select.freehand"});
        add("fence",
            {"select.polygon", "select.rectangle", "select.freehand", "select.circle", "select.strip"});
        add("boundary", {"select.inside_lines", "tools.line_round", "site.add_lines"});
        add("lock", {"decide.guard"});
        add("protect", {"decide.guard", "decide.guard_ground"});
        add("restore", {"decide.put_back"});
        add("bring back", {"decide.put_back"});
        add("batch", {"site.run_recipe"});
        add("macro", {"site.save_recipe", "site.run_recipe"});
        add("zoom", {"view.all", "view.selection"});
        add("fit", {"view.all"});
        add("plan view", {"view.top"});
        add("bubble", {"view.panorama"});
        add("station", {"view.panorama"});
        add("shortcut", {"help.search"});
        return list;
    }();
    return words;
}

QStringList other_words(const QString& command_id) {
    QStringList out;
    for (const auto& [word, ids] : trade_words())
        if (ids.contains(command_id)) out << word;
    return out;
}

std::vector<const Command*> ranked(const CommandTable& table, const QString& typed) {
    const QString query = plain(typed);
    std::vector<std::pair<int, const Command*>> found;
    for (const Command& c : table.all())
        if (query.isEmpty())
            found.emplace_back(0, &c);
        else if (const auto rank = rank_of(c, query))
            found.emplace_back(*rank, &c);
    std::stable_sort(found.begin(), found.end(),
                     [](const auto& a, const auto& b) { return a.first < b.first; });
    std::vector<const Command*> out;
    for (const auto& [rank, c] : found) out.push_back(c);
    return out;
}

}  // namespace pristine::app
