// The tool in hand: what it may touch, and what becomes of the fences and strokes that it makes.

#pragma once

#include <QPointer>
#include <functional>
#include <memory>
#include <optional>
#include <vector>

#include "app/stage/stage.h"
#include "app/tools/tool_spec.h"
#include "app/window/part.h"
#include "core/elements/element_set.h"
#include "core/select/fence.h"

namespace pristine::app {

struct Stroke;

class Hand : public Part {
    Q_OBJECT
  public:
    explicit Hand(Desk&);
    ~Hand() override;
    void add_commands() override;

    ToolId id() const { return tool_id_; }
    void take_tool(ToolId);
    /// The tools of the stage and of the section.
    std::array<Tool*, 2> tools() const { return {tool_.get(), section_tool_.get()}; }
    /// And that of the panorama, which may be null.
    std::array<Tool*, 3> all_tools() const {
        return {tool_.get(), section_tool_.get(), panorama_tool_.get()};
    }

    /// A selection and what made it.
    struct Selected {
        site::Parts parts;
        site::Origin origin;
    };
    Selected selected_now() const;

    /// Whether tools select among what is out.
    bool among_removed() const { return among_removed_; }
    void set_among_removed(bool);

    site::Combine combine_for(Qt::KeyboardModifiers) const;
    /// The items that tools and decisions act on.
    site::Reach reach(const site::Site&) const;
    /// What tools may take of an item now, in this stage, removed or not.
    ElementSet within_reach(const site::Item&, const Stage*) const;
    struct Target {
        site::ItemPtr item;
        ElementSet eligible;
    };
    /// The same of all items that the tool in hand reaches.
    std::vector<Target> targets(const site::Site&, const Stage*) const;
    select::FenceOptions fence_options() const;
    /// Of what the tool in hand makes, and the reason last used with it.
    site::Origin hand_origin() const;
    using Shape = std::function<ElementSet(const cloud::PointCloud&, const ElementSet&, Progress&)>;
    /// What a selection is combined with and called.
    struct Way {
        site::Combine combine;
        QString empty;  ///< sentence when nothing is taken, with %1 for the name of the item
        site::Origin origin;
        std::optional<Selected> before{};  ///< what it is combined with instead of the present one
    };
    /// Selects what a shape takes of each target, in the background. `done` runs
    /// when it is committed.
    void select_in(std::vector<Target>, Shape, Way, std::function<void()> done = {});
    /// The same with what tools may take in this stage.
    void select_shape(const QString& what, Stage*, Qt::KeyboardModifiers, const site::Origin&, Shape);
    /// Commits a selection, of items as they were when it was begun.
    void finish_selecting(const std::vector<Target>& of, const site::Parts&, const Way&);

    /// The next click in the stage is a place for somebody else, and not for the tool; `ask` is said. Over
    /// nothing it is asked again.
    void pick_next(const QString& ask, std::function<void(const Vec3&)> picked);
    void drop_pick();

    /// The fence that was closed last, its corners where they lie on what is seen; empty: none was.
    const std::vector<Vec3>& last_fence() const { return last_fence_; }

    /// Strokes that are no plain brush: `step` takes part of them, or says that it does not know them;
    /// `ended` likewise.
    struct OwnStrokes {
        std::function<bool(Stage*, const select::Fence&, Stroke&)> step;
        std::function<bool(const std::shared_ptr<Stroke>&)> ended;
    };
    void set_own_strokes(OwnStrokes s) { own_ = std::move(s); }

  signals:
    void taken(ToolId);
    void among_removed_changed();

  protected:
    bool eventFilter(QObject*, QEvent*) override;

  private:
    void connect_stage(Stage*);
    void close_fence(Stage*, const select::Fence&, Qt::KeyboardModifiers);
    void select_edge(Stage*, const select::Fence&, Qt::KeyboardModifiers);
    void stroke_step(Stage*, const select::Fence&, Qt::KeyboardModifiers);
    void panorama_stroke_step(const Polygon&, Qt::KeyboardModifiers);
    void show_stroke(const site::Site&);
    void stroke_ended();
    std::shared_ptr<Stroke> begun_stroke(Stage*, Qt::KeyboardModifiers) const;
    static site::Parts taken_of(const Stroke&);
    void close_panorama_fence(const Polygon&, Qt::KeyboardModifiers);

    std::unique_ptr<Tool> tool_, section_tool_, panorama_tool_;  // of the two stages and the panorama
    ToolId tool_id_ = ToolId::Polygon;
    bool among_removed_ = false;
    std::vector<Vec3> last_fence_;
    std::shared_ptr<Stroke> stroke_;
    OwnStrokes own_;
    std::function<void(const Vec3&)> picked_;
};

}  // namespace pristine::app
