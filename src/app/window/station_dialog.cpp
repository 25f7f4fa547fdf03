#include "app/window/station_dialog.h"

#include <QFormLayout>
#include <QHBoxLayout>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>

#include "app/look/dialog_foot.h"
#include "app/look/make.h"

namespace pristine::app {

StationDialog::StationDialog(const site::Site& site, const site::Item& item, Vec3 proposed, QWidget* parent)
    : QDialog(parent), lengths_(site, &item) {
    setObjectName(QStringLiteral("stationDialog"));
    setWindowTitle(tr("Station of %1").arg(QString::fromStdString(item.name)));
    auto* rows = new QVBoxLayout(this);
    auto* words =
        new QLabel(tr("Where the scanner stood. Range, angle of incidence and what was seen through "
                      "are counted from there."),
                   this);
    words->setWordWrap(true);
    rows->addWidget(words);
    auto* form = new QFormLayout;
    rows->addLayout(form);
    const auto& stations = item.cloud->stations();
    name_ =
        new QLineEdit(stations.empty() ? tr("Station") : QString::fromStdString(stations.front().name), this);
    name_->setObjectName(QStringLiteral("stationName"));
    form->addRow(tr("Name"), name_);
    const Vec3 at = stations.empty() ? proposed : stations.front().position;
    form->addRow(tr("E"), e_ = number("stationE", tr("Easting of the station"), at.x));
    form->addRow(tr("N"), n_ = number("stationN", tr("Northing of the station"), at.y));
    form->addRow(tr("H"), h_ = number("stationH", tr("Height of the station"), at.z));
    above_ = new LengthBox(1.6, 0, 20, this);
    above_->setObjectName(QStringLiteral("stationAbove"));
    above_->setAccessibleName(tr("Height of the instrument above the point that is picked"));
    above_->set_lengths(lengths_);
    form->addRow(tr("Instrument above the point"), above_);
    auto* pick = make_button(this, "stationPick", tr("Pick the point under it"),
                             tr("Then click that point in the stage: of the tripod, of the ground"));
    connect(pick, &QPushButton::clicked, this, &StationDialog::pick_wanted);
    picked_ = make_sentence(this, "stationPicked");
    rows->addWidget(pick);
    rows->addWidget(picked_);
    auto* foot = new QHBoxLayout;
    if (item.cloud->stations_given()) {
        auto* clear = make_button(this, "stationClear", tr("As the file says"));
        connect(clear, &QPushButton::clicked, this, [this] {
            emit cleared();
            reject();
        });
        foot->addWidget(clear);
    }
    rows->addLayout(foot);
    add_foot(this, foot, tr("Leave it"), tr("Set the station"), "stationSet");
}

// Coordinates are typed in the unit of the data, as they stand in lists.
QDoubleSpinBox* StationDialog::number(const char* name, const QString& what, double value) {
    auto* box = new QDoubleSpinBox(this);
    box->setObjectName(QString::fromLatin1(name));
    box->setAccessibleName(what);
    box->setRange(-1e9, 1e9);
    box->setDecimals(3);
    box->setGroupSeparatorShown(false);
    box->setSuffix(lengths_.suffix());
    box->setValue(lengths_.shown(value));
    return box;
}

cloud::Station StationDialog::station() const {
    return {name_->text().trimmed().isEmpty() ? tr("Station").toStdString()
                                              : name_->text().trimmed().toStdString(),
            {lengths_.data(e_->value()), lengths_.data(n_->value()), lengths_.data(h_->value())}};
}

void StationDialog::set_below(const Vec3& p) {
    e_->setValue(lengths_.shown(p.x));
    n_->setValue(lengths_.shown(p.y));
    h_->setValue(lengths_.shown(p.z + above_->in_data()));
    picked_->setText(tr("Above the point at H %1.").arg(lengths_.coordinate(p.z, 1)));
}

}  // namespace pristine::app
