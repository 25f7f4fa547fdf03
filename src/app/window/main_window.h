// The window: puts the panels together and fills the command table. It computes nothing itself.

#pragma once

#include <QElapsedTimer>
#include <QMainWindow>
#include <filesystem>
#include <functional>
#include <map>
#include <memory>
#include <optional>
#include <set>

#include "app/model/commands.h"
#include "app/model/document.h"
#include "app/model/jobs.h"
#include "app/stage/stage.h"
#include "app/tools/tool_spec.h"
#include "core/recipe/recipe.h"

class QPushButton;

namespace pristine::app {

class ContentsPanel;
class DecisionBar;
class LedgerStrip;
class Legend;
class ManualWindow;
class Notice;
class PanoramaPane;
class SectionPane;
class ProfilePane;
class EpochPane;
class SideCard;
class StatusLine;
class WorkCard;

class MainWindow : public QMainWindow {
    Q_OBJECT
  public:
    MainWindow();
    ~MainWindow() override;

    /// Scans are added; a project replaces what is open.
    /// Drapes a picture of the ground on an item.
    void drape(std::uint64_t item, const std::filesystem::path& picture);
    void open_files(const std::vector<std::filesystem::path>&);
    /// Offers drafts that a crash left behind, if there are any.
    void offer_drafts();
    /// A list of all of them.
    void show_drafts();

    /// Selects what lies inside the closed lines of a file.
    void select_lines(const std::filesystem::path&);
    /// As objects of the site.
    /// `if_any`: a file without lines is no fault.
    void add_lines(const std::filesystem::path&, bool if_any = false);
    /// How far a grid of heights is thinned, before it is opened.
    void ask_of_grid(const std::filesystem::path&);
    /// Writes the rules in the ledger of the item in work.
    void save_recipe(const std::filesystem::path&);
    /// Runs a recipe on the item in work; each step becomes an entry of its ledger.
    void run_recipe(const std::filesystem::path&);

    Document& document() { return *document_; }
    Stage& stage() { return *stage_; }
    CommandTable& commands() { return commands_; }
    Jobs& jobs() { return *jobs_; }
    Notice& notice() { return *notice_; }
    WorkCard& card() { return *card_; }

  protected:
    void dragEnterEvent(QDragEnterEvent*) override;
    void dropEvent(QDropEvent*) override;
    void closeEvent(QCloseEvent*) override;
    void keyPressEvent(QKeyEvent*) override;
    bool eventFilter(QObject*, QEvent*) override;

  private:
    /// A selection and what made it.
    struct Selected {
        site::SetPtr set;
        site::Origin origin;
    };
    Selected selected_now() const { return {document_->site()->selection, document_->site()->origin}; }

    // main_window_commands.cpp
    void add_commands();
    void add_site_commands();
    void add_edit_commands();
    void add_view_commands();
    void add_select_commands();
    void add_decide_commands();
    void add_help_commands();
    void build_menus();
    QString needs_item() const;
    QString needs_selection() const;
    QString needs_removed() const;

    // main_window.cpp
    void build_layout();
    QWidget* build_rail();
    void build_stage_corner();
    void place_stage_corner();
    void connect_parts();
    // main_window_tools.cpp
    void add_tool_commands();
    void take_tool(ToolId);
    void connect_stage(Stage*);
    site::Combine combine_for(Qt::KeyboardModifiers) const;
    /// What tools may take now: of the item in work, in this stage, removed or not.
    ElementSet within_reach(const site::Site&, const Stage*) const;
    void close_fence(Stage*, const select::Fence&, Qt::KeyboardModifiers);
    void stroke_step(Stage*, const select::Fence&, Qt::KeyboardModifiers);
    void stroke_ended();
    void select_shape(const QString& what, Stage*, Qt::KeyboardModifiers, const site::Origin&,
                      std::function<ElementSet(const cloud::PointCloud&, const ElementSet&, Progress&)>);
    /// `before`: what it is combined with instead of the present selection.
    void finish_selecting(const site::ItemPtr&, const ElementSet&, site::Combine, const QString& empty,
                          const site::Origin&, const Selected* before = nullptr);
    /// Of what the tool in hand makes, and the reason last used with it.
    site::Origin hand_origin() const;
    QString usual_reason() const;
    void reason_chosen(const QString&);
    // main_window_mesh.cpp
    void add_mesh_commands();
    void connect_mesh_cards();
    void keep_connected();
    void refine_selection();
    /// Steps of a stroke that is no plain brush: true when it was one.
    bool mesh_stroke_step(Stage*, const select::Fence&);
    void brush_along(const ViewFrame&, double radius_px, PixelPoint to);
    void mesh_stroke_ended(const std::shared_ptr<struct Stroke>&);
    // main_window_shapes.cpp
    /// A shape in space whose handles are in the view, and the selection that it made.
    struct Live {
        site::SetPtr selection;
        Selected before;
        Solid solid;
        site::Combine combine;
        Stage* stage;
    };
    void shape_made(Stage*, const SpaceShape&, Qt::KeyboardModifiers);
    void fit_painted_plane(Stage*, const SpaceShape&, Qt::KeyboardModifiers);
    void show_solid(const std::optional<Solid>&);
    void select_solid(Stage*, const Solid&, site::Combine, const Selected& before);
    site::Origin solid_origin(const Solid&) const;
    void solid_changed(Stage*, const Solid&);
    const Live* live_now() const;
    void follow_solid();
    void plane_settings_changed();
    void toggle_card(SideCard*);
    void show_tool_settings(SideCard* instead_of);
    void back_to_card();
    void select_objects();
    void select_inside_tunnel();
    void save_lining_mesh();
    void save_lining_report();
    void preview_rule();
    void select_by_rule();
    void remove_by_rule_everywhere();
    void say_value_at(Stage*, PixelPoint);
    void close_when_done();
    void to_next_area(int by);
    score::Recipe rules_of_ledger() const;
    int entries_by_hand() const;
    void choose_save_recipe();
    void choose_run_recipe();
    void line_drawn(const DrawnLine&);
    void line_dragged(const DrawnLine&);
    void line_let_go();
    void edit_line(std::uint64_t id);
    void follow_lines();
    void choose_lines_to_add();
    void follow_surfaces(std::uint64_t line);
    void drop_points();
    void line_round();
    void fly_to_line(std::uint64_t id);
    void select_inside_lines(std::uint64_t only = 0);
    void pick(Stage*, const SpaceShape&);
    select::FenceOptions fence_options() const;
    void select_edge(Stage*, const select::Fence&, Qt::KeyboardModifiers);
    void select_round_rim();
    void replace_inside(std::uint64_t line);
    void choose_drape(std::uint64_t item);
    std::uint64_t outline_in_work() const;
    const std::vector<std::vector<Vec3>>& arrows_now();
    // main_window_selection.cpp
    void add_more_select_commands();
    void add_more_decide_commands();
    void grow(
        const char* id, const QString& title, site::Settings,
        std::function<ElementSet(const cloud::PointCloud&, const ElementSet&, const ElementSet&, Progress&)>);
    site::Settings step_of_growth() const;
    void guard_ground();
    void choose_lines();
    void close_panorama_fence(const Polygon&, Qt::KeyboardModifiers);
    void use_clip(const site::ClipBox&);
    void fill_clips();
    void follow_clip();  ///< the box in hand is the one in force, also after undo
    void fill_kept();
    void fill_merge();
    QString needs_hidden() const;
    void refresh();
    void show_scene();
    void show_scene_of(const site::SitePtr&);
    void connect_legend();
    void show_legend();
    void show_class_key(const site::Item&);
    void show_wipe(const site::SitePtr&);
    void set_ghosts(std::uint64_t entry);
    void fly_to_entry(std::uint64_t entry);
    void fly_to_item(std::uint64_t item);
    void decide(bool keep_only);
    // main_window_reference.cpp
    void add_reference_commands();
    QString why_not_to_site() const;
    static bool has_codes(const site::Item&);
    void choose_codes();
    void offer_codes();
    void offer_zone();
    void choose_reference();
    void state_reference(const std::vector<std::uint64_t>& items, const cloud::Reference&);
    std::vector<std::uint64_t> unasked_items();
    void ask_unit(const QString& before = {});
    void say_odd(const std::filesystem::path& file, const std::vector<std::string>& sentences);
    void choose_open();
    void choose_text();
    void choose_grid();
    void offer_drape(const std::filesystem::path& picture);
    void export_grid(const std::filesystem::path&);
    void preview_text(const std::filesystem::path&);
    void choose_save_as();
    enum class Export { Shown, Withheld, Noise, HighNoise, Removed, Reasons };
    void choose_export_lines();
    void choose_export(Export);
    void remember_recent(const std::filesystem::path&);
    void fill_recent();
    void say_refused(const QString&);
    void store_view();
    void keep_picture();
    void restore_view();
    void open_manual();
    void choose_item();
    void keep_view_as();
    void fill_views();

    Jobs* jobs_;
    Document* document_;
    CommandTable commands_;
    Stage* stage_ = nullptr;
    ContentsPanel* contents_ = nullptr;
    WorkCard* card_ = nullptr;
    DecisionBar* bar_ = nullptr;
    LedgerStrip* ledger_ = nullptr;
    Legend* legend_ = nullptr;
    StatusLine* status_ = nullptr;
    Notice* notice_ = nullptr;
    QPushButton* working_on_ = nullptr;
    QWidget* view_strip_ = nullptr;
    QMenu* recent_ = nullptr;
    ManualWindow* manual_ = nullptr;
    SectionPane* section_ = nullptr;
    PanoramaPane* panorama_ = nullptr;
    QMenu *kept_ = nullptr, *merge_ = nullptr, *saved_views_ = nullptr, *clips_ = nullptr;
    std::unique_ptr<Tool> tool_, section_tool_, panorama_tool_;  // of the two stages and the panorama
    ToolId tool_id_ = ToolId::Polygon;
    std::vector<Live> lives_;  // those of the tool in hand
    std::uint64_t line_in_work_ = 0;
    class RuleCard* rule_ = nullptr;
    class ObjectsCard* objects_ = nullptr;
    class TunnelCard* tunnel_ = nullptr;
    ProfilePane* profile_ = nullptr;
    EpochPane* epochs_ = nullptr;
    class MeshCard* mesh_ = nullptr;
    class AlignCard* align_ = nullptr;
    class MarkersCard* markers_ = nullptr;
    class HolesCard* holes_ = nullptr;
    class SurfaceCard* surface_ = nullptr;
    class MeasureCard* measure_ = nullptr;
    std::vector<SideCard*> cards_;  // of which one at most is open
    site::SetPtr rule_selection_;   // that a rule made
    Selected rule_before_;          // the one before it
    bool among_removed_ = false;    // tools select among what is out
    std::shared_ptr<struct Stroke> stroke_;
    std::optional<Vec3> last_pick_;
    bool slope_arrows_ = false;
    site::SetPtr arrows_of_;
    std::vector<std::vector<Vec3>> arrows_;
    bool wipe_ = false;               // before and after
    bool ghosts_shown_ = false;       // of everything that is out
    bool closing_ = false;            // as soon as everything is on the disk
    QWidget* work_column_ = nullptr;  // the work card, with what scrolls it
    bool leaving_ = false;            // what runs is to be stopped
    std::uint64_t ghost_entry_ = 0;   // of the card under the pointer
    std::set<std::uint64_t> asked_unit_, offered_codes_, offered_zone_;  // items that were asked about
    QElapsedTimer picture_kept_;
    site::SitePtr drawn_site_;
    class LiveSurface* live_ = nullptr;
    site::SitePtr ahead_, ahead_of_;  // what is shown while that site is the document's
};

}  // namespace pristine::app
