// The ledger in the open schema of docs/ledger-format.md.

#include <nlohmann/json.hpp>

#include "core/report/deliverable.h"
#include "core/report/parts/context.h"
#include "core/site/origin_file.h"

namespace pristine::report {
namespace {

using nlohmann::json;

const char* kind_of(const site::LedgerEntry& e) {
    if (e.to_class) return "class";
    if (e.edit != 0) return "build";
    return e.made ? "repair" : "removal";
}

json entry_json(const site::Site& s, const site::Item& i, const site::LedgerEntry& e) {
    json j{{"decision", e.id},
           {"kind", kind_of(e)},
           {"reason", e.reason},
           {"in_force", e.active},
           {"count", e.elements->count()},
           {"person", e.who},
           {"time", e.when},
           {"cause", json::parse(site::json_of(e.cause))},
           {"told", told_cause(s, i, e.cause)}};
    if (e.to_class) j["class"] = *e.to_class;
    if (e.made) j["made"] = e.made->count();
    return j;
}

}  // namespace

json ledger_json(const site::Site& s) {
    const cloud::Reference r = site::reference_of(s);
    json j{{"format", kLedgerFormat}, {"version", 1}, {"site", s.name},
           {"unit", r.unit},          {"crs", r.crs}, {"items", json::array()}};
    for (const site::ItemPtr& i : s.items) {
        json item{{"id", i->id},
                  {"name", i->name},
                  {"elements", i->cloud->triangles() ? "triangles" : "points"},
                  {"role", site::name_of(i->role)},
                  {"unit", i->cloud->unit()},
                  {"crs", i->cloud->crs()},
                  {"total", i->total()},
                  {"left", i->total() - i->removed->count()},
                  {"source", site::origin_file(*i).filename().string()},
                  {"entries", json::array()}};
        for (const site::LedgerEntry& e : i->ledger) item["entries"].push_back(entry_json(s, *i, e));
        j["items"].push_back(std::move(item));
    }
    return j;
}

}  // namespace pristine::report
