#include "app/window/notice.h"

#include <QEvent>
#include <QGridLayout>
#include <QHBoxLayout>
#include <QLabel>
#include <QPushButton>
#include <QToolButton>
#include <QVBoxLayout>

#include "app/look/theme.h"
#include "core/base/log.h"

namespace pristine::app {

Notice::Notice(QWidget* stage) : QFrame(stage) {
    setObjectName(QStringLiteral("notice"));
    auto* rows = new QVBoxLayout(this);
    rows->setContentsMargins(12, 6, 6, 6);
    auto* layout = new QHBoxLayout;
    rows->addLayout(layout);
    text_ = new QLabel(this);
    text_->setObjectName(QStringLiteral("noticeText"));
    text_->setWordWrap(true);
    layout->addWidget(text_, 1);
    auto* close = new QToolButton(this);
    close->setObjectName(QStringLiteral("noticeClose"));
    close->setAccessibleName(tr("Close the notice"));
    close->setIcon(icon(QStringLiteral("cancel")));
    close->setAutoRaise(true);
    layout->addWidget(close);
    connect(close, &QToolButton::clicked, this, [this] {
        hide();
        parentWidget()->setFocus();
    });
    choices_ = new QGridLayout;
    choices_->setColumnStretch(0, 1);
    const char* names[kMost] = {"noticeFirst", "noticeSecond", "noticeThird", "noticeFourth"};
    for (std::size_t k = 0; k < kMost; ++k) {
        buttons_[k] = new QPushButton(this);
        buttons_[k]->setObjectName(QString::fromLatin1(names[k]));
        connect(buttons_[k], &QPushButton::clicked, this, [this, k] {
            hide();
            parentWidget()->setFocus();  // else it would jump to whatever comes next in the window
            if (const auto run = runs_[k]) run();
        });
    }
    rows->addLayout(choices_);
    stage->installEventFilter(this);
    hide();
}

void Notice::show_text(const QString& text, bool fault, Choice first, Choice second) {
    show_choices(text, fault, {first, second});
}

void Notice::show_choices(const QString& text, bool fault, const std::vector<Choice>& choices) {
    if (fault) log::error(text.toStdString());
    setStyleSheet(QStringLiteral("#notice { background: #F5F2EC; border: 1px solid #CFC7B7; border-left: 6px "
                                 "solid %1; border-radius: 8px; }")
                      .arg(fault ? token::fault.name() : token::warn.name()));
    text_->setText(text);
    for (std::size_t k = 0; k < kMost; ++k) {
        const Choice c = k < choices.size() ? choices[k] : Choice{};
        buttons_[k]->setVisible(!c.text.isEmpty());
        buttons_[k]->setText(c.text);
        runs_[k] = c.run;
    }
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
    // In one row where they fit, else two by two.
    int wide = 0;
    for (const QPushButton* b : buttons_)
        if (!b->isHidden()) wide += b->sizeHint().width() + choices_->horizontalSpacing();
    const int in_a_row = wide + 40 <= width() ? static_cast<int>(kMost) : 2;
    for (int k = 0, at = 0; k < static_cast<int>(kMost); ++k) {
        choices_->removeWidget(buttons_[static_cast<std::size_t>(k)]);
        if (buttons_[static_cast<std::size_t>(k)]->isHidden()) continue;
        choices_->addWidget(buttons_[static_cast<std::size_t>(k)], at / in_a_row, 1 + at % in_a_row);
        ++at;
    }
    adjustSize();
    move((parentWidget()->width() - width()) / 2, 48);
}

}  // namespace pristine::app
