// The tool in hand: what it may touch, and what becomes of the fences and strokes that it makes.

#pragma once

#include <QPointer>
#include <functional>
#include <memory>

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

    /// A selection and what made it.
    struct Selected {
        site::SetPtr set;
        site::Origin origin;
    };
    Selected selected_now() const;

    /// Whether tools select among what is out.
    bool among_removed() const { return among_removed_; }
    void set_among_removed(bool);

    site::Combine combine_for(Qt::KeyboardModifiers) const;
    /// What tools may take now: of the item in work, in this stage, removed or not.
    ElementSet within_reach(const site::Site&, const Stage*) const;
    select::FenceOptions fence_options() const;
    /// Of what the tool in hand makes, and the reason last used with it.
    site::Origin hand_origin() const;
    using Shape = std::function<ElementSet(const cloud::PointCloud&, const ElementSet&, Progress&)>;
    /// Selects what a shape takes, in the background. `what`: of the sentence when that is nothing.
    void select_shape(const QString& what, Stage*, Qt::KeyboardModifiers, const site::Origin&, Shape);
    /// Commits a selection. `before`: what it is combined with instead of the present one.
    void finish_selecting(const site::ItemPtr&, const ElementSet&, site::Combine, const QString& empty,
                          const site::Origin&, const Selected* before = nullptr);

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

  private:
    void connect_stage(Stage*);
    void close_fence(Stage*, const select::Fence&, Qt::KeyboardModifiers);
    void select_edge(Stage*, const select::Fence&, Qt::KeyboardModifiers);
    void stroke_step(Stage*, const select::Fence&, Qt::KeyboardModifiers);
    void stroke_ended();
    void close_panorama_fence(const Polygon&, Qt::KeyboardModifiers);

    std::unique_ptr<Tool> tool_, section_tool_, panorama_tool_;  // of the two stages and the panorama
    ToolId tool_id_ = ToolId::Polygon;
    bool among_removed_ = false;
    std::shared_ptr<Stroke> stroke_;
    OwnStrokes own_;
};

}  // namespace pristine::app
