#include "app/look/colour_box.h"

#include <QColorDialog>
#include <QHBoxLayout>
#include <QPushButton>

namespace pristine::app {

QString ColourBox::textFromValue(double v) const {
    return v < 0 ? tr("none")
                 : QStringLiteral("#%1").arg(static_cast<unsigned>(v), 6, 16, QLatin1Char('0')).toUpper();
}

double ColourBox::valueFromText(const QString& text) const {
    bool ok = false;
    const unsigned v = text.mid(text.indexOf(QLatin1Char('#')) + 1).toUInt(&ok, 16);
    return ok && text.contains(QLatin1Char('#')) ? v : -1;
}

QWidget* with_picker(QDoubleSpinBox* box) {
    auto* row = new QWidget(box->parentWidget());
    auto* layout = new QHBoxLayout(row);
    layout->setContentsMargins(0, 0, 0, 0);
    layout->addWidget(box, 1);
    auto* pick = new QPushButton(ColourBox::tr("Pick…"), row);
    pick->setToolTip(ColourBox::tr("Choose a colour, or take one from the screen"));
    layout->addWidget(pick);
    QObject::connect(pick, &QPushButton::clicked, row, [row, box] {
        const QColor before = box->value() < 0 ? QColor(Qt::white) : QColor(static_cast<QRgb>(box->value()));
        const QColor chosen = QColorDialog::getColor(before, row, ColourBox::tr("A colour to compare with"));
        if (chosen.isValid()) box->setValue(chosen.rgb() & 0xFFFFFFu);
    });
    return row;
}

}  // namespace pristine::app
