// Pictures, short films and pages for the client while they are composed: what they show, from where, how
// large.

#pragma once

#include "app/handover/cover.h"
#include "app/model/latest_job.h"
#include "core/report/film.h"

class QCheckBox;
class QComboBox;
class QDoubleSpinBox;
class QFormLayout;
class QSpinBox;
class QTimer;

namespace pristine::app {

class Document;
class Stage;

class PicturePage : public Cover {
    Q_OBJECT
  public:
    enum class Kind { Still, Pair, Turn, Flight, Page };
    PicturePage(Document*, const Stage*, Jobs*, QWidget* foot, QWidget* parent);
    void open();
    /// What would be written, in small. Null while it is drawn.
    const report::Image* preview() const { return fresh_ ? &preview_ : nullptr; }
    /// As the main button does, without asking for the name. In the background; `said` follows.
    void write(const std::filesystem::path&, bool replace);

  private:
    QWidget* build_settings();
    void build_size(QWidget* side, QFormLayout*);
    void build_film(QWidget* side, QFormLayout*);
    QCheckBox* add_box(QVBoxLayout*, const char* name, const QString& text, bool on);
    void fill_lines();
    void follow_kind();
    void draw();
    void show_preview();
    void choose_file();
    void write_page(const std::filesystem::path&, bool replace);
    Kind kind() const;
    report::StillLook look() const;
    report::FilmSpec film() const;
    void resizeEvent(QResizeEvent*) override;
    Document* document_;
    const Stage* stage_;
    LatestJob drawing_, writing_;
    report::Image preview_;
    bool fresh_ = false;
    QTimer* soon_;
    QLabel *view_, *state_;
    QFormLayout* form_;
    QComboBox *kind_, *from_, *line_;
    QSpinBox *width_, *height_, *frames_, *megabytes_;
    QDoubleSpinBox *yaw_, *pitch_, *seconds_;
    QCheckBox *legend_, *clear_, *before_;
    QPushButton* write_;
};

}  // namespace pristine::app
