// The legend of the item in work: the ramp with its values; its ends can be dragged.

#pragma once

#include <QColor>
#include <QWidget>
#include <optional>

#include "render/scene.h"

namespace pristine::app {

class Legend : public QWidget {
    Q_OBJECT
  public:
    explicit Legend(QWidget* stage);
    /// What is shown; none hides it.
    /// `per_shown`: values are shown divided by it.
    void set(const QString& title, bool grey, const std::optional<render::ColourRange>&,
             double per_shown = 1);
    const std::optional<render::ColourRange>& range() const { return range_; }
    const QString& title() const { return title_; }
    /// Names for whole values of a column of words, in place of the ramp; empty: the ramp. After set().
    void set_names(std::vector<std::pair<double, QString>>);
    const std::vector<std::pair<double, QString>>& names() const { return names_; }
    /// Colours with names, instead of a range; empty hides it.
    struct Entry {
        QColor colour;
        QString name;
        bool operator==(const Entry&) const = default;
    };
    void set_key(const QString& title, std::vector<Entry>);
    const std::vector<Entry>& key() const { return key_; }

  signals:
    void dragged(double lo, double hi);  ///< while an end is held
    void changed(double lo, double hi);  ///< an end was let go, or moved by key
    void reset();                        ///< double click: back to the usual range

  protected:
    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent*) override;
    void mouseMoveEvent(QMouseEvent*) override;
    void mouseReleaseEvent(QMouseEvent*) override;
    void mouseDoubleClickEvent(QMouseEvent*) override;
    void keyPressEvent(QKeyEvent*) override;

  private:
    void fit();
    bool is_handle(const QPointF&) const;
    QRectF ramp() const;
    QColor colour_at(double value) const;
    void paint_names(QPainter&) const;
    void paint_limits(QPainter&, int decimals) const;
    QString number(double value, int decimals) const;
    double y_of(double value) const;
    double value_at(double y) const;
    void move_end(bool high, double value);
    QString title_;
    std::vector<std::pair<double, QString>> names_;
    std::vector<Entry> key_;
    bool grey_ = false;
    double per_shown_ = 1;
    std::optional<render::ColourRange> range_;
    double axis_lo_ = 0, axis_hi_ = 1;  // what the ramp's length stands for
    enum class Held { None, Low, High } held_ = Held::None;
    bool high_end_ = true;  // moved by keys
};

}  // namespace pristine::app
