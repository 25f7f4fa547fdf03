// The status line: position under the pointer, counts, whether all is on the disk, and the job that runs.

#pragma once

#include <QWidget>
#include <filesystem>
#include <optional>

#include "core/geometry/vec.h"

class QLabel;
class QProgressBar;
class QToolButton;

namespace pristine::app {

class Document;
class Jobs;
class WrittenFile;

class StatusLine : public QWidget {
    Q_OBJECT
  public:
    StatusLine(Document*, Jobs*, QWidget* parent = nullptr);
    void refresh();
    /// Where the pointer is, data units.
    void set_position(bool there, double x, double y, double z);
    /// Shows a sentence for a while; `fault` marks it as an error, which stays until the next.
    void say(const QString& text, bool fault);
    QString said() const;
    /// What was written last stands at the right from now on.
    void show_written(const std::filesystem::path&);

  private:
    void refresh_job();
    void show_position();
    Document* document_;
    Jobs* jobs_;
    std::optional<Vec3> pointer_;  // where the pointer is, data units
    QLabel *position_, *counts_, *disk_, *message_, *job_;
    QProgressBar* bar_;
    QToolButton* cancel_;
    WrittenFile* written_;
};

}  // namespace pristine::app
