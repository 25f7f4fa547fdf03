#include "app/model/mesh_work.h"

#include <QCoreApplication>
#include <cmath>

#include "app/look/theme.h"
#include "core/repair/crossings.h"
#include "core/repair/deviation.h"
#include "core/repair/one.h"
#include "core/repair/patch.h"

namespace pristine::app {

using repair::Fault;

namespace {

struct MeshSay {
    Q_DECLARE_TR_FUNCTIONS(MeshWork)
};

}  // namespace

QString title_of(repair::Harm h) {
    switch (h) {
        case repair::Harm::KeepsOpen:
            return MeshSay::tr("Keeps it open");
        case repair::Harm::WrongVolume:
            return MeshSay::tr("Makes the volume wrong");
        case repair::Harm::OnlyUgly:
            return MeshSay::tr("Only ugly");
    }
    return {};
}

QString explained(Fault f) {
    switch (f) {
        case Fault::NonManifoldEdge:
            return MeshSay::tr("More than two triangles meet in an edge");
        case Fault::NonManifoldVertex:
            return MeshSay::tr("Two parts touch in a point");
        case Fault::InconsistentEdge:
            return MeshSay::tr("Neighbours whose fronts look to different sides");
        case Fault::SelfIntersection:
            return MeshSay::tr("Triangles that pass through each other");
        case Fault::Degenerate:
            return MeshSay::tr("Triangles without area, or a million times longer than high");
        case Fault::TinyEdge:
            return MeshSay::tr("Edges shorter than the shortest edge");
        case Fault::Spike:
            return MeshSay::tr("Corners that stand out like a needle");
        case Fault::DuplicateFace:
            return MeshSay::tr("Triangles with the same three corners as another");
        case Fault::SmallPiece:
            return MeshSay::tr("Pieces that hang by themselves, of few triangles");
        case Fault::Hole:
            return MeshSay::tr("Rims that are not the edge of an open scan");
        case Fault::InnerShell:
            return MeshSay::tr("Pieces inside another, which nobody sees from outside");
    }
    return {};
}

QString told_cost(const repair::Cost& c, const Lengths& l) {
    if (c.volume > 0) return l.brief(c.volume, 3);
    if (c.area > 0) return l.brief(c.area, 2);
    return c.length > 0 ? l.brief(c.length, 1) : QString();
}

QString explained_cost(Fault f) {
    switch (f) {
        case Fault::Hole:
            return MeshSay::tr("Area across the holes");
        case Fault::NonManifoldEdge:
        case Fault::InconsistentEdge:
        case Fault::TinyEdge:
            return MeshSay::tr("Length of these edges");
        case Fault::SelfIntersection:
        case Fault::Degenerate:
        case Fault::Spike:
            return MeshSay::tr("Area of these triangles");
        case Fault::DuplicateFace:
            return MeshSay::tr("Area that is there twice");
        case Fault::SmallPiece:
        case Fault::InnerShell:
            return MeshSay::tr("Volume of these pieces, as far as they are closed; else their area");
        case Fault::NonManifoldVertex:
            break;
    }
    return {};
}

QString title_of(Fault f) {
    switch (f) {
        case Fault::NonManifoldEdge:
            return MeshSay::tr("Forked edges");
        case Fault::NonManifoldVertex:
            return MeshSay::tr("Pinched corners");
        case Fault::InconsistentEdge:
            return MeshSay::tr("Turned faces");
        case Fault::SelfIntersection:
            return MeshSay::tr("Crossings");
        case Fault::Degenerate:
            return MeshSay::tr("Without area");
        case Fault::TinyEdge:
            return MeshSay::tr("Tiny edges");
        case Fault::Spike:
            return MeshSay::tr("Spikes");
        case Fault::DuplicateFace:
            return MeshSay::tr("Doubled faces");
        case Fault::SmallPiece:
            return MeshSay::tr("Small pieces");
        case Fault::Hole:
            return MeshSay::tr("Holes");
        case Fault::InnerShell:
            return MeshSay::tr("Shells inside");
    }
    return {};
}

namespace {

QString told_of(const repair::Deviation& d, const Lengths& l) {
    return " " + MeshSay::tr("What was made lies %1 from what was there in the mean, %2 at most.")
                     .arg(l.spread(d.mean), l.spread(d.max));
}

site::Settings found_by(const repair::Repaired& r, const std::vector<repair::Unrepaired>& left) {
    site::Settings found{
        {"area_taken", r.area_taken}, {"area_made", r.area_made}, {"sound", r.after.sound()}};
    std::vector<std::string> kinds, not_done;
    for (const repair::RepairStep& s : r.steps)
        if (s.removed + s.made > 0) kinds.push_back(repair::id_of(s.fault));
    for (const repair::Unrepaired& u : left)
        if (not_done.size() < 3) not_done.push_back(std::string(repair::id_of(u.fault)) + " (" + u.why + ")");
    if (!kinds.empty()) found["kinds"] = kinds;
    if (!not_done.empty()) found["left"] = not_done;
    if (r.made > 0) {
        found["off_mean"] = r.deviation.mean;
        found["off_max"] = r.deviation.max;
    }
    return found;
}

}  // namespace

QString change_of(const repair::Repaired& r, const Lengths& l) {
    const double share = r.area_before > 0 ? 100 * r.area_taken / r.area_before : 0;
    QString text =
        MeshSay::tr("%1 of surface taken (%2 %), %3 made.")
            .arg(l.area(r.area_taken), shown_figure(share, share < 1 ? 2 : 1), l.area(r.area_made));
    if (r.left_alone > 0)
        text += " " + MeshSay::tr("%n place(s) stayed as before: a repair would have made them worse.", "",
                                  static_cast<int>(r.left_alone));
    return text;
}

QString figures_of(const mesh::TriMesh& m, const repair::Check& check, double density, const Lengths& l) {
    QString text = MeshSay::tr("Area %1.").arg(l.area(mesh::surface_area(m)));
    if (!check.closed) {
        const auto rims = static_cast<int>(check.count(Fault::Hole) + check.outer.size());
        text +=
            " " +
            (rims > 0 ? MeshSay::tr("No volume: the mesh is open at %n rim(s), marked in the view.", "", rims)
                      : MeshSay::tr("No volume: edges of more than two triangles, or faces that disagree. "
                                    "Repair it, or make a closed skin of it."));
    } else {
        const double v = std::fabs(mesh::signed_volume(m));
        text += " " + MeshSay::tr("Volume <b>%1</b>.").arg(l.volume(v));
        if (density > 0)
            text += " " + (l.known() ? MeshSay::tr("Mass <b>%1</b>.")
                                           .arg(QString::fromStdString(mass_text(
                                               v * std::pow(l.data_metres(), 3) * density, number_marks())))
                                     : MeshSay::tr("No mass: the unit is not set."));
        if (const auto n = check.count(Fault::SelfIntersection); n > 0)
            text +=
                " " + MeshSay::tr("It crosses itself at %n place(s): the volume counts some places twice.",
                                  "", static_cast<int>(n));
    }
    return text;
}

MeshWork repair_one_work(const repair::Finding& finding, const repair::RepairOptions& o, const Lengths& l) {
    return [=](const mesh::TriMesh& m, Progress& p) {
        repair::Step s = repair::repair_one(m, finding, o, p);
        if (!s.unrepaired.empty())
            return MeshMade{
                {}, MeshSay::tr("Not repaired: %1.").arg(QString::fromStdString(s.unrepaired[0].why)),
                {}, 0,
                0,  s.unrepaired};
        QString told = MeshSay::tr("%1 triangles taken, %2 made; everything else is as it was.");
        // Of a hole nothing was there.
        if (finding.fault != Fault::Hole && s.made > 0)
            told += told_of(repair::deviation_of_made(m, s.mesh, p), l);
        MeshMade made{std::move(s.mesh), told, {}, s.removed, s.made};
        made.found["kinds"] = std::vector<std::string>{repair::id_of(finding.fault)};
        return made;
    };
}

MeshWork repair_work(const repair::RepairOptions& o, std::shared_ptr<const repair::Check> known, bool off,
                     const Lengths& l) {
    return [=](const mesh::TriMesh& m, Progress& p) {
        repair::Repaired r = repair::repair(m, o, p, known.get());
        const std::uint64_t taken = r.taken, made = r.made;
        QString told = taken + made > 0 ? MeshSay::tr("%1 triangles taken, %2 made.")
                                        : MeshSay::tr("Nothing could be repaired.");
        if (taken + made > 0) told += " " + change_of(r, l);
        told += r.after.sound() ? " " + MeshSay::tr("The mesh is sound.") : QString();
        if (made > 0) told += told_of(r.deviation, l);
        for (const repair::Unrepaired& u : r.unrepaired) {
            told += " " + MeshSay::tr("Left: %1 (%2).").arg(title_of(u.fault), QString::fromStdString(u.why));
            if (&u - r.unrepaired.data() == 2) break;
        }
        if (taken + made == 0) return MeshMade{{}, told, {}, 0, 0, std::move(r.unrepaired)};
        std::vector<double> distance;
        if (off) distance = repair::distances(r.mesh, m, p);
        MeshMade done{std::move(r.mesh), told, std::move(distance), taken, made, std::move(r.unrepaired)};
        done.found = found_by(r, done.left);
        return done;
    };
}

MeshWork wrap_work(const repair::WrapOptions& o, const Lengths& l) {
    return [=](const mesh::TriMesh& m, Progress& p) {
        const auto wrapped = [&] {
            const Progress::Part part(p, 0, 0.7, "");
            return repair::wrap(m, o, p);
        };
        repair::Wrapped w = wrapped();
        p.stretch(0.7, 1, "Measuring the deviation");
        const QString told =
            MeshSay::tr("The skin lies %1 from the mesh in the mean, %2 for 95 %, %3 at most.")
                .arg(l.spread(w.deviation.mean), l.spread(w.deviation.p95), l.spread(w.deviation.max));
        std::vector<double> off = repair::distances(w.mesh, m, p);
        return MeshMade{std::move(w.mesh), told, std::move(off)};
    };
}

MeshWork reduce_work(const repair::ReduceOptions& o, const Lengths& l) {
    return [=](const mesh::TriMesh& m, Progress& p) {
        repair::Reduced r = repair::reduce(m, o, p);
        const QString told =
            MeshSay::tr("%1 triangles; %2 from the original in the mean, %3 at most.")
                .arg(grouped(r.mesh.triangles.size()), l.spread(r.deviation.mean), l.spread(r.deviation.max));
        return MeshMade{std::move(r.mesh), told, {}};
    };
}

MeshWork patch_work(std::vector<char> gone, const repair::FillOptions& o) {
    return [gone = std::move(gone), o](const mesh::TriMesh& m, Progress& p) {
        repair::Step done = repair::replace_patch(m, gone, o, p);
        if (!done.unrepaired.empty())
            return MeshMade{
                .mesh = {},
                .told = MeshSay::tr("Not replaced: %1.").arg(QString::fromStdString(done.unrepaired[0].why)),
                .left = done.unrepaired};
        return MeshMade{std::move(done.mesh),
                        MeshSay::tr("%1 triangles taken, %2 made."),
                        {},
                        done.removed,
                        done.made,
                        {},
                        true};
    };
}

std::vector<site::Line> findings_as_lines(const mesh::TriMesh& m, const repair::Check& check,
                                          const QString& item) {
    std::vector<site::Line> lines;
    for (const repair::Finding& f : check.of(Fault::Hole)) {
        site::Line l;
        l.role = LineRole::Finding;
        l.name = MeshSay::tr("Hole %1").arg(lines.size() + 1).toStdString();
        for (const std::uint32_t v : f.vertices) l.points.push_back(m.vertices[v]);
        l.closed = l.points.size() > 2;
        lines.push_back(std::move(l));
    }
    int n = 0;
    for (const repair::Finding& f : check.of(Fault::SelfIntersection)) {
        site::Line l;
        l.role = LineRole::Finding;
        l.name = MeshSay::tr("Crossing %1").arg(++n).toStdString();
        l.points = repair::intersection_segment(m, f.triangles[0], f.triangles[1]);
        if (l.points.size() == 2) lines.push_back(std::move(l));
    }
    if (!item.isEmpty() && lines.size() > 12)
        for (site::Line& l : lines) l.group = MeshSay::tr("Findings in %1").arg(item).toStdString();
    return lines;
}

}  // namespace pristine::app
