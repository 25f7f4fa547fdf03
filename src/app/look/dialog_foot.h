// The foot of a dialog: what leaves everything as it is, and what the dialog is for.

#pragma once

#include <QHBoxLayout>

class QDialog;
class QPushButton;
class QString;

namespace pristine::app {

/// Adds both buttons at the right of the row and connects them to reject() and accept(). The second is
/// pressed by Enter, has this object name, and is returned.
QPushButton* add_foot(QDialog*, QHBoxLayout* row, const QString& leave, const QString& take,
                      const char* name);

}  // namespace pristine::app
