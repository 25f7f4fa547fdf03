#include "app/handover/cover.h"

#include <QEvent>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QKeyEvent>
#include <QLabel>
#include <QListWidget>
#include <QPainter>
#include <QPushButton>
#include <QStyledItemDelegate>
#include <QTimer>
#include <QTreeWidget>

#include "app/look/make.h"
#include "app/look/theme.h"
#include "app/model/document.h"

namespace pristine::app {

Cover::Cover(const char* name, QWidget* foot, QWidget* parent) : QWidget(parent), foot_(foot) {
    setObjectName(QString::fromLatin1(name));
    setAttribute(Qt::WA_StyledBackground);
    setAutoFillBackground(true);
    parent->installEventFilter(this);
    hide();
}

QVBoxLayout* Cover::build_frame(const QString& title, QWidget* side) {
    auto* columns = new QHBoxLayout(this);
    columns->setContentsMargins(0, 0, 0, 0);
    columns->setSpacing(0);
    auto* middle = new QVBoxLayout;
    middle->setContentsMargins(0, 0, 0, 0);
    middle->setSpacing(0);
    build_head(middle);
    set_title(title);
    columns->addLayout(middle, 1);
    columns->addWidget(side);
    return middle;
}

QTreeWidget* Cover::build_list(QVBoxLayout* rows, const char* name, const QString& what,
                               const QStringList& columns) {
    auto* list = new QTreeWidget(this);
    list->setObjectName(QString::fromLatin1(name));
    list->setAccessibleName(what);
    list->setHeaderLabels(columns);
    list->setRootIsDecorated(false);
    list->header()->setStretchLastSection(true);
    list->setFrameShape(QFrame::NoFrame);
    auto* padded = new QHBoxLayout;
    padded->setContentsMargins(16, 0, 0, 16);
    padded->addWidget(list);
    rows->addLayout(padded, 1);
    return list;
}

void Cover::follow(Document* document, std::function<void()> again) {
    connect(document, &Document::changed, this, [this, again = std::move(again)] {
        if (isVisible()) again();
    });
    connect(document, &Document::replaced, this, [this] {
        if (isVisible()) go_back();
    });
}

QHBoxLayout* Cover::build_head(QVBoxLayout* rows) {
    auto* top = new QHBoxLayout;
    top->setContentsMargins(16, 8, 16, 8);
    auto* back = make_button(this, "coverBack", tr("Back to the stage"), tr("Esc"));
    back->setObjectName(objectName() + QStringLiteral("Back"));
    top->addWidget(back);
    top->addSpacing(12);
    top->addWidget(title_ = new QLabel(this));
    title_->setStyleSheet(QStringLiteral("font-weight: bold;"));
    top->addStretch(1);
    rows->addLayout(top);
    connect(back, &QPushButton::clicked, this, &Cover::go_back);
    return top;
}

QWidget* Cover::build_side(QVBoxLayout*& rows) {
    auto* side = new QWidget(this);
    side->setFixedWidth(352);
    rows = new QVBoxLayout(side);
    rows->setContentsMargins(16, 12, 16, 12);
    rows->setSpacing(6);
    return side;
}

void Cover::set_title(const QString& text) {
    title_->setText(text);
}

void Cover::go_back() {
    hide();
    emit left();
}

void Cover::cover() {
    setGeometry(0, 0, parentWidget()->width(), parentWidget()->height() - foot_->height());
}

bool Cover::eventFilter(QObject* of, QEvent* e) {
    // The foot gets its new height after its parent.
    if (of == parentWidget() && e->type() == QEvent::Resize && isVisible())
        QTimer::singleShot(0, this, [this] { cover(); });
    return QWidget::eventFilter(of, e);
}

void Cover::keyPressEvent(QKeyEvent* e) {
    if (e->key() != Qt::Key_Escape) return QWidget::keyPressEvent(e);
    go_back();
}

namespace {

class RowInHand : public QStyledItemDelegate {
  public:
    using QStyledItemDelegate::QStyledItemDelegate;
    void paint(QPainter* painter, const QStyleOptionViewItem& option,
               const QModelIndex& index) const override {
        QStyleOptionViewItem plain = option;
        const bool in_hand = option.state & QStyle::State_Selected;
        if (in_hand) {
            painter->fillRect(option.rect, QColor(0xFF, 0xFD, 0xF6));
            painter->fillRect(QRect(option.rect.topLeft(), QSize(4, option.rect.height())), token::ink);
        }
        plain.state &= ~QStyle::State_Selected;
        plain.rect.adjust(8, 0, 0, 0);
        QStyledItemDelegate::paint(painter, plain, index);
        painter->setPen(token::line);
        painter->drawLine(option.rect.bottomLeft(), option.rect.bottomRight());
    }
    // The box is where it is drawn.
    bool editorEvent(QEvent* e, QAbstractItemModel* model, const QStyleOptionViewItem& option,
                     const QModelIndex& index) override {
        QStyleOptionViewItem moved = option;
        moved.rect.adjust(8, 0, 0, 0);
        return QStyledItemDelegate::editorEvent(e, model, moved, index);
    }
};

}  // namespace

void mark_row(QListWidget* list) {
    list->viewport()->setAutoFillBackground(false);
    list->setItemDelegate(new RowInHand(list));
}

QPushButton* make_main_button(QWidget* parent, const char* name, const QString& text) {
    QPushButton* b = make_button(parent, name, text);
    b->setMinimumHeight(40);
    b->setStyleSheet(
        QStringLiteral("QPushButton { background: #1D2733; color: #FFFDF9; font-weight: bold; } "
                       "QPushButton:disabled { background: #8C8577; }"));
    return b;
}

}  // namespace pristine::app
