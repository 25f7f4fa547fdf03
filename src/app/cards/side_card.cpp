#include "app/cards/side_card.h"

#include <QLabel>
#include <QPushButton>
#include <QVBoxLayout>

#include "app/look/scrolled_column.h"
#include "app/look/theme.h"

namespace pristine::app {
SideCard::SideCard(const QString& id, const QString& title, const QString& page, QWidget* parent)
    : QWidget(parent), title_(title), page_(page) {
    setObjectName(QStringLiteral("workCard"));  // it looks like one
    setAttribute(Qt::WA_StyledBackground);
    auto* rows = new QVBoxLayout(this);
    rows->setContentsMargins(14, 12, 0, 8);
    rows->setSpacing(8);
    auto* head = new QHBoxLayout;
    head->setContentsMargins(0, 0, 14, 0);
    auto* name = new QLabel(title, this);
    name->setObjectName(QStringLiteral("cardTitle"));
    head->addWidget(name);
    head->addStretch(1);
    auto* tool = new QPushButton(tr("Tool"), this);
    tool->setObjectName(id + QStringLiteral("Tool"));
    tool->setToolTip(tr("Shows the settings of the hand tool; this card stays open and waits"));
    connect(tool, &QPushButton::clicked, this, &SideCard::tool_wanted);
    head->addWidget(tool);
    // A cross and no word: beside the title there is room for one word only.
    auto* close = new QPushButton(icon(QStringLiteral("cancel")), {}, this);
    close->setAccessibleName(tr("Close"));
    close->setToolTip(tr("Close"));
    close->setObjectName(id + QStringLiteral("Close"));
    head->addWidget(close);
    rows->addLayout(head);
    // On a small screen the card scrolls, rather than pushing the window beyond its edge.
    auto* scroll = new ScrolledColumn(this);
    scroll->setObjectName(id + QStringLiteral("Scroll"));
    scroll->viewport()->setAutoFillBackground(false);
    auto* inner = new QWidget(scroll);
    inner->setAutoFillBackground(false);
    body_ = new QVBoxLayout(inner);
    body_->setContentsMargins(0, 0, 14, 4);
    body_->setSpacing(8);
    scroll->setWidget(inner);
    rows->addWidget(scroll, 1);
    connect(close, &QPushButton::clicked, this, &SideCard::close_card);
    hide();
}

void SideCard::set_aside() {
    if (open_) hide();
}

void SideCard::open() {
    if (open_) return show();
    open_ = true;
    emit opened();
    show();
    on_open();
}

void SideCard::close_card() {
    open_ = false;
    on_close();
    hide();
    emit closed();
}

}  // namespace pristine::app
