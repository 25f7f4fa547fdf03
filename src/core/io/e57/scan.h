// What an E57 file says of its scans.

#pragma once

#include <cstdint>
#include <map>
#include <string>
#include <vector>

#include "core/cloud/record.h"
#include "core/geometry/vec.h"

namespace pugi {
class xml_node;
}

namespace pristine::io::e57 {

/// One channel of the points: how its numbers are stored.
struct Channel {
    enum class Kind { Float32, Float64, Integer, Scaled } kind = Kind::Float64;
    std::string name;               ///< as in the file: cartesianX, colorRed, …
    std::int64_t min = 0, max = 0;  ///< of the stored integer
    double scale = 1, offset = 0;   ///< value = integer * scale + offset

    bool is_float() const { return kind == Kind::Float32 || kind == Kind::Float64; }
    /// Bits of one value; 0 for a constant.
    unsigned bits() const;
};

/// Where a scan stood, and how it was turned.
struct Pose {
    double w = 1, x = 0, y = 0, z = 0;  ///< rotation as a quaternion
    Vec3 shift;
    Vec3 world(const Vec3& local) const;
};

/// Least and largest value that a scan states.
struct Limits {
    double lo = 0, hi = 0;
    bool given() const { return hi > lo; }
};

/// One scan of the file.
struct Scan {
    std::string name, guid;
    std::uint64_t count = 0;    ///< points
    std::uint64_t section = 0;  ///< physical offset of the binary section
    Pose pose;
    std::vector<Channel> channels;
    Limits intensity, colour;
    std::map<std::string, std::string> namespaces{};  ///< of the file: prefix and name, but for our own

    const Channel* find(const std::string& name) const;
};

/// What the XML section says.
struct Contents {
    std::vector<Scan> scans;
    std::string crs;         ///< coordinateMetadata
    std::size_t images = 0;  ///< left out
};

/// The pose of a scan or a picture, `name` for errors. Throws Error(Format).
Pose pose_of(const pugi::xml_node& scan, const std::string& name);

/// Reads the XML part. Throws Error(Format, Unsupported).
Contents parse_xml(const std::string& xml, const std::string& place);

/// Our own name of a channel: cartesianX is local_x, colorRed is red, rowIndex is row.
std::string field_name(const std::string& channel);
/// The standard's name of one of our columns; with the prefix of our extension if the standard has none.
std::string channel_name(const std::string& field);

/// One layout for the records of all scans: x, y, z in the world, the scan's number, then every channel that
/// any scan has, as it is stored. `channels` receives the common encoding of each.
cloud::RecordLayout layout_of(const std::vector<Scan>&, std::vector<Channel>& channels);

/// What the layout carries to write the scans again.
std::string join_head(const std::vector<Scan>&, const std::vector<Channel>& channels, const std::string& crs);
void split_head(const std::string&, std::vector<Scan>&, std::vector<Channel>& channels, std::string& crs);

/// The XML part of a file.
std::string format_xml(const std::vector<Scan>&, const std::string& crs, const std::string& guid);

constexpr std::size_t kFirstChannelField = 4;  ///< fields before it: x, y, z, scan

}  // namespace pristine::io::e57
