#include "app/window/log_dialog.h"

#include <QApplication>
#include <QClipboard>
#include <QFile>
#include <QFontDatabase>
#include <QHBoxLayout>
#include <QLabel>
#include <QPlainTextEdit>
#include <QPushButton>
#include <QScrollBar>
#include <QVBoxLayout>

#include "core/base/log.h"

namespace pristine::app {

LogDialog::LogDialog(QWidget* parent) : QDialog(parent) {
    constexpr qint64 kMost = 200'000;  // bytes, from the end
    setObjectName(QStringLiteral("logDialog"));
    setAttribute(Qt::WA_DeleteOnClose);
    setWindowTitle(tr("Log"));
    resize(820, 480);
    const QString path = QString::fromStdString(log::file().string());
    QFile file(path);
    QString text;
    if (!path.isEmpty() && file.open(QIODevice::ReadOnly)) {
        if (file.size() > kMost) {
            file.seek(file.size() - kMost);
            file.readLine();  // the rest of a line
        }
        text = QString::fromUtf8(file.readAll());
    }
    auto* layout = new QVBoxLayout(this);
    auto* where =
        new QLabel(path.isEmpty() ? tr("There is no log: its file could not be written.")
                                  : tr("%1\nFiles, jobs and errors; no coordinates of your data.").arg(path),
                   this);
    where->setObjectName(QStringLiteral("logPath"));
    where->setTextInteractionFlags(Qt::TextSelectableByMouse);
    where->setWordWrap(true);
    layout->addWidget(where);
    auto* lines = new QPlainTextEdit(text, this);
    lines->setObjectName(QStringLiteral("logText"));
    lines->setAccessibleName(tr("The log"));
    lines->setReadOnly(true);
    lines->setFont(QFontDatabase::systemFont(QFontDatabase::FixedFont));
    lines->setLineWrapMode(QPlainTextEdit::NoWrap);
    layout->addWidget(lines, 1);
    lines->verticalScrollBar()->setValue(lines->verticalScrollBar()->maximum());
    auto* row = new QHBoxLayout;
    row->addStretch(1);
    auto* copy = new QPushButton(tr("Copy all"), this);
    copy->setObjectName(QStringLiteral("logCopy"));
    connect(copy, &QPushButton::clicked, this, [text] { QApplication::clipboard()->setText(text); });
    row->addWidget(copy);
    auto* close = new QPushButton(tr("Close"), this);
    connect(close, &QPushButton::clicked, this, &QDialog::accept);
    row->addWidget(close);
    layout->addLayout(row);
}

}  // namespace pristine::app
