// The parts of a site as JSON and back: one pair of functions an object. What reads throws
// nlohmann::json::exception for what is damaged.

#pragma once

#include <memory>
#include <nlohmann/json.hpp>
#include <string>

#include "core/site/site.h"

namespace pristine::store {

using nlohmann::json;

json feature_json(const Feature& f);
Feature feature_from(const json& j);
site::Cause cause_in(const json& cause, const std::string& sentence);
json origin_json(const site::Origin& o);
site::Origin origin_from(const json& j, std::size_t at);
json style_json(const site::Style& s);
site::Style style_from(const json& j);
json clip_json(const site::ClipBox& c);
site::ClipBox clip_from(const json& j);
json line_json(const site::Line& l);
site::Line line_from(const json& j);
json mark_json(const site::Mark&);
site::Mark mark_from(const json&);
/// All of a site, with what those need who read nothing else (kept_marks.h): the name of what a height was
/// measured over, and why it is out of date.
json marks_json(const site::Site&);
/// Of a unit and system.
json reference_json(const cloud::Reference&);
cloud::Reference reference_from(const json&);
std::string picture_blob(const site::Thumbnail& t);
std::shared_ptr<const site::Thumbnail> picture_from(const std::string& blob);
/// Of a cloud that has another reference, or other stations, than its rows.
json reference_json(const cloud::PointCloud&);

site::Making making_from(const json& m);
site::CodeTable codes_from(const json& c);
/// Of a commit: clip boxes, unit, classes, surveys, makings, codes, marks.
void read_small_things(const json& commit, site::Site&);

}  // namespace pristine::store
