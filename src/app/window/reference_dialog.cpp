#include "app/window/reference_dialog.h"

#include <QComboBox>
#include <QFormLayout>
#include <QFrame>
#include <QHBoxLayout>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QVBoxLayout>

#include "app/look/lengths.h"
#include "core/base/error.h"
#include "core/io/reference/reproject.h"
#include "core/io/reference/system.h"

namespace pristine::app {
namespace {

// Choices of a unit by their ids; one that a file states and that is none of the usual ones comes last.
void fill_units(QComboBox* box, const QString& none, const std::string& now) {
    box->addItem(none, QString());
    for (const LengthUnit& u : length_units()) box->addItem(unit_title(u.id), QString::fromLatin1(u.id));
    const QString id = QString::fromStdString(now);
    if (box->findData(id) < 0) box->addItem(unit_title(now), id);
    box->setCurrentIndex(box->findData(id));
}

// A definition as a person can read and type it: its code, else the whole text in one line.
QString typed(const std::string& definition) {
    const io::System s = io::system_of(definition);
    return QString::fromStdString(s.code.empty() ? definition : s.code).simplified();
}

}  // namespace

ReferenceDialog::ReferenceDialog(const site::Site& site, const site::Item& item, QWidget* parent)
    : QDialog(parent), before_(item.cloud->reference()) {
    setObjectName(QStringLiteral("referenceDialog"));
    setWindowTitle(tr("Unit and reference system of %1").arg(QString::fromStdString(item.name)));
    resize(520, 0);
    auto* rows = new QVBoxLayout(this);
    add_statement(rows);
    add_conversion(rows, site, item);
    for (QLineEdit* e : {system_, target_})
        connect(e, &QLineEdit::textChanged, this, &ReferenceDialog::check);
    // A system brings its own unit; whoever knows better chooses after it.
    connect(system_, &QLineEdit::textEdited, this, [this](const QString& text) {
        try {
            const io::System s = io::system_of(io::system_typed(text.toStdString()));
            for (const auto& [box, id] : {std::pair(unit_, s.unit), std::pair(heights_, s.height_unit)}) {
                const QString data = QString::fromStdString(id);
                if (box->findData(data) < 0) box->addItem(unit_title(id), data);
                box->setCurrentIndex(box->findData(data));
            }
        } catch (const Error&) {  // not yet whole
        }
    });
    check();
}

// What the numbers mean.
void ReferenceDialog::add_statement(QVBoxLayout* rows) {
    auto* form = new QFormLayout;
    unit_ = new QComboBox(this);
    unit_->setObjectName(QStringLiteral("referenceUnit"));
    unit_->setAccessibleName(tr("Unit of the coordinates"));
    fill_units(unit_, tr("not stated"), before_.unit);
    heights_ = new QComboBox(this);
    heights_->setObjectName(QStringLiteral("referenceHeights"));
    heights_->setAccessibleName(tr("Unit of the heights"));
    fill_units(heights_, tr("as the plan"), before_.height_unit);
    system_ = new QLineEdit(typed(before_.crs), this);
    system_->setObjectName(QStringLiteral("referenceSystem"));
    system_->setAccessibleName(tr("Reference system"));
    system_->setPlaceholderText(tr("EPSG:25832, EPSG:25832+7837, or WKT"));
    understood_ = new QLabel(this);
    understood_->setObjectName(QStringLiteral("referenceUnderstood"));
    understood_->setWordWrap(true);
    form->addRow(tr("&Unit"), unit_);
    form->addRow(tr("Unit of &heights"), heights_);
    form->addRow(tr("Reference &system"), system_);
    form->addRow(QString(), understood_);
    rows->addLayout(form);
    auto* note = new QLabel(tr("This says what the numbers mean. It changes no coordinate."), this);
    note->setObjectName(QStringLiteral("soft"));
    rows->addWidget(note);
    auto* foot = new QHBoxLayout;
    foot->addStretch(1);
    auto* leave = new QPushButton(tr("Leave as it is"), this);
    connect(leave, &QPushButton::clicked, this, &QDialog::reject);
    foot->addWidget(leave);
    state_ = new QPushButton(tr("State this"), this);
    state_->setObjectName(QStringLiteral("referenceState"));
    state_->setDefault(true);
    connect(state_, &QPushButton::clicked, this, &QDialog::accept);
    foot->addWidget(state_);
    rows->addLayout(foot);
}

// Other numbers for the same places.
void ReferenceDialog::add_conversion(QVBoxLayout* rows, const site::Site& site, const site::Item& item) {
    auto* rule = new QFrame(this);
    rule->setFrameShape(QFrame::HLine);
    rows->addWidget(rule);
    auto* to = new QFormLayout;
    // What is most often meant: the site's own system, or for degrees the fitting zone.
    const cloud::Reference of_site = site::reference_of(site);
    QString target = site::differs_from_site(site, item) ? typed(of_site.crs) : QString();
    if (before_.unit == kDegrees && (target.isEmpty() || of_site.unit == kDegrees))
        target = QString::fromStdString(io::fitting_zone(*item.cloud));
    target_ = new QLineEdit(target, this);
    target_->setObjectName(QStringLiteral("referenceTarget"));
    target_->setAccessibleName(tr("Reference system to convert to"));
    target_->setPlaceholderText(tr("EPSG number or WKT"));
    target_understood_ = new QLabel(this);
    target_understood_->setWordWrap(true);
    to->addRow(tr("Convert &to"), target_);
    to->addRow(QString(), target_understood_);
    rows->addLayout(to);
    auto* convert_row = new QHBoxLayout;
    convert_row->addStretch(1);
    convert_ = new QPushButton(tr("Convert into a new item"), this);
    convert_->setObjectName(QStringLiteral("referenceConvert"));
    convert_->setAutoDefault(false);
    connect(convert_, &QPushButton::clicked, this, [this] {
        emit convert(target_->text());
        reject();
    });
    convert_row->addWidget(convert_);
    rows->addLayout(convert_row);
}

cloud::Reference ReferenceDialog::reference() const {
    cloud::Reference r;
    const QString text = system_->text().trimmed();
    r.crs = text == typed(before_.crs) ? before_.crs : io::system_typed(text.toStdString());
    r.unit = unit_->currentData().toString().toStdString();
    r.height_unit = heights_->currentData().toString().toStdString();
    if (r.height_unit == r.unit) r.height_unit.clear();
    return r;
}

void ReferenceDialog::check() {
    const auto say = [](QLineEdit* field, QLabel* label) {
        if (field->text().trimmed().isEmpty()) {
            label->clear();
            return false;
        }
        try {
            label->setText(
                QString::fromStdString(io::system_of(io::system_typed(field->text().toStdString())).title()));
            return true;
        } catch (const Error& e) {
            label->setText(QString::fromStdString(e.what()));
            return false;
        }
    };
    const bool sound = say(system_, understood_);
    const bool kept = system_->text().trimmed() == typed(before_.crs);
    state_->setEnabled(sound || kept || system_->text().trimmed().isEmpty());
    convert_->setEnabled(say(target_, target_understood_) && !before_.crs.empty());
    convert_->setToolTip(before_.crs.empty() ? tr("State the item's own reference system first.")
                                             : QString());
}

}  // namespace pristine::app
