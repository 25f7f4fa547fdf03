#include "app/handover/report_page.h"

#include <QButtonGroup>
#include <QComboBox>
#include <QFileDialog>
#include <QHBoxLayout>
#include <QInputDialog>
#include <QLabel>
#include <QListWidget>
#include <QPainter>
#include <QPushButton>
#include <QSettings>
#include <QTimer>
#include <QVBoxLayout>
#include <nlohmann/json.hpp>

#include "app/handover/material.h"
#include "app/handover/part_settings.h"
#include "app/look/make.h"
#include "app/look/scrolled_column.h"
#include "app/model/document.h"
#include "core/base/output.h"

namespace pristine::app {

namespace {

constexpr int kPart = Qt::UserRole;  // its place in the setup
constexpr int kThumb = 72;

const char* ending_of(const QString& format) {
    return format == "PDF" ? "pdf" : format == "HTML" ? "html" : format == "CSV" ? "csv" : "json";
}

QString title_of(const report::PartSetup& p) {
    return p.title.empty() ? ReportPage::tr(report::part_kind(p.kind).title)
                           : QString::fromStdString(p.title);
}

}  // namespace

ReportPage::ReportPage(Document* document, Jobs* jobs, QWidget* foot, QWidget* parent)
    : Cover("reportPage", foot, parent), document_(document), latest_(jobs), writing_(jobs) {
    auto* columns = new QHBoxLayout(this);
    columns->setContentsMargins(0, 0, 0, 0);
    columns->setSpacing(0);
    columns->addWidget(build_pages());
    columns->addWidget(build_middle(), 1);
    columns->addWidget(build_parts());
    soon_ = new QTimer(this);
    soon_->setSingleShot(true);
    soon_->setInterval(350);
    connect(soon_, &QTimer::timeout, this, &ReportPage::compose);
    connect(document_, &Document::changed, this, &ReportPage::follow_site);
    connect(document_, &Document::replaced, this, [this] {
        if (isVisible()) go_back();
    });
}

QWidget* ReportPage::build_pages() {
    auto* side = new QWidget(this);
    side->setFixedWidth(200);
    side->setStyleSheet(QStringLiteral("background: #ECE7DD;"));
    auto* rows = new QVBoxLayout(side);
    rows->setContentsMargins(8, 12, 0, 8);
    auto* head = new QHBoxLayout;
    auto* name = new QLabel(tr("Pages"), side);
    name->setStyleSheet(QStringLiteral("font-weight: bold; font-size: 12pt;"));
    head->addWidget(name);
    head->addStretch(1);
    head->addWidget(count_ = new QLabel(side));
    count_->setObjectName(QStringLiteral("reportCount"));
    head->addSpacing(8);
    rows->addLayout(head);
    thumbs_ = new QListWidget(side);
    thumbs_->setObjectName(QStringLiteral("reportThumbs"));
    thumbs_->setAccessibleName(tr("Pages"));
    thumbs_->setFrameShape(QFrame::NoFrame);
    thumbs_->setIconSize(QSize(kThumb, 108));
    thumbs_->setWordWrap(true);
    thumbs_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    mark_row(thumbs_);
    rows->addWidget(thumbs_, 1);
    connect(thumbs_, &QListWidget::currentRowChanged, this, [this](int row) {
        if (!filling_ && row >= 0 && row != view_->current()) view_->show_page(row);
    });
    return side;
}

QWidget* ReportPage::build_middle() {
    auto* middle = new QWidget(this);
    auto* rows = new QVBoxLayout(middle);
    rows->setContentsMargins(0, 0, 0, 0);
    rows->setSpacing(0);
    QHBoxLayout* top = build_head(rows);
    auto* less = make_button(middle, "reportSmaller", QStringLiteral("\u2212"), tr("Smaller (Ctrl+wheel)"));
    auto* more = make_button(middle, "reportLarger", QStringLiteral("+"), tr("Larger (Ctrl+wheel)"));
    for (QPushButton* b : {less, more}) b->setFixedWidth(32);
    top->addWidget(less);
    top->addWidget(more);
    rows->addWidget(view_ = new PageView(middle), 1);
    connect(less, &QPushButton::clicked, this, [this] { view_->zoom(1 / 1.25); });
    connect(more, &QPushButton::clicked, this, [this] { view_->zoom(1.25); });
    connect(view_, &PageView::current_changed, this, [this](int page) {
        const bool was = filling_;
        filling_ = true;
        thumbs_->setCurrentRow(page);
        filling_ = was;
    });
    return middle;
}

QWidget* ReportPage::build_parts() {
    QVBoxLayout* rows = nullptr;
    QWidget* side = build_side(rows);
    auto* head = new QHBoxLayout;
    auto* name = new QLabel(tr("Parts"), side);
    name->setStyleSheet(QStringLiteral("font-weight: bold; font-size: 12pt;"));
    head->addWidget(name);
    head->addStretch(1);
    head->addWidget(templates_ = make_choice(side, "reportTemplate", tr("Template")));
    templates_->setMinimumWidth(190);
    rows->addLayout(head);
    auto* hint = make_sentence(side, "reportHint");
    hint->setText(tr("Drag to order, tick to take in, double-click to rename."));
    rows->addWidget(hint);
    parts_ = new QListWidget(side);
    parts_->setObjectName(QStringLiteral("reportParts"));
    parts_->setAccessibleName(tr("Parts of the report"));
    parts_->setFrameShape(QFrame::NoFrame);
    parts_->setDragDropMode(QAbstractItemView::InternalMove);
    parts_->setDefaultDropAction(Qt::MoveAction);
    parts_->setEditTriggers(QAbstractItemView::DoubleClicked | QAbstractItemView::EditKeyPressed);
    parts_->setTextElideMode(Qt::ElideMiddle);
    parts_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    mark_row(parts_);
    rows->addWidget(parts_, 3);
    settings_ = new PartSettings(side);
    auto* scroll = new ScrolledColumn(side);
    scroll->setWidget(settings_);
    rows->addWidget(scroll, 3);
    build_foot(rows);
    connect(parts_, &QListWidget::currentRowChanged, this, &ReportPage::take_row);
    connect(parts_->model(), &QAbstractItemModel::rowsMoved, this, &ReportPage::take_order);
    connect(parts_, &QListWidget::itemChanged, this, &ReportPage::take_order);
    connect(settings_, &PartSettings::edited, this, [this] {
        setup_ = settings_->setup();
        keep_setup();
        soon_->start();
    });
    connect(templates_, &QComboBox::activated, this, &ReportPage::choose_template);
    return side;
}

void ReportPage::build_foot(QVBoxLayout* rows) {
    QWidget* side = parts_->parentWidget();
    rows->addWidget(state_ = make_sentence(side, "reportState"));
    auto* choices = new QHBoxLayout;
    choices->setSpacing(0);
    formats_ = new QButtonGroup(this);
    for (const char* f : {"PDF", "HTML", "CSV", "JSON"}) {
        QPushButton* b = make_button(side, f, QString::fromLatin1(f));
        b->setObjectName(QStringLiteral("format%1").arg(QLatin1String(f)));
        b->setCheckable(true);
        formats_->addButton(b);
        choices->addWidget(b, 1);
    }
    formats_->buttons().front()->setChecked(true);
    rows->addLayout(choices);
    choices = new QHBoxLayout;
    choices->setSpacing(8);
    choices->addWidget(size_ = make_choice(side, "reportSize", tr("Size of the pages")), 1);
    for (const report::PageSize& s : report::page_sizes()) size_->addItem(QString::fromLatin1(s.name));
    choices->addWidget(way_ = make_choice(side, "reportWay", tr("How the pages lie")), 1);
    way_->addItems({tr("upright"), tr("on its side")});
    rows->addLayout(choices);
    rows->addWidget(write_ = make_main_button(side, "reportWrite", tr("Write PDF…")));
    rows->addWidget(about_ = make_sentence(side, "reportAbout"));
    connect(formats_, &QButtonGroup::buttonClicked, this, [this] { say_state(); });
    const auto page = [this] {
        if (filling_) return;
        setup_.page.size = size_->currentText().toStdString();
        setup_.page.landscape = way_->currentIndex() == 1;
        keep_setup();
        compose();
    };
    connect(size_, &QComboBox::currentIndexChanged, this, page);
    connect(way_, &QComboBox::currentIndexChanged, this, page);
    connect(write_, &QPushButton::clicked, this, &ReportPage::choose_file);
}

void ReportPage::open() {
    cover();
    setup_ = kept_setup(*document_);
    show();
    raise();
    view_->setFocus();
    fill_templates();
    fill_parts();
    compose();
}

void ReportPage::keep_setup() {
    document_->keep_note(report::kSetupNote, report::json_of(setup_));
    QSettings own;
    own.setValue("report/office", QString::fromStdString(setup_.office));
    own.setValue("report/surveyor", QString::fromStdString(setup_.surveyor));
    own.setValue("report/logo", QByteArray::fromStdString(setup_.logo).toBase64());
    own.setValue("report/size", QString::fromStdString(setup_.page.size));
}

void ReportPage::follow_site() {
    if (!isVisible()) return;
    setup_ = report::on_site(setup_, *document_->site());
    fill_parts();
    compose();
}

void ReportPage::compose() {
    soon_->stop();
    fresh_ = false;
    const report::Material m = material_of(*document_);
    made_of_ = m.site;
    latest_.start<Made>(
        tr("Composing the report"),
        [m, setup = setup_, cache = cache_](Progress& p, Made& made) {
            made.cache = cache;
            {
                const Progress::Part part(p, 0, 0.9, "Parts");
                made.report =
                    std::make_shared<const report::Report>(report::compose(m, setup, p, &made.cache));
            }
            const Progress::Part part(p, 0.9, 1, "Pages");
            made.pages = report::pages_of(*made.report, setup.page, p);
        },
        [this](Made& made) { take(made); },
        [this](const QString& why) {
            state_->setText(why.isEmpty() ? tr("Stopped: what is shown is older.") : why);
            write_->setEnabled(false);
        },
        Jobs::Show::IfLong);
    say_state();
}

void ReportPage::take(Made& made) {
    report_ = made.report;
    cache_ = std::move(made.cache);
    pages_ = std::move(made.pages);
    fresh_ = true;
    view_->set_pages(std::make_shared<const std::vector<report::Drawing>>(pages_.sheets));
    fill_pages();
    fill_parts();
    say_state();
}

void ReportPage::fill_pages() {
    filling_ = true;
    const int row = thumbs_->currentRow();
    thumbs_->clear();
    for (int k = 0; k < view_->pages(); ++k) {
        // The first part that begins on it, else the one that goes on.
        QString title;
        bool begins = false;
        for (std::size_t p = 0; p < pages_.first_page.size() && !begins; ++p) {
            if (pages_.first_page[p] > k + 1) break;
            title = QString::fromStdString(report_->parts[p].title);
            begins = pages_.first_page[p] == k + 1;
        }
        const report::Drawing& d = pages_.sheets[static_cast<std::size_t>(k)];
        QPixmap small = QPixmap::fromImage(picture_of_page(d, kThumb));
        QPainter edge(&small);
        edge.setPen(QColor(0x85, 0x7E, 0x70));
        edge.drawRect(small.rect().adjusted(0, 0, -1, -1));
        edge.end();
        QIcon icon(small);
        icon.addPixmap(small, QIcon::Selected);  // else it would be tinted in the row in hand
        auto* item = new QListWidgetItem(icon, QStringLiteral("%1\n%2").arg(k + 1).arg(title), thumbs_);
        item->setSizeHint(QSize(180, 112));
    }
    thumbs_->setCurrentRow(std::clamp(row, 0, std::max(0, thumbs_->count() - 1)));
    count_->setText(tr("%1, %2 %3")
                        .arg(view_->pages())
                        .arg(QString::fromStdString(setup_.page.size),
                             setup_.page.landscape ? tr("on its side") : tr("upright")));
    filling_ = false;
}

void ReportPage::fill_parts() {
    filling_ = true;
    set_title(QString::fromStdString(report::title_of(setup_, *document_->site())));
    size_->setCurrentText(QString::fromStdString(setup_.page.size));
    way_->setCurrentIndex(setup_.page.landscape ? 1 : 0);
    const int row = std::max(0, parts_->currentRow());
    parts_->clear();
    std::size_t made = 0;
    for (std::size_t k = 0; k < setup_.parts.size(); ++k) {
        const report::PartSetup& p = setup_.parts[k];
        auto* item = new QListWidgetItem(title_of(p), parts_);
        const bool always = report::part_kind(p.kind).always;
        item->setData(kPart, static_cast<int>(k));
        item->setFlags(Qt::ItemIsSelectable | Qt::ItemIsEditable | Qt::ItemIsDragEnabled | Qt::ItemIsEnabled |
                       (always ? Qt::NoItemFlags : Qt::ItemIsUserCheckable));
        item->setCheckState(p.on ? Qt::Checked : Qt::Unchecked);
        QString help = tr(report::part_kind(p.kind).help);
        if (p.on && fresh_ && made < pages_.first_page.size())
            help += tr(" Page %1.").arg(pages_.first_page[made]);
        made += p.on ? 1 : 0;
        item->setToolTip(help);
        item->setForeground(p.on ? QColor(0x1D, 0x27, 0x33) : QColor(0x56, 0x5B, 0x61));
        item->setSizeHint(QSize(200, 26));
    }
    parts_->setCurrentRow(std::min(row, parts_->count() - 1));
    filling_ = false;
    show_settings();
}

// Order, names and ticks as they stand in the list now.
void ReportPage::take_order() {
    if (filling_ || parts_->count() != static_cast<int>(setup_.parts.size())) return;
    std::vector<report::PartSetup> ordered;
    for (int row = 0; row < parts_->count(); ++row) {
        const QListWidgetItem* item = parts_->item(row);
        report::PartSetup p = setup_.parts[static_cast<std::size_t>(item->data(kPart).toInt())];
        p.on = item->checkState() == Qt::Checked || report::part_kind(p.kind).always;
        const QString name = item->text().trimmed();
        if (name != title_of(p))
            p.title = name == tr(report::part_kind(p.kind).title) ? std::string() : name.toStdString();
        ordered.push_back(std::move(p));
    }
    if (ordered == setup_.parts) return;
    setup_.parts = std::move(ordered);
    keep_setup();
    // The list is not filled anew while it tells of its change.
    QTimer::singleShot(0, this, [this] {
        fill_parts();
        compose();
    });
}

void ReportPage::take_row(int row) {
    if (filling_ || row < 0) return;
    show_settings();
    if (!fresh_ || !setup_.parts[static_cast<std::size_t>(row)].on) return;
    std::size_t made = 0;
    for (int k = 0; k < row; ++k) made += setup_.parts[static_cast<std::size_t>(k)].on ? 1 : 0;
    if (made < pages_.first_page.size())
        view_->show_page(pages_.first_page[made] - 1, std::max(0.0, pages_.first_y[made] - 12));
}

void ReportPage::show_settings() {
    const int row = parts_->currentRow();
    const site::Site& s = *document_->site();
    site::ItemPtr item;
    if (row >= 0 && row < static_cast<int>(setup_.parts.size()))
        for (const std::uint64_t id : setup_.parts[static_cast<std::size_t>(row)].items)
            if (!item) item = s.item(id);
    if (!item && !s.items.empty()) item = s.items.front();
    settings_->show_part(setup_, row, Lengths(s, item.get()));
}

QString ReportPage::format() const {
    return formats_->checkedButton() ? formats_->checkedButton()->text() : QStringLiteral("PDF");
}

void ReportPage::set_format(const QString& name) {
    for (QAbstractButton* b : formats_->buttons())
        if (b->text() == name) b->setChecked(true);
    say_state();
}

void ReportPage::say_state() {
    const bool ready = fresh_ && report_;
    write_->setEnabled(ready);
    if (!ready) {
        state_->setText(tr("The report is being made…"));
        return;
    }
    QStringList sentences;
    for (const std::string& w : report_->warnings) sentences << QString::fromStdString(w);
    state_->setText(sentences.join(QLatin1Char('\n')));
    state_->setStyleSheet(
        sentences.isEmpty()
            ? QString()
            : QStringLiteral("background: #FFF3D6; border-left: 4px solid #E0A100; padding: 4px;"));
    write_->setText(format() == "PDF" ? tr("Write PDF, %n page(s)…", "", view_->pages())
                                      : tr("Write %1…").arg(format()));
    int figures = 0, tables = 0;
    for (const report::Part& p : report_->parts)
        for (const report::Block& b : p.blocks) {
            figures += std::holds_alternative<report::Figure>(b) ? 1 : 0;
            tables += std::holds_alternative<report::Table>(b) ? 1 : 0;
        }
    about_->setText(tr("%1, %2. JSON has every figure to the last digit.")
                        .arg(tr("%n figure(s)", "", figures), tr("%n table(s)", "", tables)));
}

void ReportPage::choose_file() {
    const QString ending = QString::fromLatin1(ending_of(format()));
    const QString folder = QSettings().value("folder").toString();
    const QString name = QString::fromStdString(report::title_of(setup_, *document_->site()));
    QString file = QFileDialog::getSaveFileName(this, tr("Write the report"),
                                                folder + QLatin1Char('/') + name + QLatin1Char('.') + ending,
                                                QStringLiteral("%1 (*.%2)").arg(format(), ending));
    if (file.isEmpty()) return;
    if (!file.endsWith(QLatin1Char('.') + ending, Qt::CaseInsensitive)) file += QLatin1Char('.') + ending;
    write(file.toStdString(), true);  // the dialog has asked
}

void ReportPage::write(const std::filesystem::path& path, bool replace) {
    if (!fresh_ || !report_) return;
    struct Nothing {};
    writing_.start<Nothing>(
        tr("Writing %1").arg(QString::fromStdString(path.filename().string())),
        [path, replace, report = report_, pages = pages_, format = format()](Progress& p, Nothing&) {
            OutputFile out(path, replace);
            out.write(format == "PDF"    ? report::pdf_of(*report, pages, p)
                      : format == "HTML" ? report::html_of(*report)
                      : format == "CSV"  ? report::csv_of(*report)
                                         : report::json_of(*report));
            out.finish();
        },
        [this, path](Nothing&) {
            emit said(tr("Written: %1").arg(QString::fromStdString(path.string())), false);
            emit wrote(path);
        },
        [this](const QString& why) {
            if (!why.isEmpty()) emit said(why, true);
        });
}

// Templates of the site, what the program proposes, and keeping one.
void ReportPage::fill_templates() {
    templates_->clear();
    templates_->addItem(tr("Template…"));
    templates_->addItem(tr("As proposed"), QStringLiteral("proposed"));
    const auto all = nlohmann::json::parse(document_->kept_note(report::kTemplatesNote), nullptr, false);
    if (all.is_object())
        for (const auto& [name, setup] : all.items())
            templates_->addItem(QString::fromStdString(name), QString::fromStdString(setup.dump()));
    templates_->addItem(tr("Keep this as a template…"), QStringLiteral("keep"));
    templates_->addItem(tr("From a file…"), QStringLiteral("file"));
}

void ReportPage::choose_template(int index) {
    const QString data = templates_->itemData(index).toString();
    templates_->setCurrentIndex(0);
    const site::Site& s = *document_->site();
    try {
        report::Setup next = setup_;
        if (data == "keep") return keep_template();
        if (data == "proposed") {
            next.parts = report::proposed(s).parts;
        } else if (data == "file") {
            const QString file = QFileDialog::getOpenFileName(this, tr("Template of a report"),
                                                              QSettings().value("folder").toString(),
                                                              QStringLiteral("JSON (*.json)"));
            if (file.isEmpty()) return;
            QFile in(file);
            if (!in.open(QIODevice::ReadOnly)) return emit said(tr("%1 cannot be read.").arg(file), true);
            next = report::by_template(report::setup_from_json(in.readAll().toStdString()), s);
        } else if (!data.isEmpty()) {
            next = report::by_template(report::setup_from_json(data.toStdString()), s);
        } else {
            return;
        }
        setup_ = std::move(next);
    } catch (const Error& e) {
        return emit said(QString::fromStdString(e.what()), true);
    }
    keep_setup();
    fill_parts();
    compose();
}

void ReportPage::keep_template() {
    bool kept = false;
    const QString name = QInputDialog::getText(this, tr("Keep this as a template"), tr("Name"),
                                               QLineEdit::Normal, tr("Office"), &kept)
                             .trimmed();
    if (!kept || name.isEmpty()) return;
    auto all = nlohmann::json::parse(document_->kept_note(report::kTemplatesNote), nullptr, false);
    if (!all.is_object()) all = nlohmann::json::object();
    all[name.toStdString()] = nlohmann::json::parse(report::json_of(setup_));
    document_->keep_note(report::kTemplatesNote, all.dump());
    fill_templates();
    emit said(tr("Kept with the site: template %1").arg(name), false);
}

}  // namespace pristine::app
