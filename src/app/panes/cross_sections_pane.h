// Sections across a line at an interval, of all surfaces that are shown: areas and volumes as a table, and
// their drawing.

#pragma once

#include <QWidget>
#include <filesystem>
#include <string>
#include <vector>

#include "app/look/lengths.h"
#include "app/model/latest_job.h"
#include "core/measure/sections.h"
#include "core/site/site.h"

class QBoxLayout;
class QComboBox;
class QDoubleSpinBox;
class QLabel;
class QPushButton;
class QScrollArea;
class QTreeWidget;

namespace pristine::app {

class CrossSectionSheet;
class Document;
class Jobs;

class CrossSectionsPane : public QWidget {
    Q_OBJECT
  public:
    CrossSectionsPane(Document*, Jobs*, QWidget* parent);
    bool is_open() const { return isVisibleTo(parentWidget()); }
    void open();
    void close_pane();
    /// What it shows may have changed.
    void refresh();
    /// Empty while they are cut, or there is nothing to cut.
    const measure::Sections& sections() const { return sections_; }
    CrossSectionSheet& sheet() { return *sheet_; }
    /// The table, by the ending csv; the drawing, dxf; a picture, png. Throws Error.
    void save(const std::filesystem::path&);

  signals:
    void closed();
    void fly(const Box3& place);

  private:
    // What the sections belong to.
    struct Of {
        site::LinePtr line;
        std::vector<site::ItemPtr> surfaces;  ///< as they were
        double every = 0, width = 0;
        bool operator==(const Of&) const;
    };
    QBoxLayout* build_head();
    Of wanted() const;
    void fill_lines();
    void compute();
    void take(measure::Sections&);
    void choose(std::size_t section);
    void choose_file();
    Document* document_;
    LatestJob latest_;
    QComboBox* line_;
    LengthBox *every_, *width_;
    QDoubleSpinBox* exaggeration_;
    QPushButton* save_;
    QTreeWidget* list_;
    QLabel *volumes_, *state_;
    QScrollArea* scroll_;
    CrossSectionSheet* sheet_;
    Of of_;
    std::string unit_;
    measure::Sections sections_;
};

}  // namespace pristine::app
