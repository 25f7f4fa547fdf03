#include "app/window/codes_dialog.h"

#include <QCheckBox>
#include <QComboBox>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QTableWidget>
#include <QVBoxLayout>
#include <algorithm>

#include "app/look/dialog_foot.h"
#include "app/look/preferences.h"
#include "app/look/theme.h"

namespace pristine::app {

CodesDialog::CodesDialog(const site::Site& site, site::ItemPtr item, QWidget* parent)
    : QDialog(parent), item_(std::move(item)), codes_(site::codes_of(*item_->cloud)) {
    // A site that knows no code yet begins with those that were kept.
    before_ = site::proposed(site.codes == site::CodeTable() ? preferences().codes : site.codes, codes_);
    setObjectName(QStringLiteral("codesDialog"));
    setWindowTitle(tr("Lines from the codes of %1").arg(QString::fromStdString(item_->name)));
    resize(440, 420);
    auto* rows = new QVBoxLayout(this);
    auto* table = new QTableWidget(static_cast<int>(codes_.size()), 3, this);
    table->setObjectName(QStringLiteral("codesTable"));
    table->setAccessibleName(tr("Codes and what their points are"));
    table->setHorizontalHeaderLabels({tr("Code"), tr("Points"), tr("What they are")});
    table->verticalHeader()->hide();
    table->setEditTriggers(QAbstractItemView::NoEditTriggers);
    table->horizontalHeader()->setStretchLastSection(true);
    for (std::size_t k = 0; k < codes_.size(); ++k) {
        const int row = static_cast<int>(k);
        table->setItem(row, 0, new QTableWidgetItem(QString::fromStdString(codes_[k].code)));
        auto* count = new QTableWidgetItem(grouped(codes_[k].points));
        count->setTextAlignment(Qt::AlignRight | Qt::AlignVCenter);
        table->setItem(row, 1, count);
        auto* role = new QComboBox(table);
        role->setObjectName(QStringLiteral("codeRole%1").arg(row));
        role->setAccessibleName(tr("What points of %1 are").arg(QString::fromStdString(codes_[k].code)));
        role->addItems({tr("single points"), tr("breakline"), tr("boundary"), tr("not used")});
        for (const site::CodeRule& r : before_.rules)
            if (r.code == codes_[k].code) role->setCurrentIndex(static_cast<int>(r.role));
        connect(role, &QComboBox::currentIndexChanged, this, &CodesDialog::refresh);
        table->setCellWidget(row, 2, role);
        roles_.push_back(role);
    }
    rows->addWidget(table, 1);
    auto* marks = new QHBoxLayout;
    const auto mark = [&](const QString& title, const char* name, const std::string& now) {
        auto* edit = new QLineEdit(QString::fromStdString(now), this);
        edit->setObjectName(QString::fromLatin1(name));
        edit->setFixedWidth(56);
        auto* label = new QLabel(title, this);
        label->setBuddy(edit);
        edit->setAccessibleName(title);
        marks->addWidget(label);
        marks->addWidget(edit);
        connect(edit, &QLineEdit::textChanged, this, &CodesDialog::refresh);
        return edit;
    };
    start_ = mark(tr("A line &starts at"), "codeStart", before_.start);
    end_ = mark(tr("&ends at"), "codeEnd", before_.end);
    close_ = mark(tr("&closes at"), "codeClose", before_.close);
    marks->addStretch(1);
    rows->addLayout(marks);
    says_ = new QLabel(this);
    says_->setObjectName(QStringLiteral("codesSay"));
    says_->setWordWrap(true);
    rows->addWidget(says_);
    keep_ = new QCheckBox(tr("&Keep these codes for new sites"), this);
    keep_->setObjectName(QStringLiteral("codesKeep"));
    keep_->setToolTip(tr("They go into the settings, and to other machines with them"));
    rows->addWidget(keep_);
    auto* foot = new QHBoxLayout;
    make_ = add_foot(this, foot, tr("Make no lines"), {}, "codesMake");
    rows->addLayout(foot);
    refresh();
}

site::CodeTable CodesDialog::table() const {
    site::CodeTable t = before_;
    t.start = start_->text().trimmed().toStdString();
    t.end = end_->text().trimmed().toStdString();
    t.close = close_->text().trimmed().toStdString();
    for (std::size_t k = 0; k < codes_.size(); ++k)
        for (site::CodeRule& r : t.rules)
            if (r.code == codes_[k].code) r.role = static_cast<site::CodeRole>(roles_[k]->currentIndex());
    return t;
}

// Codes that were kept before and are not in this list stay known.
void CodesDialog::accept() {
    if (keep_->isChecked()) {
        Preferences p = preferences();
        const site::CodeTable now = table();
        p.codes.start = now.start, p.codes.end = now.end, p.codes.close = now.close;
        for (const site::CodeRule& r : now.rules) {
            const auto known = std::find_if(p.codes.rules.begin(), p.codes.rules.end(),
                                            [&](const site::CodeRule& o) { return o.code == r.code; });
            known != p.codes.rules.end() ? void(*known = r) : p.codes.rules.push_back(r);
        }
        set_preferences(p);
    }
    QDialog::accept();
}

void CodesDialog::refresh() {
    if (!make_) return;
    made_ = site::lines_from_codes(*item_, table());
    const auto n = static_cast<int>(made_.lines.size());
    make_->setText(tr("Make %n line(s)", "", n));
    make_->setEnabled(n > 0);
    const auto boundaries = std::count_if(made_.lines.begin(), made_.lines.end(),
                                          [](const site::Line& l) { return l.role == LineRole::Boundary; });
    const int rings = static_cast<int>(boundaries);
    QString text = tr("%n breakline(s)", "", n - rings) +
                   (rings == 1 ? tr(" and one boundary.") : tr(" and %1 boundaries.").arg(rings));
    if (made_.single_points > 0)
        text += QLatin1Char(' ') + tr("%n point(s) with a code of lines stand alone.", "",
                                      static_cast<int>(made_.single_points));
    says_->setText(text);
}

}  // namespace pristine::app
