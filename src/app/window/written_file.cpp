#include "app/window/written_file.h"

#include <QApplication>
#include <QDesktopServices>
#include <QDrag>
#include <QMimeData>
#include <QMouseEvent>
#include <QUrl>

namespace pristine::app {

namespace {

QUrl url_of(const std::filesystem::path& path) {
    return QUrl::fromLocalFile(QString::fromStdString(path.string()));
}

}  // namespace

WrittenFile::WrittenFile(QWidget* parent) : QToolButton(parent) {
    setObjectName(QStringLiteral("writtenFile"));
    setAutoRaise(true);
    setMaximumWidth(220);
    setAccessibleName(tr("What was written last"));
    setToolTip(tr("Drag it into a file manager or a mail; a click opens its folder"));
    connect(this, &QToolButton::clicked, this, &WrittenFile::open_folder);
    hide();
}

void WrittenFile::show_file(const std::filesystem::path& file) {
    std::error_code fault;
    file_ = std::filesystem::absolute(file, fault);
    const QString name = QString::fromStdString(file_.filename().string());
    setText(fontMetrics().elidedText(name, Qt::ElideMiddle, 190));
    setAccessibleDescription(name);
    show();
}

QMimeData* WrittenFile::dragged() const {
    std::error_code fault;
    if (!std::filesystem::exists(file_, fault)) return nullptr;
    auto* data = new QMimeData;
    data->setUrls({url_of(file_)});
    data->setText(QString::fromStdString(file_.string()));
    return data;
}

void WrittenFile::open_folder() {
    QDesktopServices::openUrl(url_of(file_.parent_path()));
}

void WrittenFile::mousePressEvent(QMouseEvent* e) {
    pressed_ = e->pos();
    QToolButton::mousePressEvent(e);
}

void WrittenFile::mouseMoveEvent(QMouseEvent* e) {
    const bool far = (e->pos() - pressed_).manhattanLength() >= QApplication::startDragDistance();
    if (!(e->buttons() & Qt::LeftButton) || !far) return QToolButton::mouseMoveEvent(e);
    setDown(false);
    QMimeData* data = dragged();
    if (!data) return emit gone(tr("%1 is no longer there.").arg(QString::fromStdString(file_.string())));
    auto* drag = new QDrag(this);
    drag->setMimeData(data);
    drag->exec(Qt::CopyAction);
}

}  // namespace pristine::app
