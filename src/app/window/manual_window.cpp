#include "app/window/manual_window.h"

#include <QHBoxLayout>
#include <QImage>
#include <QPushButton>
#include <QTextBrowser>
#include <QUrl>

namespace pristine::app {
namespace {

// Pages with pictures of the window: no wider than a page.
class Page : public QTextBrowser {
  public:
    using QTextBrowser::QTextBrowser;

  protected:
    QVariant loadResource(int type, const QUrl& name) override {
        constexpr int kWidth = 640;
        const QVariant found = QTextBrowser::loadResource(type, name);
        if (type != QTextDocument::ImageResource) return found;
        const QImage picture = QImage::fromData(found.toByteArray());
        if (picture.width() <= kWidth) return found;
        QImage small = picture.scaledToWidth(kWidth * 2, Qt::SmoothTransformation);
        small.setDevicePixelRatio(2);
        return small;
    }
};

}  // namespace

ManualWindow::ManualWindow(const QString& folder, QWidget* parent) : QDialog(parent) {
    setObjectName(QStringLiteral("manual"));
    setWindowTitle(tr("Manual"));
    resize(720, 720);
    auto* layout = new QVBoxLayout(this);
    browser_ = new Page(this);
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
