// How a surface goes onto a grid: side of a cell, what empty cells hold, and how large the result is.

#pragma once

#include <QDialog>

#include "app/look/lengths.h"
#include "core/io/cloud_io.h"
#include "core/mesh/tri_mesh.h"

class QDoubleSpinBox;
class QLabel;
class QPushButton;

namespace pristine::app {

class GridExport : public QDialog {
    Q_OBJECT
  public:
    GridExport(const site::Site&, const site::Item&, QWidget* parent);
    io::WriteOptions options() const;

  private:
    void check();
    mesh::TriMesh mesh_;
    Lengths lengths_;
    QDoubleSpinBox *cell_, *no_data_;
    QLabel* size_;
    QPushButton* write_;
};

}  // namespace pristine::app
