#include "app/panes/decision_table.h"

#include <QComboBox>
#include <QCoreApplication>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QInputDialog>
#include <QLabel>
#include <QPushButton>
#include <QSignalBlocker>
#include <algorithm>
#include <set>

#include "app/look/lengths.h"
#include "app/look/make.h"
#include "app/look/theme.h"
#include "app/model/document.h"
#include "app/model/ledger_decisions.h"

namespace pristine::app {
namespace {

enum Column : int { kReason, kState, kCount, kHow, kWhere, kWho, kWhen };
enum class Show : int { All, InForce, Lifted };

// The tool or rule that made it, without its settings.
QString tool_words(const site::Cause& cause) {
    if (const score::Step* rule = site::rule_of(cause))
        return DecisionTable::tr("rule %1").arg(QString::fromStdString(rule->score));
    if (const std::string id = site::tool_of(cause); !id.empty())
        if (const char* phrase = site::phrase_of(id)) return QCoreApplication::translate("Cause", phrase);
    if (!cause.empty() && cause.acts.front().kind == site::Act::Kind::Build)
        return DecisionTable::tr("build of a surface");
    return cause.empty() ? DecisionTable::tr("not known") : DecisionTable::tr("other");
}

QString day_of(const site::LedgerEntry& e) {
    return QString::fromStdString(e.when).left(10);
}

QString where_of(const LedgerDecision& d) {
    QStringList names;
    for (const LedgerDecision::In& i : d.in)
        names << (i.active == d.entry.active ? i.name : DecisionTable::tr("%1 (lifted)").arg(i.name));
    return names.join(QStringLiteral(", "));
}

QString quoted(QString text) {
    return QLatin1Char('"') + text.replace(QLatin1Char('"'), QStringLiteral("\"\"")) + QLatin1Char('"');
}

}  // namespace

DecisionTable::DecisionTable(Document* document, QWidget* parent)
    : ListTable(QStringLiteral("decision"), tr("Decisions about all items; Enter flies there"),
                {tr("Reason"), tr("State"), tr("Taken"), tr("How"), tr("In"), tr("By"), tr("When")}, parent),
      document_(document) {
    const auto filter = [&](const char* name, const QString& what) {
        QComboBox* box = make_choice(this, name, what);
        box->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
        box->setMinimumContentsLength(8);
        box->setToolTip(what);
        above()->addWidget(box, 1);
        connect(box, &QComboBox::activated, this, &DecisionTable::refresh);
        return box;
    };
    reason_ = filter("decisionReason", tr("Only decisions with this reason"));
    tool_ = filter("decisionTool", tr("Only what this tool or rule took"));
    person_ = filter("decisionPerson", tr("Only decisions of this person"));
    day_ = filter("decisionDay", tr("Only decisions of this day and later"));
    state_ = filter("decisionState", tr("Only what is in force, or what is lifted"));
    state_->addItem(tr("in force or lifted"), static_cast<int>(Show::All));
    state_->addItem(tr("in force"), static_cast<int>(Show::InForce));
    state_->addItem(tr("lifted"), static_cast<int>(Show::Lifted));
    lift_ = make_button(this, "decisionLift", tr("Lift"), tr("Brings back what the chosen decisions took"));
    apply_ = make_button(this, "decisionApply", tr("Apply again"),
                         tr("Takes again what the chosen decisions had taken"));
    rename_ = make_button(this, "decisionRename", tr("Change the reason…"), tr("Of all that are chosen"));
    for (QPushButton* b : {lift_, apply_, rename_}) below()->addWidget(b);
    said_ = new QLabel(this);
    said_->setObjectName(QStringLiteral("decisionSaid"));
    below()->addWidget(said_, 1);
    connect(lift_, &QPushButton::clicked, this, [this] { set_active(false); });
    connect(apply_, &QPushButton::clicked, this, [this] { set_active(true); });
    connect(rename_, &QPushButton::clicked, this, &DecisionTable::set_reason);
    connect(this, &ListTable::chosen_changed, this, &DecisionTable::say_chosen);
}

// What there is to choose from; a choice that is gone is any.
void DecisionTable::fill_filters() {
    std::set<QString> reasons, tools, people, days;
    for (const LedgerDecision& d : ledger_decisions(*document_->site())) {
        reasons.insert(QString::fromStdString(d.entry.reason));
        tools.insert(tool_words(d.entry.cause));
        people.insert(QString::fromStdString(d.entry.who));
        days.insert(day_of(d.entry));
    }
    const auto put = [](QComboBox* box, const QString& any, const std::set<QString>& all) {
        const QVariant chosen = box->currentData();
        const QSignalBlocker quiet(box);
        box->clear();
        box->addItem(any);
        for (const QString& one : all) box->addItem(one, one);
        if (const int at = chosen.isValid() ? box->findData(chosen) : 0; at > 0) box->setCurrentIndex(at);
    };
    put(reason_, tr("any reason"), reasons);
    put(tool_, tr("any tool"), tools);
    put(person_, tr("anybody"), people);
    put(day_, tr("since ever"), days);
}

bool DecisionTable::is_wanted(const LedgerDecision& d) const {
    const auto alike = [](const QComboBox* box, const QString& text) {
        return box->currentIndex() <= 0 || box->currentData().toString() == text;
    };
    const auto show = static_cast<Show>(state_->currentData().toInt());
    return alike(reason_, QString::fromStdString(d.entry.reason)) &&
           alike(tool_, tool_words(d.entry.cause)) && alike(person_, QString::fromStdString(d.entry.who)) &&
           (day_->currentIndex() <= 0 || day_of(d.entry) >= day_->currentData().toString()) &&
           (show == Show::All || (show == Show::InForce) == d.entry.active);
}

void DecisionTable::refresh() {
    fill_filters();
    fill([this] {
        for (const LedgerDecision& d : ledger_decisions(*document_->site())) {
            if (!is_wanted(d)) continue;
            ListRow* row = add_row(
                d.entry.id,
                {QString::fromStdString(d.entry.reason), d.entry.active ? state_of(d.entry) : tr("lifted"),
                 d.count, d.how, where_of(d), QString::fromStdString(d.entry.who), time_of(d.entry)},
                {kCount});
            // What changes a build takes no triangles: its words are all there is.
            if (d.entry.edit == 0) row->set_number(kCount, static_cast<double>(d.elements));
            row->setToolTip(kHow, d.how);
            row->setToolTip(kWhere, where_of(d));
            if (!d.entry.active)
                for (int c = 0; c <= kWhen; ++c) row->setForeground(c, token::ink_soft);
        }
        rows()->header()->resizeSection(kHow, 260);
    });
}

void DecisionTable::say_chosen() {
    const std::vector<quint64> numbers = chosen();
    const bool any = !numbers.empty();
    for (QPushButton* b : {lift_, apply_, rename_}) b->setEnabled(any);
    const QString why =
        any ? QString() : tr("Choose rows first: click, Shift or Ctrl click, Ctrl+A for all.");
    lift_->setToolTip(any ? tr("Brings back what the chosen decisions took") : why);
    apply_->setToolTip(any ? tr("Takes again what the chosen decisions had taken") : why);
    rename_->setToolTip(any ? tr("Of all that are chosen") : why);
    site::Parts parts;
    for (const LedgerDecision& d : ledger_decisions(*document_->site()))
        if (std::find(numbers.begin(), numbers.end(), d.entry.id) != numbers.end())
            for (const LedgerDecision::In& i : d.in) {
                const site::SetPtr own = document_->site()->item(i.item)->entry(d.entry.id)->elements;
                site::SetPtr& sum = parts[i.item];
                sum = sum ? std::make_shared<const ElementSet>(*sum | *own) : own;
            }
    const int all = rows()->topLevelItemCount();
    if (!any) return said_->setText(tr("%n decision(s)", "", all));
    QString text = tr("%1 of %n decision(s) chosen", "", all).arg(numbers.size());
    if (site::count_of(parts) > 0) text += tr(", %1").arg(counted(*document_->site(), parts));
    said_->setText(text);
}

void DecisionTable::set_active(bool active) {
    const std::vector<quint64> numbers = chosen();
    if (numbers.empty()) return;
    const auto n = static_cast<int>(numbers.size());
    document_->set_decisions_active(
        std::vector<std::uint64_t>(numbers.begin(), numbers.end()), active,
        active ? tr("Apply %n decision(s) again", "", n) : tr("Lift %n decision(s)", "", n));
}

void DecisionTable::set_reason() {
    const std::vector<quint64> numbers = chosen();
    const std::vector<site::ItemPtr> items = numbers.empty()
                                                 ? std::vector<site::ItemPtr>()
                                                 : site::items_of_decision(*document_->site(), numbers[0]);
    if (items.empty()) return;
    bool ok = false;
    const QString text =
        QInputDialog::getText(this, tr("Reason"), tr("Why was this decided?"), QLineEdit::Normal,
                              QString::fromStdString(items.front()->entry(numbers[0])->reason), &ok)
            .trimmed();
    if (!ok || text.isEmpty()) return;
    document_->apply(tr("Change the reason to %1").arg(text), [&](const site::Site& s) {
        site::SitePtr next;
        for (const quint64 id : numbers)
            next = site::set_decision_reason(next ? *next : s, id, text.toStdString());
        return next;
    });
}

QString DecisionTable::table() const {
    QStringList lines;
    const QTreeWidgetItem* head = rows()->headerItem();
    for (int r = -1; r < rows()->topLevelItemCount(); ++r) {
        const QTreeWidgetItem* row = r < 0 ? head : rows()->topLevelItem(r);
        QStringList cells;
        for (int c = 0; c < rows()->columnCount(); ++c) {
            const QVariant number = row->data(c, Qt::UserRole + 1);
            cells << (number.isValid() ? QString::number(number.toDouble(), 'f', 0) : quoted(row->text(c)));
        }
        lines << cells.join(QLatin1Char(','));
    }
    return lines.join(QLatin1Char('\n')) + QLatin1Char('\n');
}

}  // namespace pristine::app
