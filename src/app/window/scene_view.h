// What is shown: the scene, ghosts, the wipe, the legend, lines over the picture, places flown to.

#pragma once

#include <functional>
#include <vector>

#include "app/stage/stage.h"
#include "app/window/part.h"

namespace pristine::app {

class HolesCard;

class SceneView : public Part {
    Q_OBJECT
  public:
    explicit SceneView(Desk&);
    void add_commands() override;

    /// The document, or what is seen ahead of it.
    void show_scene();
    /// A glance at a site that is not committed.
    void show_scene_of(const site::SitePtr&);
    /// The site that was drawn last; null before the first, and after forget().
    const site::SitePtr& drawn() const { return drawn_site_; }
    void forget() { drawn_site_ = nullptr; }

    /// Shown in place of the document until it changes; null: the document again.
    void look_ahead(site::SitePtr);
    const site::SitePtr& ahead() const { return ahead_; }

    /// Lines that are drawn over the picture besides those of the site; asked for each time.
    using Lines = std::function<std::vector<std::vector<Vec3>>()>;
    void add_guides(Lines lines) { guides_.push_back(std::move(lines)); }
    /// The same with words and colours.
    using Drawn = std::function<std::vector<Stage::Guide>()>;
    void add_drawn(Drawn drawn) { drawn_.push_back(std::move(drawn)); }
    void show_guides();
    /// Marks: drawn in the section and the panorama too.
    void add_marks(Drawn drawn) { marks_.push_back(std::move(drawn)); }

    void set_ghosts(std::uint64_t entry);
    void fly_to_entry(std::uint64_t entry);
    void fly_to_item(std::uint64_t item);
    void fly_to_line(std::uint64_t line);

  private:
    site::Parts ghosts_of(const site::Site&) const;
    void show_wipe(const site::SitePtr&);
    void show_class_key(const site::ItemPtr&);
    void show_legend();
    void connect_legend();
    void say_wipe();
    void add_line_places();
    void make_pictures();

    Legend* const legend_;
    HolesCard* const holes_;
    bool wipe_ = false;              // before and after
    bool ghosts_shown_ = false;      // of everything that is out
    std::uint64_t ghost_entry_ = 0;  // of the card under the pointer
    site::SitePtr drawn_site_;
    site::SitePtr ahead_, ahead_of_;  // what is shown while that site is the document's
    std::vector<Lines> guides_;
    std::vector<Drawn> drawn_, marks_;
    bool line_places_ = false;  // lines show their vertices and heights
};

}  // namespace pristine::app
