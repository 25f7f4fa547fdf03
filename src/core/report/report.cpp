#include "core/report/report.h"

#include <cmath>
#include <nlohmann/json.hpp>

#include "core/io/csv.h"

namespace pristine::report {
namespace {

using Json = nlohmann::ordered_json;

std::string plain(const std::vector<Run>& runs) {
    std::string all;
    for (const Run& r : runs) all += r.text;
    return all;
}

Json json_of_cell(const Cell& c) {
    if (!c.value) return c.text;
    Json j{{"text", c.text}, {"value", std::isfinite(*c.value) ? Json(*c.value) : Json()}};
    if (!c.unit.empty()) j["unit"] = c.unit;
    return j;
}

Json json_of_table(const Table& t) {
    Json j{{"table", t.id}, {"caption", t.caption}, {"columns", Json::array()}, {"rows", Json::array()}};
    for (const Column& c : t.columns) j["columns"].push_back({{"id", c.id}, {"title", c.title}});
    for (const auto& row : t.rows) {
        Json r;
        for (std::size_t c = 0; c < row.size(); ++c) r[t.columns[c].id] = json_of_cell(row[c]);
        j["rows"].push_back(std::move(r));
    }
    if (t.last_is_sum) j["last_is_sum"] = true;
    return j;
}

struct AsJson {
    Json operator()(const Paragraph& p) const {
        Json j{{"text", plain(p.runs)}};
        if (p.kind == Paragraph::Kind::Warning) j["warning"] = true;
        return j;
    }
    Json operator()(const Table& t) const { return json_of_table(t); }
    Json operator()(const Figure& f) const {
        return {{"figure", f.id}, {"caption", f.caption}, {"shows", f.alt}};
    }
};

std::string csv_row(const std::vector<std::string>& fields) {
    std::string row;
    for (std::size_t k = 0; k < fields.size(); ++k) row += (k > 0 ? "," : "") + io::csv_text(fields[k]);
    return row + "\r\n";
}

}  // namespace

std::string numbered(std::size_t part, const std::string& title) {
    return std::to_string(part + 1) + "  " + title;
}

std::vector<std::pair<int, int>> first_numbers(const Report& report) {
    std::vector<std::pair<int, int>> out;
    int figure = 1, table = 1;
    for (const Part& p : report.parts) {
        out.emplace_back(figure, table);
        for (const Block& b : p.blocks) {
            figure += std::holds_alternative<Figure>(b) ? 1 : 0;
            table += std::holds_alternative<Table>(b) ? 1 : 0;
        }
    }
    return out;
}

std::string csv_of(const Report& r) {
    std::string out = "\xEF\xBB\xBF";
    out += csv_row({r.title, r.site, r.office, r.surveyor, r.date, r.program});
    for (const std::string& w : r.warnings) out += csv_row({w});
    const auto numbers = first_numbers(r);
    for (std::size_t k = 0; k < r.parts.size(); ++k) {
        int figure = numbers[k].first, table = numbers[k].second;
        out += "\r\n" + csv_row({numbered(k, r.parts[k].title)});
        for (const Block& b : r.parts[k].blocks) {
            if (const auto* p = std::get_if<Paragraph>(&b)) out += csv_row({plain(p->runs)});
            if (const auto* f = std::get_if<Figure>(&b))
                out += csv_row({"Figure " + std::to_string(figure++), f->caption, f->alt});
            if (const auto* t = std::get_if<Table>(&b)) {
                out += csv_row({"Table " + std::to_string(table++), t->caption});
                std::vector<std::string> fields;
                for (const Column& c : t->columns) fields.push_back(c.title);
                out += csv_row(fields);
                for (const auto& row : t->rows) {
                    fields.clear();
                    for (const Cell& c : row) fields.push_back(c.text);
                    out += csv_row(fields);
                }
            }
        }
    }
    return out;
}

std::string json_of(const Report& r) {
    Json j{{"title", r.title},       {"site", r.site}, {"office", r.office},
           {"surveyor", r.surveyor}, {"date", r.date}, {"program", r.program}};
    if (!r.warnings.empty()) j["warnings"] = r.warnings;
    j["parts"] = Json::array();
    for (const Part& p : r.parts) {
        Json part{{"kind", p.kind}, {"title", p.title}, {"content", Json::array()}};
        for (const Block& b : p.blocks) part["content"].push_back(std::visit(AsJson{}, b));
        j["parts"].push_back(std::move(part));
    }
    return j.dump(1) + "\n";
}

}  // namespace pristine::report
