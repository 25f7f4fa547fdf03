// The preview of a text file of points: name the columns, skip lines, set separator, decimal mark and unit.

#pragma once

#include <QDialog>
#include <filesystem>
#include <vector>

#include "core/io/cloud_io.h"

class QComboBox;
class QLabel;
class QPushButton;
class QSpinBox;
class QTableWidget;

namespace pristine::app {

class TextImport : public QDialog {
    Q_OBJECT
  public:
    /// Throws Error(Io).
    TextImport(const std::filesystem::path&, QWidget* parent);
    io::TextReading reading() const;

    /// Whether a file is text whose columns cannot be guessed with certainty.
    static bool wants_help(const std::filesystem::path&);

  private:
    void fill();
    void check();
    std::string sample_;
    io::TextReading reading_;
    QSpinBox* skip_;
    QComboBox *separator_, *decimal_, *unit_;
    QTableWidget* table_;
    QLabel* problem_;
    QPushButton* open_;
    std::vector<QComboBox*> names_;
};

}  // namespace pristine::app
