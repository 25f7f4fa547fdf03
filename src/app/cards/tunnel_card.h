// A tunnel, shaft or culvert in hand: unrolled, with what is inside its lining, its openings and its volumes.

#pragma once

#include <QImage>
#include <memory>

#include "app/cards/side_card.h"
#include "app/look/lengths.h"
#include "app/model/latest_job.h"
#include "core/site/site.h"
#include "core/tunnel/design.h"
#include "core/tunnel/inside.h"

class QComboBox;
class QLabel;
class QPushButton;
class QTreeWidget;

namespace pristine::app {

class Document;
class Jobs;

/// The lining cut along its floor and laid flat: chainage to the right, the crown in the middle. Cells are
/// darker the deeper something lies in them; openings are drawn in the colour of warnings.
class UnrolledView : public QWidget {
    Q_OBJECT
  public:
    explicit UnrolledView(QWidget* parent);
    void set(std::shared_ptr<const tunnel::Lining>, const std::vector<float>& deepest, double tolerance);
    void clear();
    /// Where a cell is drawn.
    QPoint pixel_of(std::size_t row, std::size_t column) const;

  signals:
    void clicked(double chainage, double angle);

  protected:
    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent*) override;

  private:
    QRectF frame() const;
    std::shared_ptr<const tunnel::Lining> lining_;
    QImage picture_;
};

class TunnelCard : public SideCard {
    Q_OBJECT
  public:
    TunnelCard(Document*, Jobs*, QWidget* parent);
    void refresh() override;
    /// Points inside the lining, of the item in work; null while there is no lining.
    site::SetPtr inside() const;
    /// Of a selection of what is inside.
    site::Cause cause() const;
    /// Openings that are ticked are closed over, ends are capped. There must be a lining.
    mesh::TriMesh mesh() const;
    /// Volume and area of the lining by chainage, as CSV; over- and underbreak where there is a design.
    QString report() const;
    /// The profile that the lining is held against; empty: none.
    void set_design(tunnel::DesignProfile, const QString& name);
    /// By chainage; empty without a design, or where it does not fit.
    const std::vector<tunnel::BreakInterval>& breaks() const { return breaks_; }

  signals:
    void chosen();         ///< inside() is meant
    void make_item();      ///< mesh() is to be an item of the site
    void choose_design();  ///< a file with a design profile is to be read
    void save_report();

  private:
    void add_settings();
    void add_result();
    void follow_settings();
    void on_open() override;
    void on_close() override;
    void fill_lines();
    void compute();
    void show_result();
    void show_breaks(const Lengths&);
    void fly_to(double chainage, double angle);
    double interval() const;
    Document* document_;
    QComboBox* line_;
    LengthBox *lift_, *spacing_, *fitting_, *tolerance_, *interval_;
    QLabel *state_, *volumes_;
    UnrolledView* unrolled_;
    QTreeWidget* openings_;
    QLabel* design_told_;
    QPushButton *take_, *mesh_, *report_, *design_;
    tunnel::DesignProfile profile_;
    QString profile_name_;
    std::vector<tunnel::BreakInterval> breaks_;
    LatestJob latest_;
    std::shared_ptr<const cloud::PointCloud> cloud_;
    std::shared_ptr<const tunnel::Lining> lining_;
    std::shared_ptr<const tunnel::Inside> inside_;
};

}  // namespace pristine::app
