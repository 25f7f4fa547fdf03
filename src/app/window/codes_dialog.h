// The codes of a survey list: what the points of each are, and the lines that come of them.

#pragma once

#include <QDialog>
#include <vector>

#include "core/site/coded_lines.h"

class QCheckBox;
class QComboBox;
class QLabel;
class QLineEdit;
class QPushButton;

namespace pristine::app {

class CodesDialog : public QDialog {
    Q_OBJECT
  public:
    CodesDialog(const site::Site&, site::ItemPtr, QWidget* parent);
    site::CodeTable table() const;
    const std::vector<site::Line>& lines() const { return made_.lines; }
    /// Keeps the codes for new sites, if that was asked for.
    void accept() override;

  private:
    void refresh();
    site::ItemPtr item_;
    site::CodeTable before_;
    std::vector<site::CodeCount> codes_;
    std::vector<QComboBox*> roles_;
    QLineEdit *start_, *end_, *close_;
    QLabel* says_;
    QCheckBox* keep_;
    QPushButton* make_;
    site::CodedLines made_;
};

}  // namespace pristine::app
