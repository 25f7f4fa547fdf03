// How a grid of heights comes in: how large an error of height thinning may make, and how many cells are
// kept.

#pragma once

#include <QDialog>
#include <filesystem>

#include "core/io/cloud_io.h"
#include "core/io/grid/grid_io.h"

class QDoubleSpinBox;
class QLabel;

namespace pristine::app {

class GridOpening : public QDialog {
    Q_OBJECT
  public:
    /// Throws Error when the file is no grid of heights.
    GridOpening(const std::filesystem::path&, QWidget* parent);
    io::ReadOptions options() const;

  private:
    void say();
    io::GridShape shape_;
    QDoubleSpinBox *error_, *millions_;
    QLabel* says_;
};

}  // namespace pristine::app
