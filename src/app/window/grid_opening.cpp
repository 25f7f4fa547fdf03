#include "app/window/grid_opening.h"

#include <QDoubleSpinBox>
#include <QFormLayout>
#include <QLabel>
#include <QPushButton>
#include <QVBoxLayout>

#include "app/look/dialog_foot.h"
#include "app/look/lengths.h"
#include "app/look/theme.h"
#include "core/base/units.h"

namespace pristine::app {

GridOpening::GridOpening(const std::filesystem::path& path, QWidget* parent)
    : QDialog(parent), shape_(io::shape_of_grid(path)) {
    setObjectName(QStringLiteral("gridOpening"));
    setWindowTitle(tr("Open %1").arg(QString::fromStdString(path.filename().string())));
    resize(420, 200);
    auto* rows = new QVBoxLayout(this);
    auto* form = new QFormLayout;
    const auto box = [&](const char* name, const QString& title, double value, double most, int decimals) {
        auto* b = new QDoubleSpinBox(this);
        b->setObjectName(QString::fromLatin1(name));
        b->setAccessibleName(title);
        b->setDecimals(decimals);
        b->setRange(0, most);
        b->setValue(value);
        form->addRow(title, b);
        connect(b, &QDoubleSpinBox::valueChanged, this, &GridOpening::say);
        return b;
    };
    const std::string& up =
        shape_.reference.height_unit.empty() ? shape_.reference.unit : shape_.reference.height_unit;
    error_ = box("gridError", tr("Largest error of height"), 0, 1e6, 3);
    error_->setSuffix(is_length(up) ? QStringLiteral(" ") + QString::fromUtf8(length_unit(up).symbol)
                                    : tr(" (unit not set)"));
    error_->setSpecialValueText(tr("not thinned for it"));
    error_->setToolTip(tr("Rows and columns are left out as long as no height is farther off than this"));
    millions_ = box("gridMillions", tr("Cells at most"), 4, 100, 1);
    millions_->setMinimum(0.1);
    millions_->setSuffix(tr(" million"));
    millions_->setToolTip(
        tr("Of a larger grid rows and columns are left out; the error is told. A million cells "
           "take about 100 MB"));
    rows->addLayout(form);
    says_ = new QLabel(this);
    says_->setObjectName(QStringLiteral("gridSays"));
    says_->setWordWrap(true);
    rows->addWidget(says_, 1);
    auto* foot = new QHBoxLayout;
    add_foot(this, foot, tr("Do not open"), tr("Open the grid"), "gridOpen");
    rows->addLayout(foot);
    say();
}

io::ReadOptions GridOpening::options() const {
    io::ReadOptions o;
    o.grid_error = error_->value();
    o.most_cells = static_cast<std::uint64_t>(millions_->value() * 1e6 + 0.5);
    return o;
}

void GridOpening::say() {
    const std::uint64_t cells =
        static_cast<std::uint64_t>(shape_.columns) * static_cast<std::uint64_t>(shape_.rows);
    const QString size = tr("%1 columns × %2 rows.")
                             .arg(grouped(static_cast<std::uint64_t>(shape_.columns)),
                                  grouped(static_cast<std::uint64_t>(shape_.rows)));
    says_->setText(
        size + ' ' +
        (cells > options().most_cells
             ? tr("More cells than that: it will be thinned, and the largest error of height is told.")
         : error_->value() > 0 ? tr("It is thinned as far as the error allows.")
                               : tr("Every cell is kept.")));
}

}  // namespace pristine::app
