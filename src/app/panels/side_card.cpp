#include "app/panels/side_card.h"

#include <QLabel>
#include <QPushButton>
#include <QVBoxLayout>

namespace pristine::app {

SideCard::SideCard(const QString& id, const QString& title, QWidget* parent)
    : QWidget(parent), body_(new QVBoxLayout(this)) {
    setObjectName(QStringLiteral("workCard"));  // it looks like one
    setAttribute(Qt::WA_StyledBackground);
    body_->setContentsMargins(14, 12, 14, 12);
    body_->setSpacing(8);
    auto* head = new QHBoxLayout;
    auto* name = new QLabel(title, this);
    name->setObjectName(QStringLiteral("cardTitle"));
    head->addWidget(name);
    head->addStretch(1);
    auto* close = new QPushButton(tr("Close"), this);
    close->setObjectName(id + QStringLiteral("Close"));
    head->addWidget(close);
    body_->addLayout(head);
    connect(close, &QPushButton::clicked, this, &SideCard::close_card);
    hide();
}

void SideCard::open() {
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
