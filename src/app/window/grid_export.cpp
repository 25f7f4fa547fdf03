#include "app/window/grid_export.h"

#include <QDoubleSpinBox>
#include <QFormLayout>
#include <QHBoxLayout>
#include <QLabel>
#include <QPushButton>
#include <QVBoxLayout>

#include "app/look/dialog_foot.h"
#include "app/look/theme.h"
#include "core/base/error.h"
#include "core/base/memory.h"
#include "core/io/grid/grid_io.h"
#include "core/io/mesh/mesh_cloud.h"

namespace pristine::app {

GridExport::GridExport(const site::Site& site, const site::Item& item, QWidget* parent)
    : QDialog(parent), mesh_(io::mesh_of(*item.cloud, ~*item.absent)), lengths_(site, &item) {
    setObjectName(QStringLiteral("gridExport"));
    setWindowTitle(tr("Export %1 as a grid of heights").arg(QString::fromStdString(item.name)));
    auto* rows = new QVBoxLayout(this);
    auto* form = new QFormLayout;
    cell_ = new QDoubleSpinBox(this);
    cell_->setObjectName(QStringLiteral("gridCell"));
    cell_->setAccessibleName(tr("Side of a cell"));
    cell_->setDecimals(6);
    cell_->setRange(1e-6, 1e9);
    cell_->setSuffix(lengths_.suffix());
    cell_->setValue(lengths_.shown(io::suggested_cell(mesh_)));
    no_data_ = new QDoubleSpinBox(this);
    no_data_->setObjectName(QStringLiteral("gridNoData"));
    no_data_->setAccessibleName(tr("What cells without a height hold"));
    no_data_->setDecimals(0);
    no_data_->setRange(-1e9, 1e9);
    no_data_->setValue(-9999);
    form->addRow(tr("&Side of a cell"), cell_);
    form->addRow(tr("Cells &without a height hold"), no_data_);
    rows->addLayout(form);
    size_ = new QLabel(this);
    size_->setObjectName(QStringLiteral("gridSize"));
    size_->setWordWrap(true);
    rows->addWidget(size_);
    auto* foot = new QHBoxLayout;
    write_ = add_foot(this, foot, tr("Do not export"), tr("Write the grid"), "gridWrite");
    rows->addLayout(foot);
    connect(cell_, &QDoubleSpinBox::valueChanged, this, &GridExport::check);
    check();
}

io::WriteOptions GridExport::options() const {
    io::WriteOptions o;
    o.cell = lengths_.data(cell_->value());
    o.no_data = no_data_->value();
    return o;
}

void GridExport::check() {
    try {
        const io::GridSize s = io::grid_size(mesh_, lengths_.data(cell_->value()));
        size_->setText(
            tr("%1 columns × %2 rows, %3 as GeoTIFF")
                .arg(grouped(s.columns), grouped(s.rows), QString::fromStdString(bytes_text(s.bytes))));
        write_->setEnabled(true);
    } catch (const Error& e) {
        size_->setText(QString::fromStdString(e.what()));
        write_->setEnabled(false);
    }
}

}  // namespace pristine::app
