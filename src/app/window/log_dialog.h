// The log, to be read and sent to whoever helps.

#pragma once

#include <QDialog>

namespace pristine::app {

class LogDialog : public QDialog {
    Q_OBJECT
  public:
    explicit LogDialog(QWidget* parent);
};

}  // namespace pristine::app
