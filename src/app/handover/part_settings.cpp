#include "app/handover/part_settings.h"

#include <QComboBox>
#include <QFileDialog>
#include <QFormLayout>
#include <QLabel>
#include <QLineEdit>
#include <QPlainTextEdit>
#include <QPushButton>
#include <QSettings>
#include <QVBoxLayout>

#include "app/look/make.h"
#include "core/base/error.h"
#include "core/base/file.h"

namespace pristine::app {

PartSettings::PartSettings(QWidget* parent) : QWidget(parent) {
    setObjectName(QStringLiteral("partSettings"));
    auto* rows = new QVBoxLayout(this);
    rows->setContentsMargins(0, 8, 0, 0);
    rows->addWidget(title_ = make_sentence(this, "partTitle"));
    title_->setStyleSheet(QStringLiteral("font-weight: bold;"));
    auto* holder = new QWidget(this);
    form_ = new QFormLayout(holder);
    form_->setContentsMargins(0, 0, 0, 0);
    form_->setSpacing(6);
    form_->setFieldGrowthPolicy(QFormLayout::AllNonFixedFieldsGrow);
    rows->addWidget(holder);
    rows->addStretch(1);
}

void PartSettings::show_part(const report::Setup& setup, int index, const Lengths& lengths) {
    const bool same = index == index_ && index >= 0 && setup == setup_;
    setup_ = setup;
    lengths_ = lengths;
    if (same) return;  // a field that is being typed in stays
    index_ = index < static_cast<int>(setup.parts.size()) ? index : -1;
    clear();
    if (index_ >= 0) fill();
}

void PartSettings::clear() {
    while (form_->rowCount() > 0) form_->removeRow(0);
    title_->clear();
}

void PartSettings::add_text(const char* name, const QString& title, std::string& where) {
    auto* line = new QLineEdit(QString::fromStdString(where), this);
    line->setObjectName(QString::fromLatin1(name));
    line->setPlaceholderText(tr("not stated"));
    connect(line, &QLineEdit::textEdited, this, [this, &where](const QString& text) {
        where = text.toStdString();
        emit edited();
    });
    form_->addRow(title, line);
}

void PartSettings::add_note() {
    auto* note = new QPlainTextEdit(QString::fromStdString(part().note), this);
    note->setObjectName(QStringLiteral("partNote"));
    note->setPlaceholderText(tr("A note of your own below it…"));
    note->setFixedHeight(4 * fontMetrics().height());
    note->setTabChangesFocus(true);
    connect(note, &QPlainTextEdit::textChanged, this, [this, note] {
        part().note = note->toPlainText().toStdString();
        emit edited();
    });
    form_->addRow(note);
}

void PartSettings::add_pictures(bool many) {
    auto* choice = make_choice(this, "partPictures", tr("Pictures"));
    choice->addItem(many ? tr("before and after") : tr("with the drawing"), QStringLiteral("all"));
    choice->addItem(tr("none"), QStringLiteral("none"));
    choice->setCurrentIndex(part().word("pictures", "all") == "none" ? 1 : 0);
    connect(choice, &QComboBox::currentIndexChanged, this, [this, choice] {
        part().words["pictures"] = choice->currentData().toString().toStdString();
        emit edited();
    });
    form_->addRow(tr("Pictures"), choice);
}

// Zero stands for what the program proposes.
void PartSettings::add_length(const char* setting, const QString& title, const QString& help) {
    add_number(setting, title, help, 0, 1e6, lengths_.decimals() + 1, lengths_.suffix(), true);
}

void PartSettings::add_number(const char* setting, const QString& title, const QString& help, double least,
                              double most, int decimals, const QString& suffix, bool is_length) {
    auto* box = new QDoubleSpinBox(this);
    box->setObjectName(QStringLiteral("part_%1").arg(QLatin1String(setting)));
    box->setDecimals(decimals);
    box->setRange(least, most);
    box->setSuffix(suffix);
    box->setToolTip(help);
    box->setAccessibleName(title);
    if (least < 1) box->setSpecialValueText(tr("as proposed"));
    box->setKeyboardTracking(false);
    const double own = part().number(setting, least);
    box->setValue(is_length ? lengths_.shown(own) : own);
    connect(box, &QDoubleSpinBox::valueChanged, this, [this, setting, is_length, least](double v) {
        if (v <= least)
            part().numbers.erase(setting);
        else
            part().numbers[setting] = is_length ? lengths_.data(v) : v;
        emit edited();
    });
    form_->addRow(title, box);
}

void PartSettings::add_base() {
    auto* choice = make_choice(this, "partBase", tr("Stands on"));
    const std::pair<const char*, QString> bases[] = {{"rim", tr("its foot, triangulated")},
                                                     {"lowest", tr("lowest height of its foot")},
                                                     {"mean", tr("mean height of its foot")},
                                                     {"plane", tr("plane through its foot")}};
    for (const auto& [id, words] : bases) {
        choice->addItem(words, QLatin1String(id));
        if (part().word("base", "rim") == id) choice->setCurrentIndex(choice->count() - 1);
    }
    connect(choice, &QComboBox::currentIndexChanged, this, [this, choice] {
        part().words["base"] = choice->currentData().toString().toStdString();
        emit edited();
    });
    form_->addRow(tr("Stands on"), choice);
}

void PartSettings::add_logo() {
    auto* button = make_button(this, "partLogo", setup_.logo.empty() ? tr("Choose…") : tr("Take it out"),
                               tr("PNG or JPEG; stands at the head of the report"));
    connect(button, &QPushButton::clicked, this, [this] {
        if (!setup_.logo.empty()) {
            setup_.logo.clear();
        } else {
            const QString file = QFileDialog::getOpenFileName(this, tr("Picture of the office"),
                                                              QSettings().value("folder").toString(),
                                                              tr("Pictures (*.png *.jpg *.jpeg)"));
            if (file.isEmpty()) return;
            try {
                const InputFile in(file.toStdString());
                setup_.logo = in.read_string(0, in.size());
            } catch (const Error& e) {
                title_->setText(QString::fromStdString(e.what()));
                return;
            }
        }
        emit edited();
        clear();
        fill();
    });
    form_->addRow(tr("Logo"), button);
}

void PartSettings::fill() {
    const std::string& kind = part().kind;
    const QString usual = tr(report::part_kind(kind).title);
    title_->setText(part().title.empty() ? usual : QString::fromStdString(part().title));
    title_->setToolTip(tr(report::part_kind(kind).help));
    if (kind == "site") {
        add_text("reportTitle", tr("Title"), setup_.title);
        add_text("reportClient", tr("Client"), setup_.client);
        add_text("reportPlace", tr("Place"), setup_.place);
        add_text("reportOffice", tr("Office"), setup_.office);
        add_text("reportSurveyor", tr("Surveyor"), setup_.surveyor);
        add_text("reportMethod", tr("Method"), setup_.method);
        add_logo();
    }
    if (kind == "pictures" || kind == "rules" || kind == "ledger") add_pictures(kind == "pictures");
    if (kind == "change" || kind == "piles" || kind == "sections" || kind == "tunnel") add_pictures(false);
    if (kind == "pictures")
        add_number("most", tr("At most"), tr("The largest decisions; others are only in the ledger"), 0, 500,
                   0, {});
    if (kind == "pictures" || kind == "view") {
        add_number("yaw", tr("Looking to"), tr("0 north, 90 east"), -1, 359, 0, QStringLiteral("°"));
    }
    if (kind == "change") add_length("band", tr("Band"), tr("What changed by no more counts as unchanged"));
    if (kind == "piles") {
        add_base();
        add_number("density", tr("Density"), tr("For tonnes"), 0, 30, 2, tr(" t/m³"));
    }
    if (kind == "contours") add_length("interval", tr("Interval"), tr("Between two lines"));
    if (kind == "tunnel") add_length("interval", tr("Stretches"), tr("Length of each"));
    if (kind == "sections") {
        add_length("every", tr("Every"), tr("Along the line"));
        add_length("half_width", tr("To either side"), tr("Of the line"));
        add_number("exaggeration", tr("Heights times"), tr("Heights are drawn larger than distances"), 1, 20,
                   0, {});
    }
    if (kind == "change" || kind == "contours" || kind == "plan" || kind == "sections" || kind == "tunnel")
        add_number("scale", tr("Scale 1 :"), tr("The largest round one that fits, unless you say another"), 0,
                   1e6, 0, {});
    add_note();
}

}  // namespace pristine::app
