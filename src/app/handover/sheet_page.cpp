#include "app/handover/sheet_page.h"

#include <QButtonGroup>
#include <QComboBox>
#include <QCoreApplication>
#include <QDate>
#include <QFileDialog>
#include <QFormLayout>
#include <QHBoxLayout>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QSettings>
#include <QTimer>
#include <algorithm>

#include "app/handover/material.h"
#include "app/look/make.h"
#include "app/model/document.h"
#include "core/base/figure.h"
#include "core/base/units.h"
#include "core/io/ending.h"
#include "core/report/figures/map.h"
#include "core/report/orthophoto.h"

namespace pristine::app {

SheetPage::SheetPage(Document* document, Jobs* jobs, QWidget* foot, QWidget* parent)
    : Cover("sheetPage", foot, parent), document_(document), latest_(jobs), writing_(jobs) {
    QVBoxLayout* middle = build_frame(tr("Plan sheet"), build_settings());
    middle->addWidget(view_ = new PageView(this), 1);
    view_->setObjectName(QStringLiteral("sheetView"));
    view_->setAccessibleName(tr("The sheet"));
    soon_ = new QTimer(this);
    soon_->setSingleShot(true);
    soon_->setInterval(350);
    connect(soon_, &QTimer::timeout, this, &SheetPage::draw);
    follow(document_, [this] {
        fill_parts();
        draw();
    });
}

QWidget* SheetPage::build_settings() {
    QVBoxLayout* rows = nullptr;
    QWidget* side = build_side(rows);
    auto* form = new QFormLayout;
    form->setSpacing(8);
    form->setFieldGrowthPolicy(QFormLayout::AllNonFixedFieldsGrow);
    form->addRow(tr("On it"), what_ = make_choice(side, "sheetWhat", tr("What is on the sheet")));
    form->addRow(tr("Scale"), scale_ = make_choice(side, "sheetScale", tr("Scale")));
    form->addRow(tr("Paper"), size_ = make_choice(side, "sheetSize", tr("Size of the paper")));
    form->addRow(QString(), way_ = make_choice(side, "sheetWay", tr("How the paper lies")));
    form->addRow(tr("Title"), title_line_ = new QLineEdit(side));
    form->addRow(tr("Number"), number_ = new QLineEdit(side));
    title_line_->setObjectName(QStringLiteral("sheetTitle"));
    number_->setObjectName(QStringLiteral("sheetNumber"));
    for (const report::PageSize& s : report::page_sizes()) size_->addItem(QString::fromLatin1(s.name));
    size_->setCurrentText(QStringLiteral("A3"));
    way_->addItems({tr("on its side"), tr("upright")});
    scale_->addItem(tr("the largest round one that fits"), 0);
    for (const int n : report::round_scales())
        if (n >= 20 && n <= 100'000)
            scale_->addItem(QStringLiteral("1 : %1").arg(QString::fromStdString(figure(n, 0))), n);
    rows->addLayout(form);
    auto* hint = make_sentence(side, "sheetHint");
    hint->setText(tr("Client, office, surveyor and logo are those of the report."));
    rows->addWidget(hint);
    rows->addStretch(1);
    rows->addWidget(state_ = make_sentence(side, "sheetState"));
    auto* choices = new QHBoxLayout;
    choices->setSpacing(0);
    formats_ = new QButtonGroup(this);
    for (const char* f : {"PDF", "SVG", "PNG", "DXF", "TIF"}) {
        QPushButton* b = make_button(side, f, QString::fromLatin1(f));
        b->setObjectName(QStringLiteral("sheet%1").arg(QLatin1String(f)));
        b->setCheckable(true);
        b->setToolTip(b->text() == "TIF"
                          ? tr("The ground alone from above, as GeoTIFF with its place and system")
                      : b->text() == "DXF" ? tr("Lines and words in layers; a plan at its place in the world")
                                           : QString());
        formats_->addButton(b);
        choices->addWidget(b, 1);
    }
    formats_->buttons().front()->setChecked(true);
    rows->addLayout(choices);
    rows->addWidget(write_ = make_main_button(side, "sheetWrite", tr("Write PDF…")));
    const auto again = [this] {
        if (!filling_) draw();
    };
    for (QComboBox* c : {what_, scale_, size_, way_})
        connect(c, &QComboBox::currentIndexChanged, this, again);
    for (QLineEdit* l : {title_line_, number_})
        connect(l, &QLineEdit::textEdited, this, [this] { soon_->start(); });
    connect(formats_, &QButtonGroup::buttonClicked, this, [this] { say_state(); });
    connect(write_, &QPushButton::clicked, this, &SheetPage::choose_file);
    return side;
}

void SheetPage::open() {
    cover();
    setup_ = kept_setup(*document_);
    fill_parts();
    show();
    raise();
    view_->setFocus();
    draw();
}

void SheetPage::fill_parts() {
    filling_ = true;
    const QString was = what_->currentText();
    what_->clear();
    parts_.clear();
    for (const report::PartSetup& p : report::on_site(setup_, *document_->site()).parts) {
        const auto& kinds = report::sheet_kinds();
        if (std::find(kinds.begin(), kinds.end(), p.kind) == kinds.end()) continue;
        parts_.push_back(p);
        what_->addItem(
            p.title.empty() ? tr(report::part_kind(p.kind).title) : QString::fromStdString(p.title),
            QString::fromStdString(p.kind));
    }
    what_->setCurrentIndex(std::max(0, what_->findText(was)));
    filling_ = false;
}

report::SheetSetup SheetPage::setup() const {
    report::SheetSetup s;
    s.part = parts_[static_cast<std::size_t>(what_->currentIndex())];
    s.part.numbers["scale"] = scale_->currentData().toInt();
    s.page.size = size_->currentText().toStdString();
    s.page.landscape = way_->currentIndex() == 0;
    const QString title = title_line_->text().trimmed();
    s.title = (title.isEmpty() ? what_->currentText() : title).toStdString();
    s.number = number_->text().trimmed().toStdString();
    s.client = setup_.client;
    s.place = setup_.place;
    s.office = setup_.office;
    s.surveyor = setup_.surveyor;
    s.logo = setup_.logo;
    return s;
}

void SheetPage::draw() {
    soon_->stop();
    fresh_ = false;
    if (what_->currentIndex() < 0) return;
    latest_.start<std::vector<report::Sheet>>(
        tr("Drawing the sheet"),
        [m = material_of(*document_), s = setup()](Progress& p, std::vector<report::Sheet>& made) {
            made = report::sheets_of(m, s, p);
        },
        [this](std::vector<report::Sheet>& made) { take(made); },
        [this](const QString& why) {
            state_->setText(why.isEmpty() ? tr("Stopped: what is shown is older.") : why);
            write_->setEnabled(false);
        },
        Jobs::Show::IfLong);
    say_state();
}

void SheetPage::take(std::vector<report::Sheet>& made) {
    sheets_ = std::move(made);
    fresh_ = true;
    auto pages = std::make_shared<std::vector<report::Drawing>>();
    for (const report::Sheet& s : sheets_) pages->push_back(s.drawing);
    view_->set_pages(pages);
    say_state();
}

QString SheetPage::ending() const {
    return formats_->checkedButton() ? formats_->checkedButton()->text().toLower() : QStringLiteral("pdf");
}

void SheetPage::say_state() {
    write_->setEnabled(fresh_);
    write_->setText(tr("Write %1…").arg(ending().toUpper()));
    if (!fresh_) return state_->setText(tr("The sheet is being drawn…"));
    const int scale = sheets_.front().scale;
    const QString sheets = tr("%n sheet(s)", "", static_cast<int>(sheets_.size()));
    state_->setText(scale > 0 ? tr("%1, 1 : %2").arg(sheets, QString::fromStdString(figure(scale, 0)))
                              : tr("%1, not to scale").arg(sheets));
}

void SheetPage::choose_file() {
    const QString folder = QSettings().value("folder").toString();
    const QString name =
        title_line_->text().trimmed().isEmpty() ? what_->currentText() : title_line_->text().trimmed();
    QString file = QFileDialog::getSaveFileName(
        this, tr("Write the sheet"), folder + QLatin1Char('/') + name + QLatin1Char('.') + ending(),
        QStringLiteral("%1 (*.%2)").arg(ending().toUpper(), ending()));
    if (file.isEmpty()) return;
    if (!file.endsWith(QLatin1Char('.') + ending(), Qt::CaseInsensitive)) file += QLatin1Char('.') + ending();
    write(file.toStdString(), true);  // the dialog has asked
}

void SheetPage::write(const std::filesystem::path& path, bool replace) {
    if (!fresh_) return;
    const cloud::Reference reference = site::reference_of(*document_->site());
    writing_.start<std::string>(
        tr("Writing %1").arg(QString::fromStdString(path.filename().string())),
        [path, replace, reference, sheets = sheets_, s = setup(), m = material_of(*document_)](
            Progress& p, std::string& written) {
            if (io::ending_of(path) == ".tif") {
                report::write_ground_picture(m, {s.part.items, 0}, path, replace, p);
                written = path.string();
                return;
            }
            for (const auto& file :
                 report::write_sheets(sheets, {s.title, s.surveyor, m.site->name, m.program, {}}, path,
                                      replace, reference, length_unit(reference.unit).metres))
                written += (written.empty() ? "" : ", ") + file.string();
        },
        [this, path](std::string& written) {
            emit said(tr("Written: %1").arg(QString::fromStdString(written)), false);
            std::error_code fault;  // several sheets are files of other names
            if (std::filesystem::exists(path, fault)) emit wrote(path);
        },
        [this](const QString& why) {
            if (!why.isEmpty()) emit said(why, true);
        });
}

}  // namespace pristine::app
