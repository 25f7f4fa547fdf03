// Measurements that stay: what is drawn next, and the list of what is there.

#pragma once

#include <array>

#include "app/cards/side_card.h"
#include "core/geometry/mark.h"

class QComboBox;
class QLabel;
class QLineEdit;
class QPushButton;
class QTreeWidget;
class QTreeWidgetItem;

namespace pristine::app {

class MarksCard : public SideCard {
    Q_OBJECT
  public:
    MarksCard(Document*, Jobs*, QWidget* parent);
    void refresh() override;
    MarkKind kind() const { return kind_; }
    /// The item that heights are measured above; 0: none.
    std::uint64_t over() const;
    /// Brings a mark in hand, as a click on its row does.
    void take_in_hand(std::uint64_t mark);

  signals:
    void draw_wanted();    ///< of this kind, from now on
    void export_wanted();  ///< of those that are shown

  private:
    void on_open() override;
    void add_kinds();
    void add_list();
    void add_actions();
    void choose(MarkKind);
    void fill_over();
    void fill_list();
    void show_figures();
    site::MarkPtr in_hand() const;
    void change(const QString& title, const std::function<void(site::Mark&)>&);
    void clicked(QTreeWidgetItem*, int column);
    void edited(QTreeWidgetItem*, int column);
    void measure_again();
    Document* document_;
    MarkKind kind_ = MarkKind::Distance;
    std::array<QPushButton*, kMarkKinds> kinds_{};
    QLabel *hint_, *over_title_, *figures_;
    QComboBox* over_;
    QTreeWidget* list_;
    QLineEdit* note_;
    QPushButton *fly_, *again_, *drop_, *all_, *export_;
    std::vector<site::MarkPtr> shown_;
    std::string unit_;
    bool filling_ = false;
};

}  // namespace pristine::app
