#include "core/site/coded_lines.h"

#include <algorithm>
#include <cctype>
#include <map>
#include <set>

#include "core/base/error.h"

namespace pristine::site {
namespace {

struct Parsed {
    std::string code, number;
    bool start = false, end = false, close = false;
};

std::string upper(std::string s) {
    std::transform(s.begin(), s.end(), s.begin(), [](unsigned char c) { return std::toupper(c); });
    return s;
}

Parsed parse(const std::string& word, const CodeTable& table) {
    Parsed p;
    std::string base = word;
    const auto cut = word.find_first_of(" .-");
    if (cut != std::string::npos) {
        base = word.substr(0, cut);
        const std::string mark =
            upper(word.substr(std::min(word.size(), word.find_first_not_of(" .-", cut))));
        p.start = mark == upper(table.start);
        p.end = mark == upper(table.end);
        p.close = mark == upper(table.close);
    }
    const auto letters =
        std::find_if(base.rbegin(), base.rend(), [](unsigned char c) { return !std::isdigit(c); }).base();
    p.code = std::string(base.begin(), letters);
    p.number = std::string(letters, base.end());
    if (p.code.empty()) std::swap(p.code, p.number);  // codes that are numbers
    p.code = upper(p.code);
    return p;
}

const cloud::Field* code_column(const cloud::RecordLayout& layout) {
    const cloud::Field* f = layout.find("code");
    return f && f->words ? f : nullptr;
}

CodeRole role_by_word(const std::string& code) {
    static const std::set<std::string> boundaries{"BDY",   "BND",     "BOUND", "BOUNDARY",
                                                  "LIMIT", "OUTLINE", "GRENZE"};
    static const std::set<std::string> lines{"TOE",   "CREST", "TOP", "BRK", "BL",   "BREAK", "EDGE",
                                             "KERB",  "EOP",   "EP",  "CL",  "WALL", "DITCH", "BANK",
                                             "RIDGE", "BK",    "OK",  "UK",  "BKO",  "BKU",   "KANTE"};
    if (boundaries.contains(code)) return CodeRole::Boundary;
    return lines.contains(code) ? CodeRole::Breakline : CodeRole::Spot;
}

// Places and codes in the order of the file; what is removed or has no place is left out.
std::vector<std::pair<Vec3, std::string>> in_order(const Item& item, const cloud::Field& column) {
    const auto records = item.cloud->records();
    const std::size_t bytes = records->layout().record_bytes;
    std::vector<std::uint8_t> there(records->count(), 0);
    std::vector<Vec3> place(records->count());
    for (std::size_t p = 0; p < item.cloud->page_count(); ++p) {
        const auto order = item.cloud->order()->page(p);
        for (std::size_t i = 0; i < order.size(); ++i) {
            const std::uint64_t e = p * kPageSize + i;
            there[order[i]] = !item.absent->contains(e);
            place[order[i]] = item.cloud->position(e);
        }
    }
    std::vector<std::pair<Vec3, std::string>> out;
    std::vector<std::byte> raw;
    for (std::uint64_t first = 0; first < records->count(); first += kPageSize) {
        const auto n = static_cast<std::size_t>(std::min<std::uint64_t>(kPageSize, records->count() - first));
        raw.resize(n * bytes);
        records->read(first, raw);
        for (std::size_t i = 0; i < n; ++i)
            if (there[first + i])
                out.push_back({place[first + i], word_of(column, value(column, raw.data() + i * bytes))});
    }
    return out;
}

}  // namespace

std::vector<CodeCount> codes_of(const cloud::PointCloud& c) {
    const auto records = c.records();
    const cloud::Field* column = code_column(records->layout());
    if (!column) return {};
    std::vector<std::uint64_t> count(column->words->size(), 0);
    const std::size_t bytes = records->layout().record_bytes;
    std::vector<std::byte> raw;
    for (std::uint64_t first = 0; first < records->count(); first += kPageSize) {
        const auto n = static_cast<std::size_t>(std::min<std::uint64_t>(kPageSize, records->count() - first));
        raw.resize(n * bytes);
        records->read(first, raw);
        for (std::size_t i = 0; i < n; ++i) {
            const double v = value(*column, raw.data() + i * bytes);
            if (v >= 0 && v < static_cast<double>(count.size())) ++count[static_cast<std::size_t>(v)];
        }
    }
    std::map<std::string, std::uint64_t> by_code;
    for (std::size_t w = 0; w < count.size(); ++w)
        if (!(*column->words)[w].empty()) by_code[parse((*column->words)[w], {}).code] += count[w];
    std::vector<CodeCount> out;
    for (const auto& [code, n] : by_code) out.push_back({code, n});
    std::stable_sort(out.begin(), out.end(),
                     [](const CodeCount& a, const CodeCount& b) { return a.points > b.points; });
    return out;
}

CodeTable proposed(const CodeTable& known, const std::vector<CodeCount>& codes) {
    CodeTable t = known;
    for (const CodeCount& c : codes)
        if (std::none_of(t.rules.begin(), t.rules.end(), [&](const CodeRule& r) { return r.code == c.code; }))
            t.rules.push_back({c.code, role_by_word(c.code)});
    return t;
}

CodedLines lines_from_codes(const Item& item, const CodeTable& table) {
    const auto records = item.cloud->records();
    const cloud::Field* column = code_column(records->layout());
    if (!column)
        throw Error(ErrorCode::Usage, "'" + item.name + "' has no column of codes", {},
                    "Open a survey list with a column named code.");
    struct Run {
        std::vector<Vec3> points;
        bool closed = false;
    };
    std::map<std::pair<std::string, std::string>, Run> running;
    std::map<std::string, int> made;
    CodedLines out;
    const auto role_of = [&](const std::string& code) {
        for (const CodeRule& r : table.rules)
            if (r.code == code) return r.role;
        return CodeRole::Spot;
    };
    const auto finish = [&](const std::string& code, Run& run) {
        const CodeRole role = role_of(code);
        if (run.points.size() == 1) ++out.single_points;
        if (run.points.size() >= 2) {
            Line line;
            line.closed = (run.closed || role == CodeRole::Boundary) && run.points.size() >= 3;
            if (line.closed && run.points.size() > 3 && run.points.front().x == run.points.back().x &&
                run.points.front().y == run.points.back().y)
                run.points.pop_back();
            line.points = std::move(run.points);
            line.role = role == CodeRole::Boundary ? LineRole::Boundary : LineRole::Breakline;
            line.name = (role == CodeRole::Boundary ? "boundary " : "breakline ") + code + " " +
                        std::to_string(++made[code]);
            out.lines.push_back(std::move(line));
        }
        run = {};
    };
    for (const auto& [place, word] : in_order(item, *column)) {
        const Parsed p = parse(word, table);
        const CodeRole role = role_of(p.code);
        if (role != CodeRole::Breakline && role != CodeRole::Boundary) continue;
        Run& run = running[{p.code, p.number}];
        if (p.start) finish(p.code, run);
        run.points.push_back(place);
        run.closed |= p.close;
        if (p.end || p.close) finish(p.code, run);
    }
    for (auto& [key, run] : running) finish(key.first, run);
    return out;
}

SitePtr set_codes(const Site& site, const CodeTable& table) {
    auto next = std::make_shared<Site>(site);
    next->codes = table;
    return next;
}

}  // namespace pristine::site
