// Sites that were never saved under a name: what each holds, its size and date; opened again or thrown away.

#pragma once

#include <QDialog>
#include <filesystem>
#include <vector>

class QLabel;
class QPushButton;
class QTreeWidget;

namespace pristine::app {

class UnfinishedDialog : public QDialog {
    Q_OBJECT
  public:
    explicit UnfinishedDialog(QWidget* parent);
    /// The one that was chosen to be opened; empty before.
    const std::filesystem::path& chosen() const { return chosen_; }
    /// How many there are, and their size on the disk.
    static QString told(const std::vector<std::filesystem::path>& drafts);

  private:
    void fill();
    void choose();
    void throw_away();
    std::filesystem::path current() const;
    QTreeWidget* tree_;
    QLabel* total_;
    QPushButton *open_, *away_;
    std::filesystem::path chosen_;
};

}  // namespace pristine::app
