// The view, kept with the project; views kept by name; the manual.

#include <QBuffer>
#include <QImage>
#include <QPixmap>

#include "app/cards/align_card.h"
#include "app/cards/holes_card.h"
#include "app/cards/markers_card.h"
#include "app/cards/measure_card.h"
#include "app/cards/mesh_card.h"
#include "app/cards/objects_card.h"
#include "app/cards/surface_card.h"
#include "app/cards/tunnel_card.h"
#include "app/look/lengths.h"
#include "app/window/main_window.h"

#include <QBuffer>
#include <QCloseEvent>
#include <QDragEnterEvent>
#include <QFileDialog>
#include <QHBoxLayout>
#include <QInputDialog>
#include <QLabel>
#include <QMenu>
#include <QMenuBar>
#include <QMimeData>
#include <QPushButton>
#include <QSettings>
#include <QSplitter>
#include <QTimer>
#include <QToolButton>
#include <QVBoxLayout>
#include <nlohmann/json.hpp>

#include "app/cards/rule_card.h"
#include "app/cards/work_card.h"
#include "app/look/theme.h"
#include "app/model/thumbnails.h"
#include "app/panes/panorama_pane.h"
#include "app/panes/section_pane.h"
#include "app/window/contents_panel.h"
#include "app/window/decision_bar.h"
#include "app/window/ledger_strip.h"
#include "app/window/legend.h"
#include "app/window/manual_window.h"
#include "app/window/notice.h"
#include "app/window/status_line.h"
#include "app/window/text_import.h"
#include "core/io/cloud_io.h"
#include "core/select/summary.h"

namespace pristine::app {

namespace {

nlohmann::json view_json(const render::Camera& c) {
    return {{"eye", {c.eye.x, c.eye.y, c.eye.z}},
            {"yaw", c.yaw_deg},
            {"pitch", c.pitch_deg},
            {"focus", c.focus},
            {"perspective", c.perspective},
            {"field", c.field_deg}};
}

// Throws nlohmann::json::exception for a view that a later version wrote.
render::Camera camera_from(const nlohmann::json& j) {
    render::Camera c;
    c.eye = {j.at("eye").at(0), j.at("eye").at(1), j.at("eye").at(2)};
    c.yaw_deg = j.at("yaw");
    c.pitch_deg = j.at("pitch");
    c.focus = j.at("focus");
    c.perspective = j.at("perspective");
    c.field_deg = j.at("field");
    return c;
}

}  // namespace

void MainWindow::store_view() {
    if (stage_->peeking() || document_->site()->items.empty()) return;
    nlohmann::json j = view_json(stage_->camera());
    const auto before = nlohmann::json::parse(document_->kept_view(), nullptr, false);
    if (before.is_object() && before.contains("saved")) j["saved"] = before["saved"];
    document_->keep_view(j.dump());
    keep_picture();
}

// Of a draft, at most every few seconds: what it shows, small.
void MainWindow::keep_picture() {
    constexpr qint64 kEvery_ms = 5000;
    if (document_->has_file() || (picture_kept_.isValid() && picture_kept_.elapsed() < kEvery_ms)) return;
    const auto picture = stage_->picture();
    if (!picture) return;
    picture_kept_.start();
    QByteArray png;
    QBuffer buffer(&png);
    buffer.open(QIODevice::WriteOnly);
    stage_->grab()
        .toImage()
        .scaled(256, 160, Qt::KeepAspectRatio, Qt::SmoothTransformation)
        .save(&buffer, "PNG");
    document_->keep_picture(png.toBase64().toStdString());
}

void MainWindow::restore_view() {
    const auto j = nlohmann::json::parse(document_->kept_view(), nullptr, false);
    if (!j.is_object()) return;
    try {
        stage_->set_camera(camera_from(j));
    } catch (const nlohmann::json::exception&) {
        // The data matter more than the place of the camera.
    }
}

void MainWindow::keep_view_as() {
    bool ok = false;
    const QString name =
        QInputDialog::getText(this, tr("Keep this view"), tr("Name"), QLineEdit::Normal, {}, &ok).trimmed();
    if (!ok || name.isEmpty()) return;
    store_view();
    auto j = nlohmann::json::parse(document_->kept_view(), nullptr, false);
    nlohmann::json view = view_json(stage_->camera());
    view["name"] = name.toStdString();
    nlohmann::json others = nlohmann::json::array();
    for (const auto& v : j.value("saved", nlohmann::json::array()))
        if (v.value("name", "") != name.toStdString()) others.push_back(v);
    others.push_back(view);
    j["saved"] = others;
    document_->keep_view(j.dump());
    status_->say(tr("The view is kept as %1").arg(name), false);
}

void MainWindow::fill_views() {
    saved_views_->clear();
    const auto j = nlohmann::json::parse(document_->kept_view(), nullptr, false);
    if (j.is_object())
        for (const auto& v : j.value("saved", nlohmann::json::array()))
            saved_views_->addAction(QString::fromStdString(v.value("name", "?")), this, [this, v] {
                try {
                    stage_->jump_to(camera_from(v));
                } catch (const nlohmann::json::exception&) {
                    say_refused(tr("This view cannot be read."));
                }
            });
    if (saved_views_->isEmpty()) saved_views_->addAction(tr("None yet"))->setEnabled(false);
}

void MainWindow::open_manual() {
    for (const QString& folder : {QCoreApplication::applicationDirPath() + "/../share/pristine-cloud/manual",
                                  QStringLiteral(PRISTINE_MANUAL_DIR)})
        if (QFileInfo::exists(folder + "/index.md")) {
            if (!manual_) manual_ = new ManualWindow(folder, this);
            const std::pair<const SideCard*, const char*> pages[] = {
                {rule_, "rules.md"},       {objects_, "objects.md"}, {tunnel_, "tunnel.md"},
                {surface_, "surfaces.md"}, {measure_, "compare.md"}, {mesh_, "mesh.md"},
                {holes_, "holes.md"},      {align_, "align.md"},     {markers_, "mesh.md"}};
            for (const auto& [card, page] : pages)
                if (card->is_open()) return manual_->show_page(QString::fromLatin1(page));
            manual_->show_page(document_->site()->items.empty()    ? QStringLiteral("index.md")
                               : document_->site()->selected() > 0 ? QStringLiteral("decide.md")
                                                                   : QStringLiteral("select.md"));
            return;
        }
    notice_->show_text(tr("The manual was not found beside the program."), true);
}

}  // namespace pristine::app
