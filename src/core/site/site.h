// The document: an immutable snapshot of everything that the user works on.
//
// Laws (tested): 1. A Site never changes; every change makes a new one that shares what did not change. 2.
// What is out of an item is the union of the active entries of its ledger and of what lifted repairs made,
// nothing else. 3. The selection never holds what is out, nor anything of a hidden or locked item.

#pragma once

#include <cstdint>
#include <map>
#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "core/cloud/point_cloud.h"
#include "core/elements/element_set.h"
#include "core/geometry/features.h"
#include "core/geometry/line_role.h"
#include "core/geometry/mark.h"
#include "core/select/solid.h"
#include "core/site/cause.h"
#include "core/site/item_role.h"
#include "core/surface/orthophoto.h"

namespace pristine::site {

using SetPtr = std::shared_ptr<const ElementSet>;

/// Elements of several items: the number of an item and a set over its elements. A selection holds no empty
/// one; what a tool brings may hold an empty or null one: an item that it reached, and took nothing of.
using Parts = std::map<std::uint64_t, SetPtr>;
std::uint64_t count_of(const Parts&);
/// Numbers of the items that something acts on.
using Reach = std::vector<std::uint64_t>;

/// A small picture, 8-bit RGB, row by row.
struct Thumbnail {
    int width = 0, height = 0;
    std::vector<std::uint8_t> rgb;
};

/// What made a selection, and the reason that a decision about it would have.
struct Origin {
    Cause cause;           ///< empty: not known
    std::string reason{};  ///< proposed for the entry, in the user's words; empty: nothing is proposed
    bool operator==(const Origin&) const = default;
};

/// One decision about elements of an item; it can be lifted and applied again.
struct LedgerEntry {
    std::uint64_t id = 0;  ///< the same in all items that one decision took something of
    std::string reason;    ///< "Person", "Noise", … in the user's words
    Cause cause;
    std::string who, when;  ///< login name; local time as 2026-11-25T08:41:07
    bool active = true;
    SetPtr elements;
    std::shared_ptr<const Thumbnail> picture;  ///< may be null
    SetPtr made{};  ///< what a repair put in their place (mend.h), out while it is lifted; null: nothing
    /// The class that the elements were given; none: they were taken out.
    std::optional<std::uint8_t> to_class{};
    /// The change of what the surface is built from (SurfaceSource::edits); `elements` is then empty. 0:
    /// none.
    std::uint32_t edit = 0;

    bool removes() const { return !to_class; }
    std::uint64_t count() const { return elements->count(); }
};

/// How triangles are drawn.
enum class Faces : std::uint8_t { Edged, Solid, EdgesOnly, Points };

/// What the colour of an element says; where an item lacks it, its height is shown.
enum class ColourBy : std::uint8_t { Rgb, Intensity, Height, Class, Single, Column };

/// How an item is drawn.
struct Style {
    ColourBy colour_by = ColourBy::Rgb;
    std::uint32_t single_colour = 0xD8CFBE;
    std::string column;  ///< name of the record field, for ColourBy::Column
    bool own_range =
        false;  ///< the ramp of height, intensity or column spans what follows, not what is usual
    double range_lo = 0, range_hi = 0;  ///< in the value's own unit; hi > lo
    int point_size = 1;                 ///< 1: closed up by spacing; more: that many pixels larger
    /// Limits of classes, ascending, in the value's own unit: the ramp in steps; fewer than two: continuous.
    std::vector<double> classes{};
    Faces faces = Faces::Edged;
    bool operator==(const Style&) const = default;
};

/// Elements that no tool and no decision touches until the guard is lifted.
struct Guard {
    std::uint64_t id = 0;
    std::string name;  ///< "Ground, up to 0.05 m", "Selection"
    SetPtr elements;
};

/// A selection that was kept under a name, as far as it is one of this item.
struct KeptSelection {
    std::uint64_t id = 0;  ///< the same in all items that it has elements of
    std::string name;
    SetPtr elements;
    Origin origin{};
};

/// A box that only its inside is shown of.
struct ClipBox {
    std::uint64_t id = 0;
    std::string name;
    select::Box box;
    bool open = false;  ///< tools also touch what is outside, though it is not shown
};

/// A class of the site's own, or another name or colour for one of the standard.
struct SiteClass {
    std::uint8_t code = 0;
    std::string name;          ///< empty: that of the standard
    std::uint32_t colour = 0;  ///< 0x00RRGGBB
    bool operator==(const SiteClass&) const = default;
};

struct DecidedClasses;  // item_classes.h
struct SurfaceSource;   // surface_source.h

/// A cloud, mesh or surface with all that was decided about it. `cloud`, `removed` and `absent` are never
/// null; every set is over cloud->size() elements.
struct Item {
    std::uint64_t id = 0;
    std::string name;
    std::string group;   ///< heading that it stands under in the contents; empty: that of its kind
    std::string origin;  ///< path and format of the file that it came from
    /// As 2026-11-25, of an item that names no survey with a date (date_of); empty: not stated.
    std::string date;
    std::uint64_t survey = 0;  ///< that it is of; 0: none
    /// Largest error of height of points or cells that were left out of a surface, its data unit; 0: all are
    /// in, or nobody knows.
    double thinned = 0;
    ItemRole role = ItemRole::Points;
    std::shared_ptr<const cloud::PointCloud> cloud;
    bool visible = true, locked = false;
    Style style;
    std::vector<LedgerEntry> ledger;
    SetPtr removed;  ///< union of the active entries, and of what lifted repairs made; never null
    SetPtr scope;    ///< what of the cloud belongs to this item; null: all. Pieces set apart share a cloud.
    SetPtr hidden;   ///< not shown, and safe from every tool; null: nothing
    SetPtr clipped;  ///< outside the clip box in force; null: nothing
    bool clip_open = false;                    ///< as of that box
    std::vector<std::uint8_t> unseen_classes;  ///< that are not shown, ascending
    std::vector<Guard> guards;
    std::vector<KeptSelection> kept;
    SetPtr absent;  ///< what is not drawn: removed, hidden, clipped, or not of this item. Worked out by the
                    ///< functions below.
    std::shared_ptr<const SurfaceSource> source;       ///< what a surface was built from; null: not known
    std::shared_ptr<const surface::Orthophoto> drape;  ///< drawn on its triangles; null: none
    std::vector<double> placement;  ///< how it was moved from its file: 4 x 4 by rows; empty: not at all
    std::string placed_by;          ///< what that rests on, in words: "fitted to May, rms 2.1 mm"
    std::vector<Feature> features;  ///< fitted to parts of it, in its own place
    SetPtr guarded;                 ///< union of the guards; null: nothing. Worked out likewise.
    std::shared_ptr<const DecidedClasses> decided;  ///< by active entries; null: none. Worked out likewise.

    const LedgerEntry* entry(std::uint64_t entry_id) const;
    /// Reasons of active entries that took something out, each once, in order.
    std::vector<std::string> reasons() const;
    /// Union of the active entries with this reason.
    ElementSet out_for(const std::string& reason) const;
    /// Union of the active entries: what was there and is out.
    ElementSet taken() const;
    /// What repairs made, whether they are lifted or not: what was not there before any decision.
    ElementSet made() const;
    /// What would be shown without the clip box.
    ElementSet but_for_clip() const;
    /// Elements of this item, removed ones included.
    std::uint64_t total() const { return scope ? scope->count() : cloud->size(); }
    std::uint64_t shown() const { return cloud->size() - absent->count(); }
    /// Brings absent, guarded and decided up to date after a change of what they come from.
    void refresh();
    /// The same, and `removed` first.
    void refresh_removed();
};
using ItemPtr = std::shared_ptr<const Item>;

/// A line in space: a boundary, an edge, an axis.
struct Line {
    std::uint64_t id = 0;
    std::string name;
    std::vector<Vec3> points;  ///< data unit; a closed line does not repeat its first
    bool closed = false;
    bool visible = true;
    std::string label{};  ///< drawn on it; empty: none
    bool thick = false;   ///< drawn stronger, as index contours are
    std::string group{};  ///< lines of one making, shown and hidden together; empty: by itself
    LineRole role = LineRole::Free;
    std::uint64_t survey = 0;  ///< that it is of; 0: none
};
using LinePtr = std::shared_ptr<const Line>;

/// A measurement that stays: places, and what they are measured for (geometry/mark.h).
struct Mark {
    std::uint64_t id = 0;
    MarkKind kind = MarkKind::Point;
    std::string name, note;
    std::vector<Vec3> points;  ///< data unit
    bool visible = true;
    /// Of a height above something: the item below it, and its stamp (making.h) when it was measured. 0:
    /// none.
    std::uint64_t over = 0, stamp = 0;
    bool operator==(const Mark&) const = default;
};
using MarkPtr = std::shared_ptr<const Mark>;

/// What the points of a code of a survey list are.
enum class CodeRole : std::uint8_t { Spot, Breakline, Boundary, Ignored };
struct CodeRule {
    std::string code;  ///< in capitals, without number and mark
    CodeRole role = CodeRole::Spot;
    bool operator==(const CodeRule&) const = default;
};
/// How lines are read from codes (coded_lines.h): roles, and the marks behind a code.
struct CodeTable {
    std::vector<CodeRule> rules;
    std::string start = "S", end = "E", close = "C";
    bool operator==(const CodeTable&) const = default;
};

/// Something that contours or a map were made from, as it was then (making.h).
struct MadeFrom {
    std::uint64_t id = 0;
    bool line = false;  ///< the id is of a line, else of an item
    std::uint64_t stamp = 0;
    bool operator==(const MadeFrom&) const = default;
};
/// How the contours of a group or the map of a change were made, so that they can be made again.
struct Making {
    enum class Kind : std::uint8_t { Contours, ChangeMap } kind = Kind::Contours;
    std::uint64_t item = 0;      ///< the map
    std::string group;           ///< of the contours, when `item` is 0
    std::vector<MadeFrom> from;  ///< of a map: later, earlier, then the line that bounds it, if any
    double interval = 0;         ///< of contours, data unit
    double smoothed = 0;         ///< likewise: how far a place may have moved; 0: true to the triangles
    bool operator==(const Making&) const = default;
};

/// What was surveyed at one time in one way, and how well its heights are known. Items and lines name the one
/// that they are of.
struct Survey {
    std::uint64_t id = 0;
    std::string name;
    std::string date;    ///< as 2026-11-25; empty: not stated
    std::string method;  ///< in the user's words
    /// One standard deviation of heights, unit of the site's data: of each point by itself, and of all of
    /// them together (datum and placement). 0: not stated.
    double noise = 0, systematic = 0;
    bool operator==(const Survey&) const = default;
};

/// A snapshot of the document. Numbers of items, surveys, lines, entries, guards, kept selections and clip
/// boxes are drawn from next_id, and none is given twice.
struct Site {
    std::string name;
    std::vector<ItemPtr> items;
    std::uint64_t active = 0;    ///< the item in work; 0: none
    Parts selection;             ///< empty: nothing is selected
    bool of_removed = false;     ///< the selection is one among the removed elements, to put them back
    Origin origin;               ///< of the selection
    Parts last_selection;        ///< the one before it was dropped or used; empty: none
    Origin last_origin;          ///< of that one
    std::vector<ClipBox> clips;  ///< those that are kept
    std::uint64_t clip = 0;      ///< the one in force; 0: none
    std::vector<LinePtr> lines;
    std::vector<MarkPtr> marks;
    std::string unit;                ///< of lengths shown and typed (units.h); empty: that of the data
    CodeTable codes;                 ///< of survey lists
    std::vector<SiteClass> classes;  ///< ascending by code
    std::vector<Survey> surveys;
    std::vector<Making> makings;
    std::uint64_t next_id = 1;

    const ClipBox* clip_in_force() const;
    ItemPtr item(std::uint64_t id) const;          ///< null if there is none
    LinePtr line(std::uint64_t id) const;          ///< null if there is none
    MarkPtr mark(std::uint64_t id) const;          ///< likewise
    const Survey* survey(std::uint64_t id) const;  ///< likewise
    ItemPtr active_item() const { return item(active); }
    /// What is selected of an item; null: nothing.
    SetPtr selection_of(std::uint64_t item_id) const;
    SetPtr selection_in_work() const { return selection_of(active); }
    /// Of all items.
    std::uint64_t selected() const { return count_of(selection); }
};
using SitePtr = std::shared_ptr<const Site>;

/// Time and person, as they go into a ledger entry.
struct Signature {
    std::string who, when;
    /// The person that was set, else the login name; the local time.
    static Signature now();
};
/// Who signs from now on; empty: the login name. For the whole process.
void set_person(const std::string& name);

/// What a decision is entered with.
struct Decision {
    std::string reason;
    Cause cause;
    Signature signature = Signature::now();
    std::shared_ptr<const Thumbnail> picture;
};

// Each function below returns the new snapshot. They throw Error(Usage) with the reason when the change makes
// no sense.

/// A new item, of the usual role of its cloud; in work if nothing was.
SitePtr add_cloud(const Site&, std::shared_ptr<const cloud::PointCloud>, const std::string& name,
                  const std::string& origin);
/// Brings it in work. A selection of the item that was in work alone is dropped; one that reaches other items
/// stays.
SitePtr activate(const Site&, std::uint64_t item);
SitePtr set_visible(const Site&, std::uint64_t item, bool visible);
SitePtr set_locked(const Site&, std::uint64_t item, bool locked);
SitePtr rename_item(const Site&, std::uint64_t item, const std::string& name);
/// Puts it under a heading of its own; an empty name puts it back among its kind.
SitePtr set_group(const Site&, std::uint64_t item, const std::string& group);
/// When it was surveyed. Throws Error(Usage) for what is no date as 2026-11-25, and for an item whose survey
/// has a date; empty: none.
SitePtr set_date(const Site&, std::uint64_t item, const std::string& date);
/// The date of its survey, else its own; empty: not stated.
std::string date_of(const Site&, const Item&);
/// A new survey when its id is 0, else the one with this id. Throws Error(Usage) for an empty name, one that
/// another survey has, no date, or a standard deviation below 0.
SitePtr put_survey(const Site&, Survey);
/// Items and lines stay, of no survey.
SitePtr drop_survey(const Site&, std::uint64_t survey);
/// Says that items and lines are of a survey; 0: of none. Throws Error(Usage) for what is not there.
SitePtr set_survey(const Site&, std::uint64_t survey, const std::vector<std::uint64_t>& items,
                   const std::vector<std::uint64_t>& lines = {});
/// One survey for each date that items without a survey have, under the date as its name, and the items in
/// it. Throws Error(Usage) when there is none.
SitePtr surveys_of_dates(const Site&);
/// Says what it stands for. Throws Error(Usage) for a role that its cloud cannot have.
SitePtr set_role(const Site&, std::uint64_t item, ItemRole);
/// A date that a name holds, as 2026-11-25 or 20261125; empty: none.
std::string date_in(const std::string& name);
SitePtr set_thinned(const Site&, std::uint64_t item, double largest_error);
/// Says how an item was moved: 16 numbers, or none; and what that rests on. Throws Error(Usage).
SitePtr set_placement(const Site&, std::uint64_t item, std::vector<double> rows,
                      const std::string& placed_by = {});
/// Features fitted to parts of an item.
SitePtr set_features(const Site&, std::uint64_t item, std::vector<Feature>);
/// Drapes a picture of the ground on the triangles of an item; null takes it off.
SitePtr set_drape(const Site&, std::uint64_t item, std::shared_ptr<const surface::Orthophoto>);
/// Shows or hides all items under a heading in one step.
SitePtr set_group_visible(const Site&, const std::string& group, bool visible);
SitePtr set_style(const Site&, std::uint64_t item, const Style&);
/// A second item with the same points, ledger and style; points are shared, not copied.
SitePtr duplicate_item(const Site&, std::uint64_t item);
/// Takes the item off the list. Undo brings it back.
SitePtr drop_item(const Site&, std::uint64_t item);

/// Everything that a tool may touch of an item: what is shown and not guarded. Nothing of a hidden or locked
/// item.
ElementSet eligible(const Item&);
/// The removed elements of an item, to be selected for putting back. Nothing of a hidden or locked item.
ElementSet eligible_removed(const Item&);

/// What a tool acts on: the item in work, or all that is visible and not locked.
Reach reach_of(const Site&, bool all_shown);

/// The selection after a tool brought a set of each item that it reached; what is not eligible is taken off
/// here, in one place, for all tools. Items that it did not reach keep what is selected of them, unless the
/// selection is a new one. `origin`: what made the sets. Of a combination the origin names all that took
/// part, each once, and the reason is that of the first; after New it is that of this one.
SitePtr select(const Site&, const Parts& sets, Combine, const Origin& origin = {});
/// Of the item in work. Throws Error(Usage) when that is locked or hidden.
SitePtr select(const Site&, const ElementSet& set, Combine, const Origin& origin = {});
SitePtr clear_selection(const Site&);
/// The same among the removed elements.
SitePtr select_removed(const Site&, const Parts& sets, Combine, const Origin& origin = {});
SitePtr select_removed(const Site&, const ElementSet& set, Combine, const Origin& origin = {});
/// The same selection, said to come from elsewhere. Throws Error(Usage) when nothing is selected.
SitePtr set_origin(const Site&, const Origin&);
/// The last selection once more, as far as it may still be touched.
SitePtr reselect(const Site&);
/// Keeps the selection under a name; a name that is taken is replaced.
SitePtr keep_selection(const Site&, const std::string& name);
SitePtr use_kept(const Site&, std::uint64_t kept, Combine);
SitePtr drop_kept(const Site&, std::uint64_t kept);
/// Throws Error(Usage) for an empty name, and when it is not there.
SitePtr rename_kept(const Site&, std::uint64_t kept, const std::string& name);
/// Of the items in `reach`; empty: of the item in work.
SitePtr invert_selection(const Site&, const Reach& reach = {});

/// A new entry with the selection in each item that it reaches, all of one number; the selection is then
/// empty.
SitePtr remove_selection(const Site&, const Decision&);
/// The same with sets that are not selected, as far as they may be touched. Throws Error(Empty).
SitePtr remove_parts(const Site&, const Parts&, const Decision&);
/// New entries with everything but the selection: of the items in `reach`, and of those that something is
/// selected of. Refused when nothing is selected.
SitePtr keep_only_selection(const Site&, const Decision&, const Reach& reach = {});

/// Brings the selected removed elements back: entries that hold some of them are lifted, and what else they
/// held goes out again in entries of the same reason. Entries that are lifted already stay so.
SitePtr put_back_selection(const Site&, const Signature& = Signature::now());

/// An item of its own from the selection, with the same points; `move`: they leave the item that they were
/// of. Of a selection in several items each gets one, called "name of item".
SitePtr set_apart(const Site&, const std::string& name, bool move);
/// Puts the piece `from` back into the item `into`. Both must show the same cloud: Error(Unsupported)
/// otherwise. Ledger, guards and kept selections are joined; `from` leaves the list.
SitePtr merge_items(const Site&, std::uint64_t into, std::uint64_t from);

/// Hides the selection, or everything else of the items in `reach` and of those that something is selected
/// of; the selection is then empty.
SitePtr hide_selection(const Site&);
SitePtr show_only_selection(const Site&, const Reach& reach = {});
SitePtr show_all(const Site&, std::uint64_t item);

/// Shows only what lies inside the box, of every item; tools touch nothing else, unless it is open. A box
/// whose id is 0 becomes a new one in the list; else the one with this id takes the new place and name.
/// O(points in blocks that its faces cross).
SitePtr use_clip(const Site&, const ClipBox&, Progress& = Progress::none());
/// Lets tools touch what the box in force hides, or not. Throws Error(Usage) when none is in force.
SitePtr open_clip(const Site&, bool open);
/// Shows everything again; the boxes stay in the list.
SitePtr clear_clip(const Site&);
SitePtr drop_clip(const Site&, std::uint64_t clip);

/// Adds lines whose id is 0, replaces others. Open lines have two points at least, closed ones three.
SitePtr put_lines(const Site&, std::vector<Line>);
/// All lines of a group. Throws Error(Usage) when there are none.
SitePtr show_lines(const Site&, const std::string& group, bool visible);
SitePtr drop_lines(const Site&, const std::string& group);
SitePtr drop_line(const Site&, std::uint64_t line);
/// Along the line in space, closing stretch included, data unit.
double length_of(const Line&);

/// Says what the coordinates of an item mean, and of all items that show the same cloud. Changes no
/// coordinate. Throws Error(Usage) for a unit that is not known.
SitePtr set_reference(const Site&, std::uint64_t item, const cloud::Reference&);
/// Says where the stations of an item stood; none: what its file says. Pieces of one cloud are told the same.
/// Throws Error(Usage) for triangles, and where the file names several stations.
SitePtr set_stations(const Site&, std::uint64_t item, const std::optional<std::vector<cloud::Station>>&);
/// The unit and system of the site: those of its first item that states a unit of length, else of its first
/// in degrees. All empty when none states anything.
cloud::Reference reference_of(const Site&);
/// Whether an item states another unit or system than the site.
bool differs_from_site(const Site&, const Item&);
/// A second item in another system: `cloud` has the same records (io/mapped_cloud.h), and `how` says what was
/// done; ledger, guards and kept selections come along. The first is hidden. O(n) for each set.
SitePtr add_converted(const Site&, std::uint64_t item, const std::shared_ptr<const cloud::PointCloud>& cloud,
                      const std::string& name, const std::string& how = "converted");

/// Shows and takes lengths in this unit (an id of units.h, or empty: that of the data). Changes no data.
SitePtr set_unit(const Site&, const std::string& unit);

/// Protects elements; what is selected of them is let go. Throws Error(Usage) when there are none.
SitePtr guard(const Site&, const Parts&, const std::string& name);
/// Of the item in work.
SitePtr guard(const Site&, const ElementSet&, const std::string& name);
SitePtr lift_guard(const Site&, std::uint64_t item, std::uint64_t guard);

/// Lifts an entry of one item, or applies it again. Throws Error(Usage) when a repair builds on it.
SitePtr set_entry_active(const Site&, std::uint64_t item, std::uint64_t entry, bool active);
SitePtr set_entry_reason(const Site&, std::uint64_t item, std::uint64_t entry, const std::string& reason);
/// The items in which a decision has an entry.
std::vector<ItemPtr> items_of_decision(const Site&, std::uint64_t entry);
/// The same in all of them. Throws Error(Usage) when there is nothing to change, or as the ones above.
SitePtr set_decision_active(const Site&, std::uint64_t entry, bool active);
SitePtr set_decision_reason(const Site&, std::uint64_t entry, const std::string& reason);
/// Several at once: lifted from the newest, applied again from the oldest, those that are so already left as
/// they are. Throws Error(Usage) when there is nothing to change, or as the ones above.
SitePtr set_decisions_active(const Site&, std::vector<std::uint64_t> entries, bool active);

}  // namespace pristine::site
