#include "app/window/manual_window.h"

#include <QHBoxLayout>
#include <QPushButton>
#include <QTextBrowser>
#include <QUrl>

namespace pristine::app {

ManualWindow::ManualWindow(const QString& folder, QWidget* parent) : QDialog(parent) {
    setObjectName(QStringLiteral("manual"));
    setWindowTitle(tr("Manual"));
    resize(620, 680);
    auto* layout = new QVBoxLayout(this);
    browser_ = new QTextBrowser(this);
    browser_->setObjectName(QStringLiteral("manualPage"));
    browser_->setAccessibleName(tr("Manual page"));
    browser_->setSearchPaths({folder});
    auto* row = new QHBoxLayout;
    const auto button = [&](const QString& name, const QString& text) {
        auto* b = new QPushButton(text, this);
        b->setObjectName(name);
        row->addWidget(b);
        return b;
    };
    connect(button(QStringLiteral("manualBack"), tr("Back")), &QPushButton::clicked, browser_,
            &QTextBrowser::backward);
    connect(button(QStringLiteral("manualContents"), tr("All pages")), &QPushButton::clicked, this,
            [this] { show_page(QStringLiteral("index.md")); });
    row->addStretch(1);
    layout->addLayout(row);
    layout->addWidget(browser_);
}

void ManualWindow::show_page(const QString& file) {
    browser_->setSource(QUrl(file), QTextDocument::MarkdownResource);
    show();
    raise();
}

}  // namespace pristine::app
