// Rules in the window: the rule card, things on the ground, tunnels, and recipes that are saved from the
// ledger and run again.

#pragma once

#include "app/window/hand.h"
#include "app/window/part.h"
#include "core/recipe/recipe.h"

namespace pristine::app {

class ObjectsCard;
class TunnelCard;

class Rules : public HandyPart {
    Q_OBJECT
  public:
    explicit Rules(Desk&);
    void save_recipe(const std::filesystem::path& file);
    void run_recipe(const std::filesystem::path& file);
    void add_commands() override;

  private:
    void preview_rule();
    void select_by_rule();
    void remove_by_rule_everywhere();
    site::Parts parts_of_rule(const site::SetPtr& in_work) const;
    void select_objects();
    void select_inside_tunnel();
    void make_lining();
    void choose_design();
    void save_lining_report();
    void say_value_at(Stage* stage, PixelPoint p);
    score::Recipe rules_of_ledger() const;
    void class_terrain();
    void enter_recipe(std::uint64_t item, const std::vector<score::Removal>& steps, const QString& recipe);
    int entries_by_hand() const;
    void choose_save_recipe();
    void choose_run_recipe();
    ObjectsCard* const objects_;
    TunnelCard* const tunnel_;
    site::Parts rule_selection_;  // that a rule made
    Hand::Selected rule_before_;  // the one before it
};

}  // namespace pristine::app
