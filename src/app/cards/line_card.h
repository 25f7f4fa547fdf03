// A line by its places: a table to type in, and what is done to the whole.

#pragma once

#include <optional>

#include "app/cards/side_card.h"
#include "app/look/lengths.h"

class QComboBox;
class QLabel;
class QMenu;
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

  private:
    void on_open() override;
    void on_close() override { emit guides_changed(); }
    void add_table();
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
    Document* document_;
    QComboBox* which_;
    QTableWidget* table_;
    QLabel* state_;
    LengthBox *distance_, *tolerance_;
    QPushButton *insert_, *take_out_, *split_, *join_, *beside_, *simplify_, *drape_;
    site::LinePtr shown_;
    std::string unit_;
    bool filling_ = false;
};

}  // namespace pristine::app
