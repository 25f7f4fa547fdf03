// What can be done with a mesh, as work for a worker thread: repairs, wrap, reduction, each with the sentence
// that tells what it did. No widget; MeshCard starts them.

#pragma once

#include <QString>
#include <functional>
#include <memory>
#include <vector>

#include "app/look/lengths.h"
#include "core/repair/check.h"
#include "core/repair/cost.h"
#include "core/repair/reduce.h"
#include "core/repair/repair.h"
#include "core/repair/wrap.h"
#include "core/site/site.h"

namespace pristine::app {

/// What such work made.
struct MeshMade {
    mesh::TriMesh mesh;  ///< without triangles: nothing was made, and `told` says why
    QString told;
    std::vector<double> off{};             ///< of each triangle from the original, to colour by; empty: none
    std::uint64_t removed = 0, added = 0;  ///< told as %1 and %2, where no ledger counts them
    std::vector<repair::Unrepaired> left{};
    bool heals = false;      ///< of what is taken nothing is to be seen any more
    site::Settings found{};  ///< what the cause of the entry tells
};
using MeshWork = std::function<MeshMade(const mesh::TriMesh&, Progress&)>;

/// The name of a kind of fault, for people.
QString title_of(repair::Fault);
QString title_of(repair::Harm);
/// What it is, in a sentence.
QString explained(repair::Fault);
/// The first figure that means something: "0.42 m³", "1.3 m²", "0.8 m"; empty: none does.
QString told_cost(const repair::Cost&, const Lengths&);
/// What that figure is, of this kind.
QString explained_cost(repair::Fault);
/// How much surface a repair takes and makes, and what stays because the repair would make it worse.
QString change_of(const repair::Repaired&, const Lengths&);

/// Area, volume and mass in a sentence, or why there is no volume or mass. `density`: kg/m³; 0: not given.
QString figures_of(const mesh::TriMesh&, const repair::Check&, double density, const Lengths&);

MeshWork repair_one_work(const repair::Finding&, const repair::RepairOptions&, const Lengths&);
/// `known` is the check of the mesh; `distances`: with the distance of each triangle from the original.
MeshWork repair_work(const repair::RepairOptions&, std::shared_ptr<const repair::Check> known, bool distances,
                     const Lengths&);
MeshWork wrap_work(const repair::WrapOptions&, const Lengths&);
MeshWork reduce_work(const repair::ReduceOptions&, const Lengths&);
/// `gone`: of each triangle whether it is taken away; the hole is filled.
MeshWork patch_work(std::vector<char> gone, const repair::FillOptions&);

/// Holes and places where the mesh meets itself, as lines; many get a heading that names the item.
std::vector<site::Line> findings_as_lines(const mesh::TriMesh&, const repair::Check&, const QString& item);

}  // namespace pristine::app
