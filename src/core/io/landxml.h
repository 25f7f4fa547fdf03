// What the readers of LandXML share: the document, whatever prefix its names have, and its words for units.

#pragma once

#include <pugixml.hpp>
#include <string>

#include "core/cloud/point_cloud.h"

namespace pristine::io {

/// The name of an element without its prefix.
std::string local_name(const pugi::xml_node&);
/// The first child of this name, whatever its prefix; null if there is none.
pugi::xml_node local_child(const pugi::xml_node&, const char* name);

/// Parses a text of any encoding that XML knows (UTF-8, UTF-16, …) and gives its LandXML element. Throws
/// Error(Format) with the byte where the XML is broken, Error(Unsupported) when it is other XML.
pugi::xml_node landxml_root(pugi::xml_document&, const std::string& text, const std::string& place);

/// What the file says of itself: its unit of length, and its system by code or by WKT.
cloud::Reference landxml_reference(const pugi::xml_node& root);

/// The id of units.h of LandXML's word: "USSurveyFoot" is "usft". Empty: not known.
std::string landxml_unit(const std::string& linear);

}  // namespace pristine::io
