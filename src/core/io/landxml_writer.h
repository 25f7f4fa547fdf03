// LandXML 1.2 written: surfaces with their breaklines and boundaries, lines, survey points. Places are
// northing first.

#pragma once

#include <string>
#include <vector>

#include "core/io/cloud_io.h"
#include "core/io/lines/lines.h"
#include "core/io/points.h"
#include "core/mesh/tri_mesh.h"

namespace pristine::io {

/// A surface with its name.
struct LandXmlSurface {
    std::string name;
    mesh::TriMesh mesh;
    std::vector<MapLine> breaklines{},
        boundaries{};  ///< what it was built along and inside; for whoever reads on
};

/// What one file holds.
struct LandXml {
    cloud::Reference reference;
    std::vector<LandXmlSurface> surfaces{};
    std::vector<MapLine> lines{};     ///< open ones become alignments, closed ones plan features
    std::vector<PointList> points{};  ///< each a group of survey points; points without a name are numbered
};

/// The document. A surface that faces downwards with more than rounding: Error(Unsupported). O(n).
std::string text_of(const LandXml&);

/// Clouds as survey points, triangles as surfaces, each item by itself. Whole or not at all; returns the
/// number of triangles, or of points where there are none. Throws Error, Cancelled.
std::uint64_t write_landxml(const std::vector<WriteItem>&, const std::filesystem::path&, bool replace,
                            Progress&);

}  // namespace pristine::io
