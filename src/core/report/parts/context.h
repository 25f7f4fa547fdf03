// What the makers of parts have at hand. For compose.cpp and parts/ only.

#pragma once

#include "core/mesh/tri_mesh.h"
#include "core/report/compose.h"
#include "core/report/shown.h"

namespace pristine::report {

/// One part in the making.
struct Context {
    const Material& material;
    const Setup& setup;
    const PartSetup& part;
    Spot room;  ///< for figures, mm
    Progress& progress;
    bool sheet = false;  ///< for a plan sheet: figures may take all the room
    std::vector<Block> blocks{};
    std::vector<std::string> warnings{};

    const site::Site& site() const { return *material.site; }
    void say(const std::string& text, Paragraph::Kind = Paragraph::Kind::Plain);
    void say(std::vector<Run>);
    void add(Table);
    void add(Figure);
    /// Items and lines of the part, in order; those that are gone are left out.
    std::vector<site::ItemPtr> items() const;
    std::vector<site::LinePtr> lines() const;
    bool wants_pictures() const { return material.draw && part.word("pictures", "all") != "none"; }
};

// A maker for each kind of part.
using Maker = void (*)(Context&);
/// Throws Error(Usage) for a kind that is not known.
Maker maker_of(const std::string& kind);
void make_site(Context&);
void make_sources(Context&);
void make_removed(Context&);
void make_pictures(Context&);
void make_rules(Context&);
void make_checks(Context&);
void make_placement(Context&);
void make_surfaces(Context&);
void make_change(Context&);
void make_piles(Context&);
void make_contours(Context&);
void make_plan(Context&);
void make_view(Context&);
void make_sections(Context&);
void make_tunnel(Context&);
void make_marks(Context&);
void make_limits(Context&);
void make_ledger(Context&);

/// The triangles that an item shows.
mesh::TriMesh shown_triangles(const site::Item&);
/// What decided, in words, lengths in the unit of the item.
std::string told_cause(const site::Site&, const site::Item&, const site::Cause&);

}  // namespace pristine::report
