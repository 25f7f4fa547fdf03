// The work card: the tool in hand, its few settings, and the live numbers of what is selected.

#pragma once

#include <QWidget>

#include "app/look/lengths.h"
#include "app/tools/tool_spec.h"
#include "core/select/reach.h"
#include "core/site/site.h"

class QLabel;
class QCheckBox;
class QDoubleSpinBox;
class QButtonGroup;
class QPushButton;
class QComboBox;

namespace pristine::app {

class Document;

/// Bars in the colour of the selection: how many points lie how high above the ground.
class HeightHistogram : public QWidget {
    Q_OBJECT
  public:
    explicit HeightHistogram(QWidget* parent = nullptr);
    /// `top`: what the right end stands for.
    void set(std::vector<std::uint64_t> bins, const QString& top);

  protected:
    void paintEvent(QPaintEvent*) override;

  private:
    std::vector<std::uint64_t> bins_;
    QString top_;
};

class WorkCard : public QWidget {
    Q_OBJECT
  public:
    WorkCard(Document*, QWidget* parent = nullptr);
    /// Its title, what it does, and the settings that it obeys; no others.
    void set_tool(const ToolSpec&);
    /// A card that waits while this one is shown in its place; empty: none.
    void set_waiting(const QString& card_title);
    void refresh();

    site::Combine combine() const;
    void set_combine(site::Combine);
    bool visible_only() const;
    void set_visible_only(bool);
    /// Whether tools and decisions act on all that is shown, not on the item in work alone. Remembered with
    /// the tool.
    bool all_shown() const;
    void set_all_shown(bool);
    /// Step of growing, shrinking and connecting, data units.
    double reach() const;
    /// What the ground guard protects above the ground, data units.
    double ground_margin() const;
    /// Plane and level select what is more than this above (or below) them.
    double plane_offset() const;
    bool below_plane() const;
    /// How far colours may differ that count as alike, 0 to 255 a channel.
    int colour_tolerance() const;
    /// Of brushes that move corners, 0 to 1.
    double brush_strength() const;
    /// When a shape takes a triangle.
    select::Reach reach_of() const;
    /// Only triangles that face the eye.
    bool towards_only() const;
    /// Over edges that turn by no more than this, triangles count as alike.
    double crease_deg() const;
    /// What was picked, as lines of text; empty: nothing.
    void set_picked(const QString& text);
    QString picked() const;

  signals:
    void settings_changed();
    void all_shown_changed();
    void plane_changed();             ///< side or offset
    void command(const QString& id);  ///< a button that stands for a command
    void back();                      ///< to the card that waits

  private:
    LengthBox* number(const char* name, const QString& what, double value, double least, double most);
    void add_plane_settings(class QVBoxLayout*);
    void add_brush_settings(class QVBoxLayout*);
    void add_choices(class QVBoxLayout*);
    void add_growth(class QVBoxLayout*);
    void add_ground(class QVBoxLayout*);
    void add_shown(class QVBoxLayout*);
    void add_command(class QHBoxLayout* row, const char* name, const QString& text, const char* id,
                     const QString& tip);
    void add_triangle_settings(class QVBoxLayout*);
    Document* document_;
    QLabel *title_, *hint_, *histogram_title_;
    QPushButton* back_;
    QWidget *items_row_, *combine_row_, *depth_row_, *growth_;
    ToolSpec::Settings settings_{};
    QString tool_;  // its command, under which settings are remembered
    QButtonGroup *items_, *combine_, *depth_;
    class QSpinBox* tolerance_;
    LengthBox *reach_, *margin_, *offset_;
    QButtonGroup* triangles_;
    QCheckBox* towards_;
    QDoubleSpinBox* crease_;
    QWidget* triangle_settings_;
    QWidget* ground_settings_;
    QLabel* step_title_;
    QWidget *plane_settings_, *brush_settings_;
    class QSpinBox* strength_;
    QButtonGroup* side_;
    QLabel* picked_;
    HeightHistogram* histogram_;
};

}  // namespace pristine::app
