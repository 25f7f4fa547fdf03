#include "core/io/e57/scan.h"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <bit>
#include <cmath>
#include <cstring>
#include <map>
#include <nlohmann/json.hpp>
#include <pugixml.hpp>

#include "core/base/error.h"

namespace pristine::io::e57 {
namespace {

using cloud::FieldType;
using nlohmann::json;

constexpr std::array<std::pair<const char*, const char*>, 18> kNames{
    {{"cartesianX", "local_x"},
     {"cartesianY", "local_y"},
     {"cartesianZ", "local_z"},
     {"cartesianInvalidState", "invalid"},
     {"sphericalRange", "range"},
     {"sphericalAzimuth", "azimuth"},
     {"sphericalElevation", "elevation"},
     {"sphericalInvalidState", "spherical_invalid"},
     {"rowIndex", "row"},
     {"columnIndex", "column"},
     {"returnIndex", "return"},
     {"returnCount", "returns"},
     {"timeStamp", "time"},
     {"intensity", "intensity"},
     {"colorRed", "red"},
     {"colorGreen", "green"},
     {"colorBlue", "blue"},
     {"isColorInvalid", "colour_invalid"}}};
constexpr const char* kPrefix = "pristine:";

double number(const pugi::xml_node& parent, const char* name, double otherwise) {
    const pugi::xml_node n = parent.child(name);
    if (!n) return otherwise;
    const double v = n.text().empty() ? 0 : n.text().as_double(NAN);  // an empty number is 0 by the standard
    if (!std::isfinite(v)) throw Error(ErrorCode::Format, fmt::format("'{}' is no number", name), "XML part");
    return v;
}

Channel channel_of(const pugi::xml_node& n) {
    Channel c;
    c.name = n.name();
    const std::string type = n.attribute("type").as_string();
    if (type == "Float") {
        c.kind = std::strcmp(n.attribute("precision").as_string("double"), "single") == 0
                     ? Channel::Kind::Float32
                     : Channel::Kind::Float64;
        return c;
    }
    if (type != "Integer" && type != "ScaledInteger")
        throw Error(ErrorCode::Unsupported,
                    fmt::format("Channel '{}' of type '{}' is not known", c.name, type), "XML part");
    c.kind = type == "Integer" ? Channel::Kind::Integer : Channel::Kind::Scaled;
    c.min = n.attribute("minimum").as_llong(INT64_MIN);
    c.max = n.attribute("maximum").as_llong(INT64_MAX);
    if (c.kind == Channel::Kind::Scaled) {
        c.scale = n.attribute("scale").as_double(1);
        c.offset = n.attribute("offset").as_double(0);
    }
    if (c.min > c.max || !std::isfinite(c.scale) || c.scale == 0 || !std::isfinite(c.offset))
        throw Error(ErrorCode::Format,
                    fmt::format("The range or scale of channel '{}' makes no sense", c.name), "XML part");
    return c;
}

Limits limits_of(const pugi::xml_node& scan, const char* group, const char* lo, const char* hi) {
    const pugi::xml_node g = scan.child(group);
    return g ? Limits{number(g, lo, 0), number(g, hi, 0)} : Limits{};
}

Scan scan_of(const pugi::xml_node& n, std::size_t index) {
    Scan s;
    s.name = n.child("name").text().as_string();
    if (s.name.empty()) s.name = fmt::format("Scan {}", index + 1);
    s.guid = n.child("guid").text().as_string();
    s.pose = pose_of(n, s.name);
    const pugi::xml_node points = n.child("points");
    s.count = points.attribute("recordCount").as_ullong();
    s.section = points.attribute("fileOffset").as_ullong();
    for (const pugi::xml_node& c : points.child("prototype").children())
        if (c.type() == pugi::node_element) s.channels.push_back(channel_of(c));
    s.intensity = limits_of(n, "intensityLimits", "intensityMinimum", "intensityMaximum");
    s.colour = limits_of(n, "colorLimits", "colorRedMinimum", "colorRedMaximum");
    return s;
}

FieldType type_of(const Channel& c) {
    if (c.kind == Channel::Kind::Float32) return FieldType::F32;
    if (c.kind == Channel::Kind::Float64) return FieldType::F64;
    const unsigned bits = c.bits();
    return bits <= 8    ? FieldType::U8
           : bits <= 16 ? FieldType::U16
           : bits <= 32 ? FieldType::U32
                        : FieldType::U64;
}

// Brings values to our convention: 0..65535 for integers, 0..1 for floats; raw = (value - shift) / scale.
void span(cloud::Field& f, const Limits& limits, double top) {
    if (!limits.given()) return;
    const double k = top / (limits.hi - limits.lo);
    f.scale *= k;
    f.shift = (f.shift - limits.lo) * k;
}

bool is_colour(const std::string& name) {
    return name == "colorRed" || name == "colorGreen" || name == "colorBlue";
}

}  // namespace

Pose pose_of(const pugi::xml_node& n, const std::string& name) {
    Pose p;
    if (const pugi::xml_node pose = n.child("pose")) {
        if (const pugi::xml_node r = pose.child("rotation")) {
            p.w = number(r, "w", 1);
            p.x = number(r, "x", 0);
            p.y = number(r, "y", 0);
            p.z = number(r, "z", 0);
        }
        const pugi::xml_node t = pose.child("translation");
        p.shift = {number(t, "x", 0), number(t, "y", 0), number(t, "z", 0)};
        const double length = std::sqrt(p.w * p.w + p.x * p.x + p.y * p.y + p.z * p.z);
        if (!(length > 1e-9))
            throw Error(ErrorCode::Format, fmt::format("The rotation of '{}' is none", name), "XML part");
        for (double* q : {&p.w, &p.x, &p.y, &p.z}) *q /= length;
    }
    return p;
}

unsigned Channel::bits() const {
    if (kind == Kind::Float32) return 32;
    if (kind == Kind::Float64) return 64;
    return static_cast<unsigned>(
        std::bit_width(static_cast<std::uint64_t>(max) - static_cast<std::uint64_t>(min)));
}

Vec3 Pose::world(const Vec3& p) const {
    // p + 2 w (v x p) + 2 v x (v x p)
    const Vec3 a{y * p.z - z * p.y, z * p.x - x * p.z, x * p.y - y * p.x};
    const Vec3 b{y * a.z - z * a.y, z * a.x - x * a.z, x * a.y - y * a.x};
    return {p.x + 2 * (w * a.x + b.x) + shift.x, p.y + 2 * (w * a.y + b.y) + shift.y,
            p.z + 2 * (w * a.z + b.z) + shift.z};
}

const Channel* Scan::find(const std::string& wanted) const {
    for (const Channel& c : channels)
        if (c.name == wanted) return &c;
    return nullptr;
}

std::string field_name(const std::string& channel) {
    for (const auto& [standard, ours] : kNames)
        if (channel == standard) return ours;
    return channel.rfind(kPrefix, 0) == 0 ? channel.substr(std::strlen(kPrefix)) : channel;
}

std::string channel_name(const std::string& field) {
    for (const auto& [standard, ours] : kNames)
        if (field == ours) return standard;
    std::string name = kPrefix;
    // A name in XML begins with a letter or an underline.
    if (field.empty() || !(std::isalpha(static_cast<unsigned char>(field[0])) || field[0] == '_'))
        name += '_';
    for (const char c : field) name += std::isalnum(static_cast<unsigned char>(c)) || c == '_' ? c : '_';
    return name;
}

Contents parse_xml(const std::string& xml, const std::string& place) {
    pugi::xml_document doc;
    const pugi::xml_parse_result r = doc.load_buffer(xml.data(), xml.size());
    if (!r)
        throw Error(ErrorCode::Format,
                    fmt::format("The XML part cannot be read: {} at its byte {}", r.description(), r.offset),
                    place);
    const pugi::xml_node root = doc.child("e57Root");
    if (!root) throw Error(ErrorCode::Format, "The XML part has no e57Root", place);
    Contents c;
    c.crs = root.child("coordinateMetadata").text().as_string();
    std::map<std::string, std::string> namespaces;
    for (const pugi::xml_attribute& a : root.attributes())
        if (std::string_view(a.name()).rfind("xmlns:", 0) == 0) namespaces[a.name() + 6] = a.value();
    namespaces.erase("pristine");
    for (const pugi::xml_node& n : root.child("data3D").children())
        if (n.type() == pugi::node_element) {
            c.scans.push_back(scan_of(n, c.scans.size()));
            c.scans.back().namespaces = namespaces;
        }
    for (const pugi::xml_node& n : root.child("images2D").children())
        c.images += n.type() == pugi::node_element;
    if (c.scans.size() > 65535) throw Error(ErrorCode::Unsupported, "More than 65,535 scans", place);
    return c;
}

cloud::RecordLayout layout_of(const std::vector<Scan>& scans, std::vector<Channel>& channels) {
    channels.clear();
    Limits intensity, colour;
    for (const Scan& s : scans) {
        if (s.intensity.given())
            intensity = intensity.given() ? Limits{std::min(intensity.lo, s.intensity.lo),
                                                   std::max(intensity.hi, s.intensity.hi)}
                                          : s.intensity;
        if (s.colour.given())
            colour = colour.given()
                         ? Limits{std::min(colour.lo, s.colour.lo), std::max(colour.hi, s.colour.hi)}
                         : s.colour;
        for (const Channel& c : s.channels) {
            const auto known = std::find_if(channels.begin(), channels.end(),
                                            [&](const Channel& k) { return k.name == c.name; });
            if (known == channels.end()) {
                channels.push_back(c);
                continue;
            }
            if (known->kind != c.kind || known->scale != c.scale || known->offset != c.offset) {
                known->kind = Channel::Kind::Float64;  // the scans differ: the value itself is kept
                known->scale = 1;
                known->offset = 0;
            }
            known->min = std::min(known->min, c.min);
            known->max = std::max(known->max, c.max);
        }
    }
    cloud::RecordLayout l;
    l.format = "e57";
    const auto add = [&](std::string name, FieldType type) -> cloud::Field& {
        l.fields.push_back({std::move(name), type, l.record_bytes});
        l.record_bytes += bytes_of(type);
        return l.fields.back();
    };
    for (const char* name : {"x", "y", "z"}) add(name, FieldType::F64);
    add("scan", FieldType::U16);
    for (const Channel& c : channels) {
        std::string name = field_name(c.name);
        while (l.find(name)) name += "_2";  // a column of another format may be called like one of ours
        cloud::Field& f = add(name, type_of(c));
        if (!c.is_float()) {
            f.scale = c.scale;
            f.shift = static_cast<double>(c.min) * c.scale + c.offset;
        }
        const Limits own{c.is_float() ? 0 : f.shift,
                         c.is_float() ? 0 : static_cast<double>(c.max) * c.scale + c.offset};
        if (c.name == "intensity") span(f, intensity.given() ? intensity : own, c.is_float() ? 1 : 65535);
        if (is_colour(c.name))
            span(f, colour.given() ? colour : own, c.is_float() ? 1 : f.type == FieldType::U8 ? 255 : 65535);
    }
    return l;
}

std::string join_head(const std::vector<Scan>& scans, const std::vector<Channel>& channels,
                      const std::string& crs) {
    const auto channel_json = [](const Channel& c) {
        return json{c.name, static_cast<int>(c.kind), c.min, c.max, c.scale, c.offset};
    };
    json j{{"crs", crs}, {"channels", json::array()}, {"scans", json::array()}};
    for (const Channel& c : channels) j["channels"].push_back(channel_json(c));
    for (const Scan& s : scans) {
        json own = json::array();
        for (const Channel& c : s.channels) own.push_back(c.name);
        const Pose& p = s.pose;
        j["scans"].push_back({{"name", s.name},
                              {"guid", s.guid},
                              {"count", s.count},
                              {"pose", {p.w, p.x, p.y, p.z, p.shift.x, p.shift.y, p.shift.z}},
                              {"intensity", {s.intensity.lo, s.intensity.hi}},
                              {"colour", {s.colour.lo, s.colour.hi}},
                              {"namespaces", s.namespaces},
                              {"channels", own}});
    }
    return j.dump(-1, ' ', false, json::error_handler_t::replace);
}

void split_head(const std::string& text, std::vector<Scan>& scans, std::vector<Channel>& channels,
                std::string& crs) {
    try {
        const json j = json::parse(text);
        crs = j.at("crs");
        for (const json& c : j.at("channels"))
            channels.push_back({static_cast<Channel::Kind>(c.at(1).get<int>()), c.at(0), c.at(2), c.at(3),
                                c.at(4), c.at(5)});
        for (const json& s : j.at("scans")) {
            Scan scan;
            scan.name = s.at("name");
            scan.guid = s.at("guid");
            scan.count = s.at("count");
            const json& p = s.at("pose");
            scan.pose = {p.at(0), p.at(1), p.at(2), p.at(3), {p.at(4), p.at(5), p.at(6)}};
            scan.intensity = {s.at("intensity").at(0), s.at("intensity").at(1)};
            scan.colour = {s.at("colour").at(0), s.at("colour").at(1)};
            if (s.contains("namespaces")) scan.namespaces = s.at("namespaces");  // not in projects of before
            for (const json& name : s.at("channels"))
                for (const Channel& c : channels)
                    if (c.name == name.get<std::string>()) scan.channels.push_back(c);
            scans.push_back(std::move(scan));
        }
    } catch (const json::exception&) {
        throw Error(ErrorCode::Format, "The stored head of an E57 file is damaged");
    }
}

namespace {

pugi::xml_node add(pugi::xml_node parent, const char* name, const char* type) {
    pugi::xml_node n = parent.append_child(name);
    n.append_attribute("type") = type;
    return n;
}
void add_text(pugi::xml_node parent, const char* name, const std::string& text) {
    add(parent, name, "String").append_child(pugi::node_cdata).set_value(text.c_str());
}
void add_float(pugi::xml_node parent, const char* name, double v) {
    add(parent, name, "Float").text().set(fmt::format("{}", v).c_str());
}
void add_integer(pugi::xml_node parent, const char* name, std::int64_t v) {
    add(parent, name, "Integer").text().set(fmt::format("{}", v).c_str());
}

void add_channel(pugi::xml_node prototype, const Channel& c) {
    pugi::xml_node n = prototype.append_child(c.name.c_str());
    if (c.is_float()) {
        n.append_attribute("type") = "Float";
        n.append_attribute("precision") = c.kind == Channel::Kind::Float32 ? "single" : "double";
        return;
    }
    n.append_attribute("type") = c.kind == Channel::Kind::Integer ? "Integer" : "ScaledInteger";
    n.append_attribute("minimum") = fmt::format("{}", c.min).c_str();
    n.append_attribute("maximum") = fmt::format("{}", c.max).c_str();
    if (c.kind == Channel::Kind::Integer) return;
    n.append_attribute("scale") = fmt::format("{}", c.scale).c_str();
    n.append_attribute("offset") = fmt::format("{}", c.offset).c_str();
}

void add_limits(pugi::xml_node scan, const Scan& s) {
    const auto limit = [](pugi::xml_node g, const std::string& name, double v, bool whole) {
        whole ? add_integer(g, name.c_str(), static_cast<std::int64_t>(v)) : add_float(g, name.c_str(), v);
    };
    if (const Channel* c = s.find("intensity"); c && s.intensity.given()) {
        const pugi::xml_node g = add(scan, "intensityLimits", "Structure");
        limit(g, "intensityMinimum", s.intensity.lo, c->kind == Channel::Kind::Integer);
        limit(g, "intensityMaximum", s.intensity.hi, c->kind == Channel::Kind::Integer);
    }
    if (const Channel* c = s.find("colorRed"); c && s.colour.given()) {
        const pugi::xml_node g = add(scan, "colorLimits", "Structure");
        for (const char* name : {"colorRed", "colorGreen", "colorBlue"}) {
            limit(g, std::string(name) + "Minimum", s.colour.lo, !c->is_float());
            limit(g, std::string(name) + "Maximum", s.colour.hi, !c->is_float());
        }
    }
}

// The prefixes of channels, each with the name that its file gave it.
std::map<std::string, std::string> namespaces_of(const std::vector<Scan>& scans) {
    std::map<std::string, std::string> all;
    for (const Scan& s : scans)
        for (const Channel& c : s.channels) {
            const std::size_t colon = c.name.find(':');
            if (colon == std::string::npos || c.name.rfind(kPrefix, 0) == 0) continue;
            const std::string prefix = c.name.substr(0, colon);
            const auto given = s.namespaces.find(prefix);
            if (given != s.namespaces.end()) all[prefix] = given->second;
            // The file did not declare it: readers that are strict refuse that.
            all.emplace(prefix, "urn:pristine-cloud:undeclared:" + prefix);
        }
    return all;
}

}  // namespace

std::string format_xml(const std::vector<Scan>& scans, const std::string& crs, const std::string& guid) {
    pugi::xml_document doc;
    pugi::xml_node declaration = doc.append_child(pugi::node_declaration);
    declaration.append_attribute("version") = "1.0";
    declaration.append_attribute("encoding") = "UTF-8";
    pugi::xml_node root = add(doc, "e57Root", "Structure");
    root.append_attribute("xmlns") = "http://www.astm.org/COMMIT/E57/2010-e57-v1.0";
    root.append_attribute("xmlns:pristine") = "urn:pristine-cloud:columns:1";
    for (const auto& [prefix, name] : namespaces_of(scans))
        root.append_attribute(("xmlns:" + prefix).c_str()) = name.c_str();
    add_text(root, "formatName", "ASTM E57 3D Imaging Data File");
    add_text(root, "guid", guid);
    add_integer(root, "versionMajor", 1);
    add_integer(root, "versionMinor", 0);
    add_text(root, "e57LibraryVersion", "Pristine Cloud 0.1");
    add_text(root, "coordinateMetadata", crs);
    pugi::xml_node data = add(root, "data3D", "Vector");
    data.append_attribute("allowHeterogeneousChildren") = "1";
    for (const Scan& s : scans) {
        pugi::xml_node n = add(data, "vectorChild", "Structure");
        add_text(n, "guid", s.guid);
        add_text(n, "name", s.name);
        const pugi::xml_node pose = add(n, "pose", "Structure");
        const pugi::xml_node r = add(pose, "rotation", "Structure");
        add_float(r, "w", s.pose.w);
        add_float(r, "x", s.pose.x);
        add_float(r, "y", s.pose.y);
        add_float(r, "z", s.pose.z);
        const pugi::xml_node t = add(pose, "translation", "Structure");
        add_float(t, "x", s.pose.shift.x);
        add_float(t, "y", s.pose.shift.y);
        add_float(t, "z", s.pose.shift.z);
        add_limits(n, s);
        pugi::xml_node points = add(n, "points", "CompressedVector");
        points.append_attribute("fileOffset") = fmt::format("{}", s.section).c_str();
        points.append_attribute("recordCount") = fmt::format("{}", s.count).c_str();
        const pugi::xml_node prototype = add(points, "prototype", "Structure");
        for (const Channel& c : s.channels) add_channel(prototype, c);
        add(points, "codecs", "Vector").append_attribute("allowHeterogeneousChildren") = "1";
    }
    add(root, "images2D", "Vector").append_attribute("allowHeterogeneousChildren") = "1";
    struct Text : pugi::xml_writer {
        std::string s;
        void write(const void* data, std::size_t size) override {
            s.append(static_cast<const char*>(data), size);
        }
    } text;
    doc.save(text, "  ");
    return text.s;
}

}  // namespace pristine::io::e57
