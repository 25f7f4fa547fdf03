// Small widgets with their names and words, in one line each.

#pragma once

#include <QComboBox>
#include <QIcon>
#include <QLabel>
#include <QPixmap>
#include <QPushButton>

namespace pristine::app {

/// `name` is that of the object: tests and style sheets find it by that.
inline QPushButton* make_button(QWidget* parent, const char* name, const QString& text,
                                const QString& tool_tip = {}) {
    auto* b = new QPushButton(text, parent);
    b->setObjectName(QString::fromLatin1(name));
    b->setToolTip(tool_tip);
    return b;
}

/// A label for sentences: they wrap.
inline QLabel* make_sentence(QWidget* parent, const char* name) {
    auto* l = new QLabel(parent);
    l->setObjectName(QString::fromLatin1(name));
    l->setWordWrap(true);
    return l;
}

/// `what` is what a screen reader calls it.
inline QComboBox* make_choice(QWidget* parent, const char* name, const QString& what) {
    auto* c = new QComboBox(parent);
    c->setObjectName(QString::fromLatin1(name));
    c->setAccessibleName(what);
    return c;
}

/// A square of one colour.
inline QIcon swatch_icon(const QColor& colour) {
    QPixmap square(14, 14);
    square.fill(colour);
    QIcon icon(square);
    icon.addPixmap(square, QIcon::Selected);  // else it would be tinted in a row that is selected
    return icon;
}

}  // namespace pristine::app
