// Sections of surfaces above each other, to scale but for the exaggeration of heights.

#pragma once

#include <QWidget>
#include <optional>
#include <vector>

#include "app/look/lengths.h"
#include "core/measure/sections.h"

namespace pristine::app {

class CrossSectionSheet : public QWidget {
    Q_OBJECT
  public:
    explicit CrossSectionSheet(QWidget* parent);
    void show_sections(const measure::Sections&, const std::vector<std::string>& surfaces, const Lengths&);
    void set_exaggeration(double);
    void set_highlighted(std::size_t section);
    /// Where a section stands on the sheet.
    QRect place_of(std::size_t section) const;
    /// All of the sheet as a picture.
    QImage picture();
    /// Offset, and the height of each surface at a place of the sheet; empty where there is no section.
    QString told_at(const QPoint&) const;

  signals:
    void pointed(const QString& what);
    void chosen(std::size_t section);

  protected:
    void paintEvent(QPaintEvent*) override;
    void resizeEvent(QResizeEvent*) override;
    void mouseMoveEvent(QMouseEvent*) override;
    void mousePressEvent(QMouseEvent*) override;
    void leaveEvent(QEvent*) override;

  private:
    struct Row {
        double top = 0, height = 0;  // pixels
        double lo = 0, hi = 0;       // heights, data unit
    };
    void lay_out();
    std::optional<std::size_t> row_at(int y) const;
    double scale() const;  ///< pixels a data unit across
    double x_of(double offset) const;
    double y_of(const Row&, double height) const;
    void paint_row(QPainter&, std::size_t);
    void paint_grid(QPainter&, const Row&) const;
    void paint_between(QPainter&, const Row&, const measure::CrossSection&) const;
    measure::Sections sections_;
    std::vector<std::string> surfaces_;
    Lengths lengths_;
    std::vector<Row> rows_;
    double half_width_ = 1, exaggeration_ = 1;
    std::size_t highlighted_ = SIZE_MAX;
};

}  // namespace pristine::app
