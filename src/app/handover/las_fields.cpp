#include "app/handover/las_fields.h"

#include <QComboBox>
#include <QDoubleSpinBox>
#include <QFormLayout>
#include <QLabel>
#include <QSettings>
#include <QSignalBlocker>

#include "app/look/make.h"

namespace pristine::app {

LasFields::LasFields(const QString& prefix, QWidget* side, QFormLayout* form) : QObject(side), form_(form) {
    const auto choice = [&](const char* name, const QString& what) {
        QComboBox* c = make_choice(side, name, what);
        c->setObjectName(prefix + QLatin1String(name));
        return c;
    };
    form->addRow(tr("&Point format"), point_format_ = choice("PointFormat", tr("Point format of LAS")));
    point_format_->addItem(tr("as the source, or 6, 7"), -1);
    for (const int f : io::kLasPointFormats)
        point_format_->addItem(f < 6 ? tr("%1 (LAS 1.2)").arg(f) : tr("%1 (LAS 1.4)").arg(f), f);
    step_ = new QDoubleSpinBox(side);
    step_->setObjectName(prefix + QStringLiteral("Step"));
    step_->setAccessibleName(tr("Step of coordinates"));
    step_->setDecimals(6);
    step_->setRange(0, 1000);
    step_->setSingleStep(0.001);
    step_->setSpecialValueText(tr("as the source"));
    form->addRow(tr("&Step"), step_);
    form->addRow(tr("&Classes"), classes_ = choice("Classes", tr("Classes of points")));
    classes_->addItem(tr("as they were decided"), false);
    classes_->addItem(tr("as the sources have them"), true);
    connect(point_format_, &QComboBox::currentIndexChanged, this, &LasFields::changed);
    connect(classes_, &QComboBox::currentIndexChanged, this, &LasFields::changed);
    connect(step_, &QDoubleSpinBox::valueChanged, this, &LasFields::changed);
}

io::LasOptions LasFields::options(const Lengths& lengths) const {
    return {point_format_->currentData().toInt(), lengths.data(step_->value())};
}

bool LasFields::source_classes() const {
    return classes_->currentData().toBool();
}

void LasFields::set_visible(bool on) {
    for (QWidget* w : std::initializer_list<QWidget*>{point_format_, step_, classes_}) {
        w->setVisible(on);
        form_->labelForField(w)->setVisible(on);
    }
}

void LasFields::set_unit(const Lengths& lengths) {
    step_->setSuffix(lengths.suffix());
}

void LasFields::recall(const QString& format) {
    const QSignalBlocker quiet(this);
    const QSettings kept;
    const QString group = "export/" + format + "/";
    point_format_->setCurrentIndex(
        std::max(0, point_format_->findData(kept.value(group + "pointFormat", -1).toInt())));
    step_->setValue(kept.value(group + "step", 0).toDouble());
    classes_->setCurrentIndex(kept.value(group + "sourceClasses", false).toBool() ? 1 : 0);
}

void LasFields::remember(const QString& format) const {
    QSettings kept;
    const QString group = "export/" + format + "/";
    kept.setValue(group + "pointFormat", point_format_->currentData());
    kept.setValue(group + "step", step_->value());
    kept.setValue(group + "sourceClasses", classes_->currentData());
}

}  // namespace pristine::app
