// A label with tables in its text.

#pragma once

#include <QLabel>
#include <QTextDocument>
#include <cmath>

namespace pristine::app {

// A label thinks a table lower than it is: its last lines would be cut off.
inline void set_rich(QLabel* label, const QString& html) {
    label->setText(html);
    QTextDocument document;
    document.setDefaultFont(label->font());
    document.setDocumentMargin(0);
    document.setHtml(html);
    document.setTextWidth(label->width());
    label->setMinimumHeight(html.isEmpty() ? 0 : static_cast<int>(std::ceil(document.size().height())) + 12);
}

}  // namespace pristine::app
