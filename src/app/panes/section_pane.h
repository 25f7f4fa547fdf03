// The section pane: an upright strip of the site, seen from the side in parallel projection, to work in.

#pragma once

#include <QWidget>
#include <memory>

#include "app/look/lengths.h"
#include "app/model/latest_job.h"
#include "app/stage/stage.h"
#include "core/select/solid.h"
#include "core/site/site.h"

class QLabel;

namespace pristine::app {

class Jobs;
class SectionAxes;

class SectionPane : public QWidget {
    Q_OBJECT
  public:
    SectionPane(Jobs*, QWidget* parent);

    Stage& stage() { return *stage_; }
    bool is_open() const { return open_; }
    double width_of_strip() const;
    /// Opens it on the line a-b of plan.
    void open(Vec3 a, Vec3 b, const site::SitePtr&);
    void close_pane();
    /// Moves the strip by so many of its widths along its normal (away from the viewer), or of its lengths
    /// along its line.
    void step(int across, int along);
    /// The site has changed: what the strip holds is worked out again for clouds that are new to it.
    void refresh(const site::SitePtr&, const site::Parts& ghosts);
    /// What the strip holds of a cloud; null while it is worked out or when the pane is closed.
    site::SetPtr strip_of(const cloud::PointCloud*) const;
    /// The outline of the strip, to be drawn in plan.
    std::vector<Vec3> outline() const;
    /// Whether one of the places lies in the strip, or up to half its width beside it.
    bool is_near(const std::vector<Vec3>&) const;

  signals:
    void changed();  ///< another strip, or closed

  protected:
    void keyPressEvent(QKeyEvent*) override;

  private:
    void work_out();
    void say_where();
    void draw();
    void look();
    select::Box box() const;

    Stage* stage_;
    LengthBox* width_;
    QLabel* where_;
    SectionAxes* axes_;
    bool open_ = false;
    Vec3 a_, b_;
    site::SitePtr site_;
    site::Parts ghosts_;
    struct Held {
        std::weak_ptr<const cloud::PointCloud> cloud;
        site::SetPtr set;
    };
    std::vector<Held> held_;
    LatestJob latest_;
};

}  // namespace pristine::app
