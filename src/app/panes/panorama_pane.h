// The panorama: what is shown as a scanner saw it, to select in.

#pragma once

#include <QImage>
#include <QWidget>
#include <memory>
#include <optional>
#include <vector>

#include "app/model/latest_job.h"
#include "app/panes/panorama_view.h"
#include "core/base/mipmap.h"
#include "core/io/e57/picture.h"
#include "core/select/panorama.h"
#include "core/site/site.h"

class QComboBox;
class QLabel;
class QScrollArea;

namespace pristine::app {

class Jobs;

class PanoramaPane : public QWidget {
    Q_OBJECT
  public:
    PanoramaPane(Jobs*, QWidget* parent);
    PanoramaView& view() { return *view_; }
    bool is_open() const { return open_; }
    const select::PanoramaFrame& frame() const { return frame_; }
    /// What is seen; null while it is drawn for the first time, from another station or in another size.
    /// After a change of what is shown it is that of before until the new one is there.
    std::shared_ptr<const select::RangePicture> seen() const { return seen_; }
    /// Whether it shows the present document.
    bool is_current() const { return seen_ && !behind_; }
    /// Opens it from a station of the item in work; without one `here` is taken for one.
    /// `ahead_deg`: the azimuth that comes to its middle.
    /// `all_shown`: everything visible is drawn, else the item in work.
    void open(const site::SitePtr&, bool all_shown, Vec3 here, double ahead_deg, std::size_t station = 0);
    void close_pane();
    void refresh(const site::SitePtr&, bool all_shown);

    /// An element that is seen at a pixel of the picture, or up to two beside it.
    struct Seen {
        std::uint64_t item = 0, element = 0;
    };
    std::optional<Seen> seen_at(PixelPoint) const;
    /// Lines and marks that are drawn over it.
    void set_guides(const std::vector<Guide>&);

  signals:
    void said(const QString& text);

  private:
    // A station that can be looked from: of which item, and its number there.
    struct From {
        std::uint64_t item = 0;
        std::size_t number = 0;
        Vec3 position;
    };
    // Pictures that the scanner took at a station.
    struct Taken {
        std::uint64_t item = 0;
        std::size_t number = 0;
        std::vector<io::ScanPicture> list;
        std::vector<std::shared_ptr<const Mipmap>> pixels;  // of each
        std::vector<std::string> warnings;
    };
    // What is drawn of an item.
    struct Part {
        site::ItemPtr item;
        ElementSet shown;
    };
    using Parts = std::shared_ptr<const std::vector<Part>>;
    struct Drawn {
        select::PanoramaFrame frame;
        std::shared_ptr<select::RangePicture> seen;
        Parts parts;
        QImage base;  // without the selection
    };

    std::vector<site::ItemPtr> wanted() const;
    void list_stations(std::size_t chosen);
    void draw();
    void follow();
    void take(Drawn&);
    void paint_base();
    void load_pictures();
    void show_pictures(Taken&);
    From looked_from() const;
    void tint();
    void lay_guides();
    void zoom(double notches, QPointF at);
    void keep_middle(double azimuth_deg, double elevation_deg);

    PanoramaView* view_;
    QScrollArea* scroll_;
    QComboBox *station_, *mode_;
    QLabel* of_;
    bool open_ = false, all_shown_ = false, behind_ = false;
    site::SitePtr site_;
    Vec3 here_;
    double ahead_deg_ = 0;
    int zoom_ = 1;                    // pixels for a pixel of the smallest picture
    std::optional<PixelPoint> keep_;  // azimuth and elevation that come to the middle of the pane
    std::vector<From> from_;
    std::vector<Guide> guides_;
    std::vector<site::ItemPtr> aim_;  // what is drawn, or being drawn
    select::PanoramaFrame frame_;
    std::shared_ptr<const select::RangePicture> seen_;
    Parts parts_;
    QImage base_;
    int base_mode_ = 0;
    std::shared_ptr<const Taken> taken_;
    LatestJob latest_, loading_;
};

}  // namespace pristine::app
