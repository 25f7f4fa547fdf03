#include "app/handover/deliver_page.h"

#include <QCheckBox>
#include <QComboBox>
#include <QFileDialog>
#include <QFormLayout>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QLabel>
#include <QPushButton>
#include <QSettings>
#include <QTreeWidget>
#include <nlohmann/json.hpp>

#include "app/handover/las_fields.h"
#include "app/handover/material.h"
#include "app/look/lengths.h"
#include "app/look/make.h"
#include "app/look/theme.h"
#include "app/model/document.h"
#include "core/io/cloud_io.h"
#include "core/io/ending.h"

namespace pristine::app {

namespace {

QString role_words(const std::string& role) {
    const std::pair<const char*, QString> words[] = {{"cleaned", DeliverPage::tr("cleaned points")},
                                                     {"removed", DeliverPage::tr("removed, by reason")},
                                                     {"surface", DeliverPage::tr("surface")},
                                                     {"mesh", DeliverPage::tr("mesh")},
                                                     {"lines", DeliverPage::tr("lines")},
                                                     {"ledger", DeliverPage::tr("every decision")},
                                                     {"recipe", DeliverPage::tr("rules")},
                                                     {"report", DeliverPage::tr("report")},
                                                     {"sheet", DeliverPage::tr("plan sheet")},
                                                     {"source", DeliverPage::tr("copy of the source")},
                                                     {"manifest", DeliverPage::tr("checksums of all")}};
    for (const auto& [id, said] : words)
        if (role == id) return said;
    return QString::fromStdString(role);
}

}  // namespace

DeliverPage::DeliverPage(Document* document, Jobs* jobs, QWidget* foot, QWidget* parent)
    : Cover("deliverPage", foot, parent), document_(document), planning_(jobs), writing_(jobs) {
    QWidget* side = build_settings();
    list_ = build_list(build_frame(tr("Deliverable: what will be written"), side), "deliverFiles",
                       tr("Files of the deliverable"),
                       {tr("File"), tr("What it is"), tr("Records"), tr("What the format has no place for")});
    list_->setTextElideMode(Qt::ElideMiddle);
    follow(document_, [this] { fill(); });
}

QWidget* DeliverPage::build_settings() {
    QVBoxLayout* rows = nullptr;
    QWidget* side = build_side(rows);
    auto* form = new QFormLayout;
    form->setSpacing(8);
    form->addRow(tr("Clouds as"), points_ = make_choice(side, "deliverPoints", tr("Format of clouds")));
    points_->addItem(tr("as their source"), QString());
    for (const io::CloudFormat& f : io::cloud_formats())
        if (f.write && f.id != "triangles")
            points_->addItem(QString::fromStdString(f.title), QString::fromStdString(f.extensions.front()));
    las_ = new LasFields(QStringLiteral("deliver"), side, form);
    connect(las_, &LasFields::changed, this, &DeliverPage::fill);
    form->addRow(tr("Packed as"), as_ = make_choice(side, "deliverAs", tr("Folder or zip")));
    as_->addItems({tr("a folder"), tr("a zip")});
    rows->addLayout(form);
    const auto box = [&](const char* name, const QString& text, const QString& help, bool on) {
        auto* b = new QCheckBox(text, side);
        b->setObjectName(QString::fromLatin1(name));
        b->setToolTip(help);
        b->setChecked(on);
        rows->addWidget(b);
        connect(b, &QCheckBox::toggled, this, &DeliverPage::fill);
        return b;
    };
    removed_ = box("deliverRemoved", tr("What was removed, by reason"),
                   tr("So that another office can put it all together again"), true);
    merged_ = box("deliverMerged", tr("All cleaned clouds also in one file"), {}, false);
    report_ = box("deliverReport", tr("The report, as PDF, HTML, CSV and JSON"),
                  tr("As it is set up under Hand over, Report"), true);
    sheet_ = box("deliverSheet", tr("A plan sheet of what is shown"),
                 tr("A3, at the largest round scale that fits"), false);
    sources_ = box("deliverSources", tr("Copies of the sources"),
                   tr("Then it can be checked by itself, record for record"), false);
    rows->addStretch(1);
    rows->addWidget(state_ = make_sentence(side, "deliverState"));
    auto* check = make_button(side, "deliverCheck", tr("Check one that is there…"),
                              tr("Checksums, counts, and cleaned and removed against the source"));
    rows->addWidget(check);
    rows->addWidget(write_ = make_main_button(side, "deliverWrite", tr("Write…")));
    connect(points_, &QComboBox::currentIndexChanged, this, &DeliverPage::fill);
    connect(write_, &QPushButton::clicked, this, &DeliverPage::choose_place);
    connect(check, &QPushButton::clicked, this, &DeliverPage::choose_check);
    return side;
}

void DeliverPage::open() {
    cover();
    show();
    raise();
    list_->setFocus();
    state_->clear();
    const site::SitePtr s = document_->site();
    las_->set_unit(Lengths(*s, s->active_item().get()));
    las_->recall(QStringLiteral("deliverable"));
    fill();
}

report::DeliverableSetup DeliverPage::setup() const {
    report::DeliverableSetup s;
    s.points = points_->currentData().toString().toStdString();
    const site::SitePtr now = document_->site();
    s.las = las_->options(Lengths(*now, now->active_item().get()));
    s.source_classes = las_->source_classes();
    s.removed = removed_->isChecked();
    s.merged = merged_->isChecked();
    s.sources = sources_->isChecked();
    const report::Setup report = kept_setup(*document_);
    if (report_->isChecked()) s.report = report;
    if (sheet_->isChecked()) {
        report::SheetSetup sheet;
        sheet.part.kind = "plan";
        sheet.title = report::part_kind("plan").title;
        sheet.client = report.client;
        sheet.place = report.place;
        sheet.office = report.office;
        sheet.surveyor = report.surveyor;
        sheet.logo = report.logo;
        s.sheets.push_back(std::move(sheet));
    }
    return s;
}

void DeliverPage::fill() {
    if (!isVisible()) return;
    planning_.start<report::DeliverablePlan>(
        tr("Looking what would be written"),
        [m = material_of(*document_), s = setup()](Progress&, report::DeliverablePlan& plan) {
            plan = report::deliverable_plan(m, s);
        },
        [this](report::DeliverablePlan& plan) {
            list_->clear();
            for (const auto& f : plan.files) {
                auto* row = new QTreeWidgetItem(
                    list_, {QString::fromStdString(f.path), role_words(f.role),
                            f.records > 0 ? grouped(f.records) : QString(), QString::fromStdString(f.lost)});
                row->setTextAlignment(2, Qt::AlignRight | Qt::AlignVCenter);
                row->setToolTip(0, row->text(0));
                row->setToolTip(3, row->text(3));
            }
            for (int c = 0; c < 3; ++c) list_->resizeColumnToContents(c);
        },
        [this](const QString& why) { state_->setText(why); }, Jobs::Show::IfLong);
}

void DeliverPage::choose_place() {
    const bool zip = as_->currentIndex() == 1;
    const QString folder = QSettings().value("folder").toString();
    QString name = QString::fromStdString(document_->site()->name);
    name.replace(QLatin1Char('/'), QLatin1Char('-'));
    QString place = QFileDialog::getSaveFileName(this, tr("Write the deliverable"),
                                                 folder + QLatin1Char('/') + name + (zip ? ".zip" : ""),
                                                 zip ? QStringLiteral("Zip (*.zip)") : tr("Folders (*)"));
    if (place.isEmpty()) return;
    if (zip && io::ending_of(place.toStdString()) != ".zip") place += QStringLiteral(".zip");
    write(place.toStdString(), true);  // the dialog has asked; what is no deliverable is refused all the same
}

void DeliverPage::write(const std::filesystem::path& path, bool replace) {
    write_->setEnabled(false);
    las_->remember(QStringLiteral("deliverable"));
    writing_.start<nlohmann::json>(
        tr("Writing the deliverable"),
        [m = material_of(*document_), s = setup(), path, replace](Progress& p, nlohmann::json& manifest) {
            manifest = report::deliver(m, s, path, replace, p);
        },
        [this, path](nlohmann::json& manifest) {
            write_->setEnabled(true);
            const QString text =
                tr("Written: %1, %2")
                    .arg(QString::fromStdString(path.string()),
                         tr("%n file(s)", "", static_cast<int>(manifest.at("files").size())));
            state_->setText(text);
            emit said(text, false);
            emit wrote(path);
        },
        [this](const QString& why) {
            write_->setEnabled(true);
            state_->setText(why.isEmpty() ? tr("Stopped: nothing was written.") : why);
            if (!why.isEmpty()) emit said(why, true);
        });
}

void DeliverPage::choose_check() {
    const QString file = QFileDialog::getOpenFileName(
        this, tr("Manifest or zip of a deliverable"), QSettings().value("folder").toString(),
        QStringLiteral("manifest.json, zip (manifest.json *.zip)"));
    if (file.isEmpty()) return;
    const std::filesystem::path path = file.toStdString();
    check(path.filename() == report::kManifest ? path.parent_path() : path);
}

void DeliverPage::check(const std::filesystem::path& path) {
    checked_.reset();
    writing_.start<report::Verified>(
        tr("Checking the deliverable"),
        [path](Progress& p, report::Verified& v) { v = report::verify(path, {}, p); },
        [this](report::Verified& v) {
            QStringList lines;
            for (const std::string& p : v.problems) lines << tr("Wrong: %1").arg(QString::fromStdString(p));
            for (const std::string& n : v.notes) lines << QString::fromStdString(n);
            if (v.sound())
                lines.prepend(tr("Nothing is wrong: %1, %2 compared with their source record for record.")
                                  .arg(tr("%n file(s)", "", static_cast<int>(v.files)),
                                       tr("%n item(s)", "", static_cast<int>(v.against_source))));
            state_->setText(lines.mid(0, 8).join(QLatin1Char('\n')) +
                            (lines.size() > 8 ? tr("\nand %1 more").arg(lines.size() - 8) : QString()));
            emit said(v.sound() ? tr("The deliverable is as it was written.")
                                : tr("The deliverable is not what was written."),
                      !v.sound());
            checked_ = std::move(v);
        },
        [this](const QString& why) {
            state_->setText(why);
            if (!why.isEmpty()) emit said(why, true);
        });
}

}  // namespace pristine::app
