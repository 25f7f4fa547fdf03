// The file or folder that was written last, in the status line: dragged into a file manager or a mail, or its
// folder opened by a click.

#pragma once

#include <QPoint>
#include <QToolButton>
#include <filesystem>

class QMimeData;

namespace pristine::app {

class WrittenFile : public QToolButton {
    Q_OBJECT
  public:
    explicit WrittenFile(QWidget* parent);
    void show_file(const std::filesystem::path&);
    const std::filesystem::path& file() const { return file_; }
    /// What a drag carries: the place of the file. Owned by the caller; null when it is gone meanwhile.
    QMimeData* dragged() const;

  signals:
    /// The file is no longer there.
    void gone(const QString& text);

  protected:
    void mousePressEvent(QMouseEvent*) override;
    void mouseMoveEvent(QMouseEvent*) override;

  private:
    void open_folder();
    std::filesystem::path file_;
    QPoint pressed_;
};

}  // namespace pristine::app
