#include "core/io/landxml.h"

#include <fmt/format.h>

#include "core/base/error.h"
#include "core/io/reference/remark.h"

namespace pristine::io {

std::string local_name(const pugi::xml_node& n) {
    const std::string name = n.name();
    const auto colon = name.find(':');
    return colon == std::string::npos ? name : name.substr(colon + 1);
}

pugi::xml_node local_child(const pugi::xml_node& parent, const char* name) {
    for (const pugi::xml_node& n : parent.children())
        if (local_name(n) == name) return n;
    return {};
}

pugi::xml_node landxml_root(pugi::xml_document& doc, const std::string& text, const std::string& place) {
    const auto parsed = doc.load_buffer(text.data(), text.size());
    if (!parsed)
        throw Error(ErrorCode::Format, std::string("The XML cannot be read: ") + parsed.description(),
                    fmt::format("{}, byte {}", place, parsed.offset));
    const pugi::xml_node root = local_child(doc, "LandXML");
    if (!root) throw Error(ErrorCode::Unsupported, "This XML is no LandXML", place);
    return root;
}

cloud::Reference landxml_reference(const pugi::xml_node& root) {
    cloud::Reference r;
    if (const pugi::xml_node system = local_child(root, "CoordinateSystem")) {
        const std::string code = system.attribute("epsgCode").as_string(),
                          wkt = system.attribute("ogcWktCode").as_string();
        if (!code.empty()) r = reference_of("EPSG:" + code);
        if (r.crs.empty() && !wkt.empty()) r = reference_of(wkt);
    }
    const pugi::xml_node units = local_child(root, "Units");
    const std::string unit = landxml_unit(units.first_child().attribute("linearUnit").as_string());
    // The unit of the lengths is stated for this file; the system says what it is elsewhere.
    if (!unit.empty() && unit != r.unit) {
        r.unit = unit;
        r.height_unit.clear();
    }
    return r;
}

}  // namespace pristine::io
