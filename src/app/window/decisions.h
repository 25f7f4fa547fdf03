// What is decided about a selection: remove, keep only, put back, set apart, guard; undo and redo.

#pragma once

#include "app/window/part.h"

namespace pristine::app {

class Decisions : public HandyPart {
    Q_OBJECT
  public:
    explicit Decisions(Desk&);
    /// The bar that floats over the stage, made after the commands that it offers.
    void set_bar(DecisionBar*);

    void add_commands() override;

  private:
    void add_undo();
    void add_removing();
    void add_pieces();
    void add_guards();
    void set_apart(bool move);
    void decide(bool keep_only);
    void add_classing();
    void ask_class();
    void give_class(std::uint8_t code);
    /// "1,234 points": what is selected.
    QString selected_words() const;
    QString usual_reason() const;
    void reason_chosen(const QString& reason);
    void guard_ground();
    void fill_merge(QMenu*);
    void merge_shown();
    DecisionBar* bar_ = nullptr;
};

}  // namespace pristine::app
