#include "core/store/object_json.h"

#include <algorithm>
#include <array>
#include <cstring>

#include "core/base/bytes.h"
#include "core/base/compress.h"
#include "core/base/error.h"
#include "core/site/marks.h"

namespace pristine::store {

json feature_json(const Feature& f) {
    return {{"kind", static_cast<int>(f.kind)},
            {"name", f.name},
            {"point", {f.point.x, f.point.y, f.point.z}},
            {"direction", {f.direction.x, f.direction.y, f.direction.z}},
            {"radius", f.radius},
            {"rms", f.rms},
            {"places", f.places}};
}

Feature feature_from(const json& j) {
    const auto vec = [](const json& v) { return Vec3{v.at(0), v.at(1), v.at(2)}; };
    Feature f;
    f.kind = static_cast<Feature::Kind>(std::clamp(j.at("kind").get<int>(), 0, 4));
    f.name = j.at("name");
    f.point = vec(j.at("point"));
    f.direction = vec(j.at("direction"));
    f.radius = j.at("radius");
    f.rms = j.at("rms");
    f.places = j.at("places");
    return f;
}

// Of a project of before, or of one that a later version wrote, there is the sentence.
site::Cause cause_in(const json& cause, const std::string& sentence) {
    if (cause.is_null()) return site::cause_of_sentence(sentence);
    try {
        return site::cause_from_json(cause.dump());
    } catch (const Error&) {
        return site::said(sentence);
    }
}

json origin_json(const site::Origin& o) {
    return {site::told(o.cause), o.reason, json::parse(site::json_of(o.cause))};
}

site::Origin origin_from(const json& j, std::size_t at) {
    return {cause_in(j.size() > at + 2 ? j.at(at + 2) : json(), j.at(at)), j.at(at + 1)};
}

json style_json(const site::Style& s) {
    return {{"colour_by", static_cast<int>(s.colour_by)},
            {"single", s.single_colour},
            {"column", s.column},
            {"range", s.own_range ? json{s.range_lo, s.range_hi} : json()},
            {"point_size", s.point_size},
            {"classes", s.classes},
            {"faces", static_cast<int>(s.faces)}};
}

site::Style style_from(const json& j) {
    site::Style s;
    const int by = j.at("colour_by");
    if (by >= 0 && by <= static_cast<int>(site::ColourBy::Column))
        s.colour_by = static_cast<site::ColourBy>(by);
    s.single_colour = j.at("single");
    s.point_size = j.at("point_size");
    s.column = j.value("column", "");
    if (j.contains("range") && j.at("range").is_array()) {
        s.range_lo = j.at("range").at(0);
        s.range_hi = j.at("range").at(1);
        s.own_range = s.range_hi > s.range_lo;
    }
    s.classes = j.value("classes", std::vector<double>{});
    const int faces = j.value("faces", 0);
    if (faces >= 0 && faces <= static_cast<int>(site::Faces::Points))
        s.faces = static_cast<site::Faces>(faces);
    return s;
}

json clip_json(const site::ClipBox& c) {
    const select::Box& b = c.box;
    json j{c.id, c.name, b.centre.x, b.centre.y, b.centre.z, b.half.x, b.half.y, b.half.z, b.yaw_deg};
    if (b.pitch_deg != 0 || b.roll_deg != 0 || c.open)
        for (const json& more : {json(b.pitch_deg), json(b.roll_deg), json(c.open)}) j.push_back(more);
    return j;
}

site::ClipBox clip_from(const json& j) {
    site::ClipBox c{j.at(0), j.at(1), {{j.at(2), j.at(3), j.at(4)}, {j.at(5), j.at(6), j.at(7)}, j.at(8)}};
    if (j.size() < 12) return c;
    c.box.pitch_deg = j.at(9);
    c.box.roll_deg = j.at(10);
    c.open = j.at(11);
    return c;
}

json line_json(const site::Line& l) {
    json points = json::array();
    for (const Vec3& p : l.points) points.push_back({p.x, p.y, p.z});
    return {l.id, l.name, points, l.closed, l.visible, l.label, l.thick, l.group, name_of(l.role), l.survey};
}

site::Line line_from(const json& j) {
    site::Line l{j.at(0), j.at(1), {}, j.at(3), j.at(4)};
    for (const json& p : j.at(2)) l.points.push_back({p.at(0), p.at(1), p.at(2)});
    if (j.size() > 6) {
        l.label = j.at(5);
        l.thick = j.at(6);
    }
    if (j.size() > 7) l.group = j.at(7);
    // Projects of before had only names to go by.
    l.role = j.size() > 8 ? role_of_word(j.at(8)) : role_in_name(l.name, l.closed);
    if (j.size() > 9) l.survey = j.at(9);
    return l;
}

json mark_json(const site::Mark& m) {
    json points = json::array();
    for (const Vec3& p : m.points) points.push_back({p.x, p.y, p.z});
    json j{{"id", m.id}, {"kind", id_of(m.kind)}, {"name", m.name}, {"points", points}};
    if (!m.note.empty()) j["note"] = m.note;
    if (!m.visible) j["hidden"] = true;
    if (m.over != 0) j["over"] = {m.over, m.stamp};
    return j;
}

json marks_json(const site::Site& s) {
    json all = json::array();
    for (const site::MarkPtr& m : s.marks) {
        json mark = mark_json(*m);
        if (const site::ItemPtr over = s.item(m->over)) mark["over_name"] = over->name;
        if (const std::string why = site::why_stale(s, *m); !why.empty()) mark["stale"] = why;
        all.push_back(std::move(mark));
    }
    return all;
}

site::Mark mark_from(const json& j) {
    site::Mark m;
    m.id = j.at("id");
    m.kind = mark_kind_of(j.at("kind"));
    m.name = j.at("name");
    m.note = j.value("note", "");
    m.visible = !j.value("hidden", false);
    for (const json& p : j.at("points")) m.points.push_back({p.at(0), p.at(1), p.at(2)});
    if (j.contains("over")) {
        m.over = j.at("over").at(0);
        m.stamp = j.at("over").at(1);
    }
    try {
        (void)mark_figures(m.kind, m.points);
    } catch (const Error& e) {
        throw Error(ErrorCode::Format, std::string("A mark is damaged: ") + e.what());
    }
    return m;
}

std::string picture_blob(const site::Thumbnail& t) {
    std::string raw(8, '\0');
    std::memcpy(raw.data(), &t.width, 4);
    std::memcpy(raw.data() + 4, &t.height, 4);
    raw.append(reinterpret_cast<const char*>(t.rgb.data()), t.rgb.size());
    return pack(raw);
}

std::shared_ptr<const site::Thumbnail> picture_from(const std::string& blob) {
    const std::string raw = unpack(blob, 64u << 20);
    auto t = std::make_shared<site::Thumbnail>();
    if (raw.size() < 8) return nullptr;
    std::memcpy(&t->width, raw.data(), 4);
    std::memcpy(&t->height, raw.data() + 4, 4);
    t->rgb.assign(raw.begin() + 8, raw.end());
    const bool sound =
        t->width > 0 && t->height > 0 && t->width < 4096 && t->height < 4096 &&
        t->rgb.size() == static_cast<std::size_t>(t->width) * static_cast<std::size_t>(t->height) * 3;
    return sound ? t : nullptr;
}

json reference_json(const cloud::Reference& r) {
    return {{"crs", r.crs}, {"unit", r.unit}, {"height_unit", r.height_unit}};
}

cloud::Reference reference_from(const json& j) {
    return {.crs = j.at("crs"), .unit = j.at("unit"), .height_unit = j.at("height_unit")};
}

json reference_json(const cloud::PointCloud& c) {
    json j = reference_json(c.reference());
    if (!c.stations_given()) return j;
    j["stations"] = json::array();
    for (const cloud::Station& s : c.stations())
        j["stations"].push_back({s.name, s.position.x, s.position.y, s.position.z});
    return j;
}

site::Making making_from(const json& m) {
    site::Making making;
    making.kind = m.at(0).get<int>() == 1 ? site::Making::Kind::ChangeMap : site::Making::Kind::Contours;
    making.item = m.at(1);
    making.group = m.at(2);
    for (const json& f : m.at(3)) making.from.push_back({f.at(0), f.at(1), f.at(2)});
    making.interval = m.at(4);
    if (m.size() > 5) making.smoothed = m.at(5);
    return making;
}

site::CodeTable codes_from(const json& c) {
    site::CodeTable codes{{}, c.at("start"), c.at("end"), c.at("close")};
    for (const json& r : c.value("rules", json::array()))
        codes.rules.push_back({r.at(0), static_cast<site::CodeRole>(std::clamp(r.at(1).get<int>(), 0, 3))});
    return codes;
}

void read_small_things(const json& j, site::Site& site) {
    for (const json& c : j.value("clips", json::array())) site.clips.push_back(clip_from(c));
    site.clip = j.value("clip", std::uint64_t{0});
    site.of_removed = j.value("of_removed", false);
    site.unit = j.value("unit", "");
    for (const json& c : j.value("classes", json::array()))
        site.classes.push_back({c.at(0), c.at(1), c.at(2)});
    for (const json& v : j.value("surveys", json::array()))
        site.surveys.push_back({v.at(0), v.at(1), v.at(2), v.at(3), v.at(4), v.at(5)});
    for (const json& m : j.value("makings", json::array())) site.makings.push_back(making_from(m));
    if (j.contains("codes")) site.codes = codes_from(j.at("codes"));
    for (const json& m : j.value("marks", json::array()))
        site.marks.push_back(std::make_shared<const site::Mark>(mark_from(m)));
}

}  // namespace pristine::store
