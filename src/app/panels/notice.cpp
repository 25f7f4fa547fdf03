#include "app/panels/notice.h"

#include <QEvent>
#include <QHBoxLayout>
#include <QLabel>
#include <QPushButton>
#include <QToolButton>

#include "app/shell/theme.h"

namespace pristine::app {

Notice::Notice(QWidget* stage) : QFrame(stage) {
    setObjectName(QStringLiteral("notice"));
    auto* layout = new QHBoxLayout(this);
    layout->setContentsMargins(12, 6, 6, 6);
    text_ = new QLabel(this);
    text_->setObjectName(QStringLiteral("noticeText"));
    text_->setWordWrap(true);
    layout->addWidget(text_, 1);
    first_ = new QPushButton(this);
    first_->setObjectName(QStringLiteral("noticeFirst"));
    second_ = new QPushButton(this);
    second_->setObjectName(QStringLiteral("noticeSecond"));
    layout->addWidget(first_);
    layout->addWidget(second_);
    auto* close = new QToolButton(this);
    close->setObjectName(QStringLiteral("noticeClose"));
    close->setAccessibleName(tr("Close the notice"));
    close->setIcon(icon(QStringLiteral("cancel")));
    close->setAutoRaise(true);
    layout->addWidget(close);
    connect(close, &QToolButton::clicked, this, &QWidget::hide);
    connect(first_, &QPushButton::clicked, this, [this] {
        hide();
        if (run_first_) run_first_();
    });
    connect(second_, &QPushButton::clicked, this, [this] {
        hide();
        if (run_second_) run_second_();
    });
    stage->installEventFilter(this);
    hide();
}

void Notice::show_text(const QString& text, bool fault, Choice first, Choice second) {
    setStyleSheet(QStringLiteral("#notice { background: #F5F2EC; border: 1px solid #CFC7B7; border-left: 6px "
                                 "solid %1; border-radius: 8px; }")
                      .arg(fault ? token::fault.name() : token::warn.name()));
    text_->setText(text);
    first_->setVisible(!first.text.isEmpty());
    second_->setVisible(!second.text.isEmpty());
    first_->setText(first.text);
    second_->setText(second.text);
    run_first_ = first.run;
    run_second_ = second.run;
    show();
    place();
    raise();
}

QString Notice::text() const {
    return isVisible() ? text_->text() : QString();
}

bool Notice::eventFilter(QObject* watched, QEvent* event) {
    if (event->type() == QEvent::Resize) place();
    return QFrame::eventFilter(watched, event);
}

void Notice::place() {
    const int w = std::min(parentWidget()->width() - 40, 640);
    setFixedWidth(std::max(w, 200));
    adjustSize();
    move((parentWidget()->width() - width()) / 2, 48);
}

}  // namespace pristine::app
