#include "app/panels/side_card.h"

#include <QLabel>
#include <QPushButton>
#include <QScrollArea>
#include <QVBoxLayout>

namespace pristine::app {
namespace {

// Scrolls up and down only: what stands in it is as wide as it is.
class Column : public QScrollArea {
  public:
    using QScrollArea::QScrollArea;

  protected:
    void resizeEvent(QResizeEvent* e) override {
        if (widget()) widget()->setFixedWidth(viewport()->width());
        QScrollArea::resizeEvent(e);
    }
};

}  // namespace

SideCard::SideCard(const QString& id, const QString& title, QWidget* parent) : QWidget(parent) {
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
    auto* close = new QPushButton(tr("Close"), this);
    close->setObjectName(id + QStringLiteral("Close"));
    head->addWidget(close);
    rows->addLayout(head);
    // On a small screen the card scrolls, rather than pushing the window beyond its edge.
    auto* scroll = new Column(this);
    scroll->setObjectName(id + QStringLiteral("Scroll"));
    scroll->setFrameShape(QFrame::NoFrame);
    scroll->setWidgetResizable(true);
    scroll->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    scroll->setFocusPolicy(Qt::NoFocus);
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
