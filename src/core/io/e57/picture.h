// Pictures inside an E57 file: taken by the camera of a scanner, with the place and the turn of the camera.
//
// The three projections are those of ASTM E2807-11: pinhole cameras look along -z with x to the right and y
// up; spherical and cylindrical pictures have the direction of x in their middle and the angle about z
// growing to the left.

#pragma once

#include <filesystem>
#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "core/base/mipmap.h"
#include "core/base/progress.h"
#include "core/cloud/point_cloud.h"
#include "core/io/e57/scan.h"

namespace pristine::io {

/// A picture, and how the world comes onto it. Lengths in metres, as in the file.
struct ScanPicture {
    enum class Kind { Pinhole, Spherical, Cylindrical } kind = Kind::Pinhole;
    std::string name;
    std::string scan;  ///< guid of the scan that it was taken with; empty: not said
    e57::Pose pose;
    int width = 0, height = 0;
    double pixel_width = 0,
           pixel_height = 0;  ///< pinhole: metres; spherical: radians; cylindrical: of each one
    double focal = 0;         ///< pinhole
    double radius = 0;        ///< cylindrical
    double principal_x = 0, principal_y = 0;   ///< pixels from the upper left corner
    std::shared_ptr<const std::string> bytes;  ///< of the JPEG or PNG; null: not read
};

/// Where a place of the world is in a picture, in pixels from its upper left corner; none outside of it.
std::optional<PixelPoint> pixel_of(const ScanPicture&, const Vec3& world);
/// How well a pixel is placed to give a colour: 1 in the middle, 0 at the edge; 1 all over a picture that
/// goes all round.
double worth_of(const ScanPicture&, const PixelPoint&);

/// All pictures of a file that have a projection, not decoded; without their bytes if only the list is
/// wanted. Pictures that are damaged, or have no projection, are named in `warnings`. Throws Error(Io,
/// Format).
std::vector<ScanPicture> read_e57_pictures(const std::filesystem::path&, bool with_bytes,
                                           std::vector<std::string>& warnings, Progress& = Progress::none());

/// The pictures that belong to a scan of a cloud that was read from an E57 file and stands where it stood
/// there, by the number of its station; those that name no scan belong to all.
std::vector<const ScanPicture*> pictures_of(const std::vector<ScanPicture>&, const cloud::PointCloud&,
                                            std::size_t station);
/// Why a cloud can have no pictures: it is not from an E57 file, or was moved; empty: it can.
std::string why_no_pictures(const cloud::PointCloud&);

/// Colours of the points by pictures, 0xRRGGBB by element; each takes that of the picture of its own scan in
/// which it is worth most. A point in no picture keeps its colour, or is grey. One picture is decoded at a
/// time.
struct PictureColours {
    std::vector<std::uint32_t> rgb;
    std::uint64_t coloured = 0;  ///< points that are in a picture
};
/// Throws Error(Usage) for why_no_pictures, Cancelled. O(points * pictures of a scan).
PictureColours colours_by(const std::vector<ScanPicture>&, const cloud::PointCloud&,
                          std::vector<std::string>& warnings, Progress& = Progress::none());

}  // namespace pristine::io
