// What the commands of surfaces share: how they are read, bounded and written.

#pragma once

#include "cli/command.h"
#include "core/io/lines/lines.h"
#include "core/io/mesh/mesh_io.h"
#include "core/surface/definition.h"

namespace pristine::cli {

using Paths = std::vector<std::string>;

/// Closed lines of a file, in the system wanted. Throws Error(Usage) for open ones, with their place;
/// Error(Empty).
surface::Rings rings_of(const std::string& path, const cloud::Reference& wanted,
                        double sagitta = io::kSagitta);

/// Where a surface ends.
struct Bounds {
    std::string boundary;
    Paths holes;
    bool exact = false, whole = false;
    double sagitta = io::kSagitta;
    bool any() const { return !boundary.empty() || !holes.empty(); }
    /// Holes in the boundary; without one, everything outside of the holes.
    mesh::TriMesh apply(const mesh::TriMesh&, const cloud::Reference& of, Progress&) const;
    mesh::TriMesh without_holes(mesh::TriMesh, const cloud::Reference& of, Progress&) const;
};
void add_bounds(CLI::App&, Bounds&, Common&);

nlohmann::json figures_json(const mesh::TriMesh&);
/// Throws Error(Usage) for coordinates that are no lengths.
io::MeshFile read_surface(const std::string& path, const Common&, Progress&);
/// Every triangle faces upwards in plan: what areas and volumes rest on. Throws Error(Usage).
void require_surface(const mesh::TriMesh&, const std::string& path);

/// `surface smooth`.
void add_surface_smooth(CLI::App& surface);

/// The closed lines of a file in the system of the data, each under the name of its layer and a number, or
/// under `word` and a number. Throws Error(Empty) when there is none.
std::vector<std::pair<std::string, std::vector<Vec3>>> named_rings(const std::string& file,
                                                                   const cloud::Reference& of,
                                                                   const std::string& word);

/// What two surfaces that are compared count in; what states nothing is taken to count as the other. Throws
/// Error(Usage) when they differ.
cloud::Reference common_reference(const io::MeshFile&, const io::MeshFile&);

/// What a surface was built along and inside.
struct Along {
    std::vector<io::MapLine> breaklines{}, boundaries{};
};
void write_surface(const mesh::TriMesh&, const std::string& path, double cell, bool force,
                   const cloud::Reference&, Progress&, const Along& = {});

}  // namespace pristine::cli
