// What holds for all sites of this user: how much memory clouds may take.

#pragma once

#include <QDialog>

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

}  // namespace pristine::app
