// A surface from the points in work: thinned, limited at its rim, along lines, inside lines.

#pragma once

#include "app/panels/lengths.h"
#include "app/panels/side_card.h"
#include "core/site/site.h"

class QCheckBox;
class QComboBox;
class QLabel;
class QPushButton;
class QTreeWidget;

namespace pristine::app {

class Document;
class Jobs;

class SurfaceCard : public SideCard {
    Q_OBJECT
  public:
    SurfaceCard(Document*, Jobs*, QWidget* parent);
    void refresh() override;

  signals:
    void said(const QString& text);

  private:
    void on_open() override;
    void fill_lines();
    void build();
    Document* document_;
    Jobs* jobs_;
    LengthBox *thin_, *longest_, *rim_;
    QCheckBox* whole_;
    QTreeWidget*
        lines_;  // each line that is shown: whether triangles follow it, whether the surface ends there
    QComboBox* duplicates_;
    QLabel* state_;
    QPushButton* build_;
};

}  // namespace pristine::app
