// Cut and fill of work areas, a row for each, their sum and what lies outside.

#pragma once

#include <QTreeWidget>

#include "app/look/lengths.h"
#include "core/measure/areas.h"

namespace pristine::app {

class AreaList : public QTreeWidget {
    Q_OBJECT
  public:
    explicit AreaList(QWidget* parent);
    void show_areas(const measure::AreaTable&, const Lengths&);
    /// Whether areas overlap, and how well their sum is that of everything.
    static QString check_of(const measure::AreaTable&, const Lengths&);
};

}  // namespace pristine::app
