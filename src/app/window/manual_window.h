// The manual in a window of its own beside the work.

#pragma once

#include <QDialog>

class QTextBrowser;

namespace pristine::app {

class ManualWindow : public QDialog {
    Q_OBJECT
  public:
    /// Pages are Markdown files in this folder.
    ManualWindow(const QString& folder, QWidget* parent);
    void show_page(const QString& file);

  private:
    QTextBrowser* browser_;
};

}  // namespace pristine::app
