#include "app/handover/export_page.h"

#include <QCheckBox>
#include <QComboBox>
#include <QFileDialog>
#include <QFormLayout>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QSettings>
#include <QTreeWidget>
#include <cmath>

#include "app/handover/las_fields.h"
#include "app/look/lengths.h"
#include "app/look/make.h"
#include "app/look/theme.h"
#include "core/base/memory.h"
#include "core/io/ending.h"
#include "core/io/format.h"
#include "core/io/grid/grid_io.h"

namespace pristine::app {

namespace {

namespace fs = std::filesystem;

QString sentences(const std::vector<std::string>& all) {
    QStringList out;
    for (const std::string& s : all) out << QString::fromStdString(s);
    return out.join(QLatin1Char(' '));
}

QString listed(const std::vector<std::string>& names) {
    QStringList out;
    for (const std::string& n : names) out << QString::fromStdString(n);
    return out.join(QStringLiteral(", "));
}

// In millimetres where it is small.
QString moved_words(double data, const Lengths& lengths) {
    const double mm = data * lengths.data_metres() * 1000;
    if (lengths.metres() != 1 || !lengths.known() || mm >= 10) return lengths.brief(data, 1);
    return ExportPage::tr("%1 mm").arg(shown_figure(mm, mm >= 1 ? 1 : mm >= 0.1 ? 2 : 4));
}

QString words_of(const io::Trial& t, const Lengths& lengths) {
    QStringList out;
    if (!t.unit.empty())
        out << ExportPage::tr("Written in %1, as this format wants it.").arg(unit_title(t.unit).toLower());
    if (std::isnan(t.moved))
        out << ExportPage::tr("How far coordinates move could not be told.");
    else if (lengths.shown(t.moved) < 1e-7)
        out << ExportPage::tr("Coordinates stay what they are.");
    else
        out << ExportPage::tr("Coordinates move by up to %1.").arg(moved_words(t.moved, lengths));
    if (!t.columns.empty()) out << ExportPage::tr("Not held: %1.").arg(listed(t.columns));
    if (!t.empty_columns.empty())
        out << ExportPage::tr("Not held, and without a value in the trial: %1.").arg(listed(t.empty_columns));
    if (!t.beside.empty()) out << ExportPage::tr("Beside it: %1.").arg(listed(t.beside));
    if (!t.lost.empty()) out << sentences(t.lost);
    return out.join(QLatin1Char(' '));
}

}  // namespace

ExportPage::ExportPage(Document* document, Jobs* jobs, QWidget* foot, QWidget* parent)
    : Cover("exportPage", foot, parent), document_(document), trying_(jobs) {
    QWidget* side = build_settings();
    list_ = build_list(build_frame(tr("Export: what will be written"), side), "exportFiles",
                       tr("Files that will be written"),
                       {tr("File"), tr("From"), tr("Points or triangles"), tr("About"), tr("On the way")});
    list_->setWordWrap(true);
    list_->setUniformRowHeights(false);
    follow(document_, [this] { fill(); });
}

QWidget* ExportPage::build_settings() {
    QVBoxLayout* rows = nullptr;
    QWidget* side = build_side(rows);
    auto* form = new QFormLayout;
    form->setSpacing(8);
    form->addRow(tr("&What"), what_ = make_choice(side, "exportWhat", tr("What is written")));
    const std::pair<site::Export, QString> all[] = {
        {site::Export::Shown, tr("shown, in one file")},
        {site::Export::EachShown, tr("shown, a file for each item")},
        {site::Export::Withheld, tr("all, out as withheld")},
        {site::Export::Noise, tr("all, out as class 7, noise")},
        {site::Export::HighNoise, tr("all, out as class 18, high noise")},
        {site::Export::Removed, tr("out, of the item in work")},
        {site::Export::Reasons, tr("out, a file for each reason")}};
    for (const auto& [what, words] : all) what_->addItem(words, static_cast<int>(what));
    form->addRow(tr("&Format"), as_ = make_choice(side, "exportFormat", tr("Format")));
    name_ = new QLineEdit(side);
    name_->setObjectName(QStringLiteral("exportName"));
    name_->setAccessibleName(tr("Name of the file"));
    form->addRow(tr("&Name"), name_);
    folder_ = new QLineEdit(side);
    folder_->setObjectName(QStringLiteral("exportFolder"));
    folder_->setAccessibleName(tr("Folder"));
    form->addRow(tr("F&older"), folder_);
    auto* choose = make_button(side, "exportChooseFolder", tr("Choose the folder…"));
    form->addRow(QString(), choose);
    las_ = new LasFields(QStringLiteral("export"), side, form);
    connect(las_, &LasFields::changed, this, &ExportPage::fill);
    rows->addLayout(form);
    rows->addStretch(1);
    replace_ = new QCheckBox(tr("Replace what is there"), side);
    replace_->setObjectName(QStringLiteral("exportReplace"));
    rows->addWidget(replace_);
    rows->addWidget(state_ = make_sentence(side, "exportState"));
    rows->addWidget(write_ = make_main_button(side, "exportWrite", tr("Write")));
    write_->setDefault(true);
    connect(what_, &QComboBox::activated, this, [this] {
        offer_formats();
        recall();
        fill();
    });
    connect(as_, &QComboBox::activated, this, [this] {
        recall();
        fill();
    });
    connect(name_, &QLineEdit::textChanged, this, &ExportPage::follow_files);
    connect(name_, &QLineEdit::textEdited, this, &ExportPage::follow_ending);
    connect(folder_, &QLineEdit::textChanged, this, &ExportPage::follow_files);
    connect(name_, &QLineEdit::returnPressed, this, &ExportPage::write);
    connect(folder_, &QLineEdit::returnPressed, this, &ExportPage::write);
    connect(replace_, &QCheckBox::toggled, this, &ExportPage::follow_files);
    connect(choose, &QPushButton::clicked, this, &ExportPage::choose_folder);
    connect(write_, &QPushButton::clicked, this, &ExportPage::write);
    return side;
}

void ExportPage::open(site::Export what) {
    filling_ = true;
    what_->setCurrentIndex(what_->findData(static_cast<int>(what)));
    const site::SitePtr s = document_->site();
    const site::ItemPtr item = s->active_item();
    const bool out = what == site::Export::Removed || what == site::Export::Reasons;
    std::size_t shown = 0;
    site::ItemPtr one;
    for (const site::ItemPtr& i : s->items)
        if (i->visible) ++shown, one = i;
    const std::string name = out && item ? item->name : shown == 1 ? one->name : s->name;
    QString stem = QString::fromStdString(name);
    stem.replace(QLatin1Char('/'), QLatin1Char('-'));
    name_->setText(what == site::Export::Reasons ? stem
                   : out                         ? tr("%1 out").arg(stem)
                                                 : tr("%1 cleaned").arg(stem));
    folder_->setText(QSettings().value("folder").toString());
    replace_->setChecked(false);
    las_->set_unit(Lengths(*s, item.get()));
    offer_formats();
    recall();
    filling_ = false;
    cover();
    show();
    raise();
    name_->setFocus();
    name_->selectAll();
    fill();
}

// Those that can hold it, the one of last time in hand.
void ExportPage::offer_formats() {
    const site::SitePtr s = document_->site();
    const auto what = static_cast<site::Export>(what_->currentData().toInt());
    const bool out = what == site::Export::Removed || what == site::Export::Reasons;
    site::ItemPtr item = out ? s->active_item() : nullptr;
    for (const site::ItemPtr& i : s->items)
        if (!item && i->visible) item = i;
    const bool triangles = of_triangles_ = item && item->cloud->triangles() != nullptr;
    const bool marked =
        what == site::Export::Withheld || what == site::Export::Noise || what == site::Export::HighNoise;
    as_->clear();
    for (const io::Format& f : io::formats()) {
        const bool fits =
            triangles ? f.holds == io::Format::Holds::Triangles || f.holds == io::Format::Holds::Heights
                      : f.holds == io::Format::Holds::Points;
        if (!fits || !f.writes) continue;
        const QString ending = QString::fromStdString(f.endings.front());
        if (marked && ending != "las" && ending != "laz") continue;
        as_->addItem(QStringLiteral(".%1  %2").arg(ending, QString::fromStdString(f.title)), ending);
    }
    if (!triangles && !marked) as_->addItem(tr(".xml  LandXML survey points"), QStringLiteral("xml"));
    const QString last =
        QSettings()
            .value(triangles ? "export/triangles" : "export/points", triangles ? "xml" : "laz")
            .toString();
    as_->setCurrentIndex(std::max(0, as_->findData(last)));
}

// What was chosen for this format last time.
void ExportPage::recall() {
    if (las()) las_->recall(as_->currentData().toString());
    las_->set_visible(las());
}

void ExportPage::remember() const {
    QSettings kept;
    kept.setValue(of_triangles_ ? "export/triangles" : "export/points", as_->currentData());
    kept.setValue("folder", folder_->text());
    if (las()) las_->remember(as_->currentData().toString());
}

std::string ExportPage::ending() const {
    return as_->currentData().toString().toStdString();
}

bool ExportPage::las() const {
    return ending() == "las" || ending() == "laz";
}

ExportWish ExportPage::wish() const {
    ExportWish w;
    w.what = static_cast<site::Export>(what_->currentData().toInt());
    fs::path name = name_->text().trimmed().toStdString();
    if (io::ending_of(name) != "." + ending()) name += "." + ending();
    w.path = fs::path(folder_->text().trimmed().toStdString()) / name;
    w.replace = replace_->isChecked();
    if (las()) {
        const site::SitePtr s = document_->site();
        w.how.las = las_->options(Lengths(*s, s->active_item().get()));
        w.source_classes = las_->source_classes();
    }
    return w;
}

void ExportPage::fill() {
    if (filling_ || !isVisible()) return;
    const ExportWish w = wish();
    const site::SitePtr s = document_->site();
    std::vector<Row> rows;
    refused_ = false;
    try {
        for (auto& file : site::export_files(*s, w.what)) rows.push_back({std::move(file), {}, {}});
    } catch (const Error& e) {
        trying_.drop();
        list_->clear();
        files_.clear();
        refused_ = true;
        state_->setText(QString::fromStdString(e.what()));
        write_->setEnabled(false);
        replace_->hide();
        return;
    }
    show_rows(rows);
    if (io::is_grid_ending(w.path)) return trying_.drop();
    trying_.start<std::vector<Row>>(
        tr("Trying what would be written"),
        [w, rows](Progress& p, std::vector<Row>& out) {
            out = rows;
            for (Row& row : out) {
                try {
                    row.trial = io::try_write(site::records_of(row.file, w.source_classes, p),
                                              site::file_of(w.path, row.file), w.how, p);
                } catch (const Error& e) {
                    row.refused = e.what();
                }
            }
        },
        [this](std::vector<Row>& out) { show_rows(out); },
        [this](const QString& why) {
            if (!why.isEmpty()) state_->setText(why);
        },
        Jobs::Show::IfLong);
}

void ExportPage::show_rows(const std::vector<Row>& rows) {
    list_->clear();
    files_.clear();
    refused_ = false;
    for (const Row& row : rows) {
        files_.push_back(row.file);
        refused_ = refused_ || !row.refused.empty();
        show_row(new QTreeWidgetItem(list_), row);
    }
    list_->setColumnWidth(0, 190);
    list_->setColumnWidth(1, 120);
    list_->setColumnWidth(2, 124);
    list_->setColumnWidth(3, 76);
    fit_rows();
    follow_files();
}

void ExportPage::show_row(QTreeWidgetItem* at, const Row& row) const {
    QStringList from;
    for (const site::ItemPtr& i : row.file.items) from << QString::fromStdString(i->name);
    std::uint64_t n = 0;
    for (const ElementSet& e : row.file.elements) n += e.count();
    at->setText(0, QString::fromStdString(site::file_of(wish().path, row.file).filename().string()));
    at->setText(1, from.join(QStringLiteral(", ")));
    at->setText(2, grouped(n));
    const site::SitePtr s = document_->site();
    const Lengths lengths(*s, row.file.items.front().get());
    if (row.trial) {
        at->setText(3, QString::fromStdString(bytes_text(row.trial->bytes)));
        QString words =
            row.trial->format.empty() ? QString() : QString::fromStdString(row.trial->format) + ". ";
        words += words_of(*row.trial, lengths);
        if (const auto stale = site::stale_in(*s, row.file); !stale.empty()) words += ' ' + sentences(stale);
        at->setText(4, words);
    } else if (!row.refused.empty()) {
        at->setText(4, tr("Cannot be written: %1").arg(QString::fromStdString(row.refused)));
    } else {
        at->setText(4, io::is_grid_ending(wish().path) ? tr("The side of a cell is asked for next.")
                                                       : tr("Being tried…"));
    }
    for (const int c : {2, 3}) at->setTextAlignment(c, Qt::AlignRight | Qt::AlignVCenter);
    for (const int c : {0, 1, 4}) {
        at->setTextAlignment(c, Qt::AlignLeft | Qt::AlignVCenter);
        at->setToolTip(c, at->text(c));
    }
}

// As high as what stands in them.
void ExportPage::fit_rows() {
    const QFontMetrics m(list_->font());
    const int last = list_->columnCount() - 1;
    int before = 0;
    for (int c = 0; c < last; ++c) before += list_->columnWidth(c);
    for (int k = 0; k < list_->topLevelItemCount(); ++k) {
        QTreeWidgetItem* at = list_->topLevelItem(k);
        int high = 0;
        for (int c = 0; c <= last; ++c) {
            const int wide = (c == last ? list_->viewport()->width() - before : list_->columnWidth(c)) - 16;
            const QRect room(0, 0, std::max(40, wide), 100'000);
            high = std::max(high, m.boundingRect(room, Qt::TextWordWrap, at->text(c)).height());
        }
        at->setSizeHint(last, QSize(0, high + 12));
    }
}

void ExportPage::resizeEvent(QResizeEvent* e) {
    Cover::resizeEvent(e);
    fit_rows();
}

// An ending that is typed chooses its format.
void ExportPage::follow_ending(const QString& typed) {
    std::string e = io::ending_of(typed.trimmed().toStdString());
    if (e.empty()) return;
    const int at = as_->findData(QString::fromStdString(e.substr(1)));
    if (at < 0 || at == as_->currentIndex()) return;
    as_->setCurrentIndex(at);
    recall();
    fill();
}

// Names and places as they are typed: what is there already is only replaced when a person says so.
void ExportPage::follow_files() {
    if (filling_ || files_.empty()) return;
    const ExportWish w = wish();
    std::error_code fault;
    int there = 0;
    for (std::size_t k = 0; k < files_.size(); ++k) {
        const fs::path file = site::file_of(w.path, files_[k]);
        there += fs::exists(file, fault) ? 1 : 0;
        list_->topLevelItem(static_cast<int>(k))
            ->setText(0, QString::fromStdString(file.filename().string()));
    }
    QString why;
    if (name_->text().trimmed().isEmpty())
        why = tr("Give the file a name.");
    else if (!fs::is_directory(w.path.parent_path(), fault))
        why = tr("There is no such folder.");
    else if (refused_)
        why = tr("Some of it cannot be written: see the list.");
    else if (there > 0 && !replace_->isChecked())
        why = there == 1 ? tr("The file is there already.")
                         : tr("%n of the file(s) are there already.", "", there);
    replace_->setVisible(there > 0);
    state_->setText(why);
    write_->setEnabled(why.isEmpty());
}

void ExportPage::choose_folder() {
    const QString folder =
        QFileDialog::getExistingDirectory(this, tr("Folder of the export"), folder_->text());
    if (!folder.isEmpty()) folder_->setText(folder);
}

void ExportPage::write() {
    if (!write_->isEnabled() || files_.empty()) return;
    const ExportWish w = wish();
    remember();
    go_back();
    if (io::is_grid_ending(w.path))
        emit grid_wanted(w);
    else
        document_->export_files(w);
}

}  // namespace pristine::app
