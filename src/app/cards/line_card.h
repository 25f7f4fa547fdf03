// A line by its places: a table to type in, and what is done to the whole.

#pragma once

#include <optional>

#include "app/cards/side_card.h"
#include "app/look/lengths.h"

class QCheckBox;
class QComboBox;
class QLabel;
class QMenu;
class QPlainTextEdit;
class QPushButton;
class QTableWidget;

namespace pristine::app {

class LineCard : public SideCard {
    Q_OBJECT
  public:
    LineCard(Document*, Jobs*, QWidget* parent);
    void refresh() override;
    /// The place in hand, as a small cross.
    std::vector<std::vector<Vec3>> guides() const override;

  signals:
    void select_inside(quint64 line);

  private:
    void on_open() override;
    void on_close() override { emit guides_changed(); }
    void add_table();
    void add_typing();
    void make_typed();
    void add_changes();
    void fill_lines();
    void fill_table();
    void typed(int row, int column);
    site::LinePtr line() const;
    /// The row in hand; none: no row is.
    std::optional<std::size_t> place() const;
    /// What it throws is said.
    void change(const QString& title, const std::function<void(site::Line&)>& how);
    void insert();
    void take_out();
    void split();
    void fill_join(QMenu*);
    void join(std::uint64_t other);
    void make_beside();
    void simplify();
    void drape();
    void lay(const site::LinePtr&, const std::vector<std::vector<Vec3>>& stretches, bool whole);
    Document* document_;
    Jobs* jobs_;
    QComboBox* which_;
    QTableWidget* table_;
    QWidget* typing_;
    QPlainTextEdit* typed_;
    QCheckBox* typed_closed_;
    QLabel* state_;
    LengthBox *distance_, *tolerance_;
    QPushButton *new_, *inside_;
    QPushButton *insert_, *take_out_, *split_, *join_, *beside_, *simplify_, *drape_;
    site::LinePtr shown_;
    std::string unit_;
    bool filling_ = false;
};

}  // namespace pristine::app
