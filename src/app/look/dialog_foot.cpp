#include "app/look/dialog_foot.h"

#include <QDialog>
#include <QPushButton>

namespace pristine::app {

QPushButton* add_foot(QDialog* dialog, QHBoxLayout* row, const QString& leave, const QString& take,
                      const char* name) {
    if (row->count() == 0) row->addStretch(1);
    auto* back = new QPushButton(leave, dialog);
    auto* on = new QPushButton(take, dialog);
    on->setObjectName(QString::fromLatin1(name));
    on->setDefault(true);
    QObject::connect(back, &QPushButton::clicked, dialog, &QDialog::reject);
    QObject::connect(on, &QPushButton::clicked, dialog, &QDialog::accept);
    row->addWidget(back);
    row->addWidget(on);
    return on;
}

}  // namespace pristine::app
