// What holds for all sites of this user, to look at and to change.

#pragma once

#include <QDialog>
#include <filesystem>

#include "app/look/preferences.h"

class QCheckBox;
class QDoubleSpinBox;
class QFormLayout;
class QLabel;
class QLineEdit;
class QPlainTextEdit;
class QPushButton;
class QSpinBox;

namespace pristine::app {

class SettingsDialog : public QDialog {
    Q_OBJECT

  public:
    explicit SettingsDialog(QWidget* parent = nullptr);
    /// Keeps and applies what is shown.
    void accept() override;
    Preferences shown() const;
    void show_preferences(const Preferences&);
    /// Writes what is shown, or shows what a file holds. Throw Error.
    void export_to(const std::filesystem::path&) const;
    void import_from(const std::filesystem::path&);

  private:
    void add_work(QFormLayout*);
    void add_mouse(QFormLayout*);
    void add_memory(QFormLayout*);
    void choose_export();
    void choose_import();
    void choose_scratch();
    void say_codes();
    QDoubleSpinBox *memory_, *turning_, *space_speed_, *sagitta_;
    QSpinBox* digits_;
    QLineEdit *person_, *scratch_;
    QLabel* codes_said_;
    QPushButton* codes_forget_;
    site::CodeTable codes_;
    QPlainTextEdit* reasons_;
    QCheckBox *wheel_, *middle_, *space_viewer_;
    QLabel* said_;
};

/// Where the log of this user is: $XDG_STATE_HOME/pristine-cloud/log.txt.
std::filesystem::path usual_log();

}  // namespace pristine::app
