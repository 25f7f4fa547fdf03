// Settings of one part of a report: its name, pictures, numbers and a note; of the first part who it is for.

#pragma once

#include <QWidget>
#include <functional>

#include "app/look/lengths.h"
#include "core/report/setup.h"

class QFormLayout;
class QLabel;

namespace pristine::app {

class PartSettings : public QWidget {
    Q_OBJECT
  public:
    explicit PartSettings(QWidget* parent);
    /// The part at `index` of the setup; -1: none.
    void show_part(const report::Setup&, int index, const Lengths&);
    const report::Setup& setup() const { return setup_; }

  signals:
    /// A person changed something: setup() has it.
    void edited();

  private:
    report::PartSetup& part() { return setup_.parts[static_cast<std::size_t>(index_)]; }
    void add_text(const char* name, const QString& title, std::string& where);
    void add_note();
    void add_pictures(bool many);
    void add_length(const char* setting, const QString& title, const QString& help);
    void add_number(const char* setting, const QString& title, const QString& help, double least, double most,
                    int decimals, const QString& suffix, bool is_length = false);
    void add_base();
    void add_logo();
    void fill();
    void clear();
    report::Setup setup_;
    Lengths lengths_;
    int index_ = -1;
    QFormLayout* form_;
    QLabel* title_;
};

}  // namespace pristine::app
