// What holds for all sites of this user: how much memory clouds may take.

#pragma once

#include <QDialog>
#include <filesystem>

class QDoubleSpinBox;

namespace pristine::app {

/// Applies what an earlier session chose. Call once at the start.
void apply_settings();

class SettingsDialog : public QDialog {
    Q_OBJECT

  public:
    explicit SettingsDialog(QWidget* parent = nullptr);
    /// Keeps and applies what is shown.
    void accept() override;

  private:
    QDoubleSpinBox* memory_;
};

/// Where the log of this user is: $XDG_STATE_HOME/pristine-cloud/log.txt.
std::filesystem::path usual_log();

}  // namespace pristine::app
