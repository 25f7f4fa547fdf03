#include "app/window/text_import.h"

#include "app/look/dialog_foot.h"

#include <QComboBox>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QLabel>
#include <QPushButton>
#include <QSpinBox>
#include <QTableWidget>
#include <QVBoxLayout>
#include <algorithm>

#include "app/look/lengths.h"
#include "core/base/file.h"
#include "core/io/text/text.h"

namespace pristine::app {
namespace {

constexpr std::size_t kSample = 64u << 10, kRows = 12;
constexpr char kSeparators[] = {0, ',', ';', '\t'};

std::string sample_of(const std::filesystem::path& path) {
    const InputFile file(path);
    std::string s = file.read_string(0, std::min<std::uint64_t>(file.size(), kSample));
    if (s.size() < file.size()) s.resize(std::min(s.size(), s.rfind('\n') + 1));
    return s;
}

QStringList known_names() {
    return {QString(), "x",      "y",    "z",     "intensity", "red",  "green",  "blue",    "class",
            "time",    "return", "scan", "point", "code",      "date", "radius", "diameter"};
}

}  // namespace

bool TextImport::wants_help(const std::filesystem::path& path) {
    try {
        if (io::format_of_file(path).id != "text") return false;
        bool sure = false;
        io::reading_of(io::guess_text(sample_of(path), path.filename().string()), sure);
        return !sure;
    } catch (const Error&) {
        return false;  // opening it says what is wrong
    }
}

TextImport::TextImport(const std::filesystem::path& path, QWidget* parent)
    : QDialog(parent), sample_(sample_of(path)) {
    setObjectName(QStringLiteral("textImport"));
    setWindowTitle(tr("Open %1").arg(QString::fromStdString(path.filename().string())));
    resize(760, 430);
    try {
        bool sure = false;
        reading_ = io::reading_of(io::guess_text(sample_, path.filename().string()), sure);
    } catch (const Error&) {
        reading_.columns = {"x", "y", "z"};
    }
    auto* rows = new QVBoxLayout(this);
    auto* settings = new QHBoxLayout;
    const auto combo = [&](const char* name, const QString& label, const QStringList& choices, int now) {
        auto* c = new QComboBox(this);
        c->setObjectName(QString::fromLatin1(name));
        c->setAccessibleName(label);
        c->addItems(choices);
        c->setCurrentIndex(now);
        settings->addWidget(new QLabel(label, this));
        settings->addWidget(c);
        connect(c, &QComboBox::currentIndexChanged, this, [this] { fill(); });
        return c;
    };
    settings->addWidget(new QLabel(tr("Skip"), this));
    skip_ = new QSpinBox(this);
    skip_->setObjectName(QStringLiteral("importSkip"));
    skip_->setAccessibleName(tr("Lines to skip before the data"));
    skip_->setRange(0, 10'000);
    skip_->setSuffix(tr(" lines"));
    skip_->setValue(static_cast<int>(reading_.skip));
    connect(skip_, &QSpinBox::valueChanged, this, [this] { fill(); });
    settings->addWidget(skip_);
    const auto at = std::find(std::begin(kSeparators), std::end(kSeparators), reading_.separator);
    separator_ = combo("importSeparator", tr("Columns apart by"),
                       {tr("blanks"), tr("comma"), tr("semicolon"), tr("tab")},
                       static_cast<int>(at - std::begin(kSeparators)) % 4);
    decimal_ = combo("importDecimal", tr("Decimals after"), {tr("point"), tr("comma")},
                     reading_.decimal_comma ? 1 : 0);
    QStringList units{tr("not stated")};
    for (const LengthUnit& u : length_units()) units << unit_title(u.id);
    unit_ = combo("importUnit", tr("Unit"), units, 0);
    settings->addStretch(1);
    rows->addLayout(settings);
    table_ = new QTableWidget(this);
    table_->setObjectName(QStringLiteral("importTable"));
    table_->setAccessibleName(tr("First lines of the file; the first row names the columns"));
    table_->verticalHeader()->hide();
    table_->setEditTriggers(QAbstractItemView::NoEditTriggers);
    rows->addWidget(table_, 1);
    auto* foot = new QHBoxLayout;
    problem_ = new QLabel(this);
    problem_->setObjectName(QStringLiteral("importProblem"));
    problem_->setWordWrap(true);
    foot->addWidget(problem_, 1);
    open_ = add_foot(this, foot, tr("Do not open"), {}, "importOpen");
    rows->addLayout(foot);
    fill();
}

io::TextReading TextImport::reading() const {
    io::TextReading r;
    r.skip = static_cast<std::size_t>(skip_->value());
    r.separator = kSeparators[separator_->currentIndex()];
    r.decimal_comma = decimal_->currentIndex() == 1;
    if (unit_->currentIndex() > 0)
        r.unit = length_units()[static_cast<std::size_t>(unit_->currentIndex() - 1)].id;
    for (const QComboBox* c : names_) r.columns.push_back(c->currentText().trimmed().toStdString());
    return r;
}

void TextImport::fill() {
    const io::TextReading now = reading();
    const auto lines = io::preview_text(now, sample_, kRows);
    std::size_t columns = 0;
    for (const auto& l : lines) columns = std::max(columns, l.size());
    columns = std::min<std::size_t>(columns, 64);
    std::vector<std::string> names = names_.empty() ? reading_.columns : now.columns;
    names.resize(columns);
    for (QComboBox* old : names_) old->setObjectName({});  // it goes a moment later
    names_.clear();
    table_->clear();
    table_->setRowCount(static_cast<int>(lines.size()) + 1);
    table_->setColumnCount(static_cast<int>(columns));
    table_->horizontalHeader()->hide();
    for (std::size_t c = 0; c < columns; ++c) {
        auto* name = new QComboBox(table_);
        name->setObjectName(QStringLiteral("importColumn%1").arg(c));
        name->setAccessibleName(tr("Name of column %1").arg(c + 1));
        name->setEditable(true);
        name->addItems(known_names());
        name->setCurrentText(QString::fromStdString(names[c]));
        connect(name, &QComboBox::currentTextChanged, this, [this] { check(); });
        table_->setCellWidget(0, static_cast<int>(c), name);
        names_.push_back(name);
    }
    for (std::size_t r = 0; r < lines.size(); ++r)
        for (std::size_t c = 0; c < std::min(columns, lines[r].size()); ++c) {
            auto* cell = new QTableWidgetItem(QString::fromStdString(lines[r][c]));
            double v = 0;
            const bool number = io::parse_number(lines[r][c], now.decimal_comma, v);
            cell->setTextAlignment((number ? Qt::AlignRight : Qt::AlignLeft) | Qt::AlignVCenter);
            const bool place = names[c] == "x" || names[c] == "y" || names[c] == "z";
            if (place && !number) cell->setForeground(QColor(0xB0, 0x3A, 0x2E));
            table_->setItem(static_cast<int>(r) + 1, static_cast<int>(c), cell);
        }
    check();
}

void TextImport::check() {
    QString problem;
    try {
        io::guess_from(reading(), sample_, {});
    } catch (const Error& e) {
        problem = QString::fromStdString(e.what());
    }
    // Where nothing is wrong, what the names mean: numbers alone do not tell east from north.
    problem_->setText(problem.isEmpty()
                          ? tr("x is east, y is north, z is the height. Numbers alone do not tell east from "
                               "north: check the columns.")
                          : problem);
    open_->setEnabled(problem.isEmpty());
    open_->setText(tr("Open with these columns"));
}

}  // namespace pristine::app
