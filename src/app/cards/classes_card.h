// The key of classes of the item in work: how many points each has, whether it is shown, its colour and name.

#pragma once

#include <map>
#include <optional>

#include "app/cards/side_card.h"

class QLabel;
class QPushButton;
class QTreeWidget;
class QTreeWidgetItem;

namespace pristine::app {

class ClassesCard : public SideCard {
    Q_OBJECT
  public:
    ClassesCard(Document*, Jobs*, QWidget* parent);
    void refresh() override;

  private:
    void on_open() override;
    void add_list();
    void add_actions();
    void fill();
    void clicked(QTreeWidgetItem*, int column);
    void renamed(QTreeWidgetItem*, int column);
    void choose_colour(std::uint8_t code);
    void colour_by_class();
    void select_class();
    void show_only();
    void show_all();
    /// The class of the row in hand; none: no row is.
    std::optional<std::uint8_t> in_hand() const;
    bool is_shown(std::uint8_t code) const;
    Document* document_;
    QLabel* state_;
    QTreeWidget* list_;
    QPushButton *colour_, *select_, *only_, *all_;
    site::ItemPtr shown_;  // what the list was filled from
    std::map<std::uint8_t, std::uint64_t> counts_;
    std::vector<site::SiteClass> classes_;
    bool filling_ = false;
};

}  // namespace pristine::app
