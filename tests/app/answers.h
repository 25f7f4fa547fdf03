// What is typed into questions that stop everything else.

#pragma once

#include <QApplication>
#include <QInputDialog>
#include <QTimer>

namespace pristine::test {

/// Answers the next question for a number.
inline void answer(QObject* parent, double value) {
    auto* poll = new QTimer(parent);
    QObject::connect(poll, &QTimer::timeout, poll, [poll, value] {
        auto* dialog = qobject_cast<QInputDialog*>(QApplication::activeModalWidget());
        if (!dialog) return;
        poll->stop();
        poll->deleteLater();
        dialog->setDoubleValue(value);
        dialog->accept();
    });
    poll->start(20);
}

}  // namespace pristine::test
