#include "app/panes/site_tables.h"

#include <QHBoxLayout>
#include <QInputDialog>
#include <QLabel>
#include <QPushButton>
#include <map>

#include "app/look/make.h"
#include "app/look/theme.h"
#include "app/model/document.h"

namespace pristine::app {
namespace {

site::Parts parts_of(const site::Site& s, std::uint64_t kept) {
    site::Parts parts;
    for (const site::ItemPtr& i : s.items)
        for (const site::KeptSelection& k : i->kept)
            if (k.id == kept) parts[i->id] = k.elements;
    return parts;
}

}  // namespace

GuardTable::GuardTable(Document* document, QWidget* parent)
    : ListTable(QStringLiteral("guard"), tr("Guards of all items; Enter brings the item in work"),
                {tr("Guard"), tr("Guarded"), tr("Item")}, parent),
      document_(document) {
    below()->addWidget(lift_ = make_button(this, "guardLift", tr("Lift the chosen guards"),
                                           tr("Tools may touch again what they held")));
    below()->addStretch(1);
    connect(this, &ListTable::chosen_changed, this, [this] { lift_->setEnabled(!chosen().empty()); });
    connect(lift_, &QPushButton::clicked, this, [this] {
        const std::vector<quint64> numbers = chosen();
        document_->apply(tr("Lift %n guard(s)", "", static_cast<int>(numbers.size())),
                         [&](const site::Site& s) {
                             site::SitePtr next;
                             for (const site::ItemPtr& i : s.items)
                                 for (const site::Guard& g : i->guards)
                                     if (std::find(numbers.begin(), numbers.end(), g.id) != numbers.end())
                                         next = site::lift_guard(next ? *next : s, i->id, g.id);
                             if (!next) throw Error(ErrorCode::Usage, "These guards are lifted already");
                             return next;
                         });
    });
    connect(this, &ListTable::gone_to, this, [this](quint64 guard) {
        for (const site::ItemPtr& i : document_->site()->items)
            for (const site::Guard& g : i->guards)
                if (g.id == guard && document_->site()->active != i->id)
                    document_->apply(tr("Work on %1").arg(QString::fromStdString(i->name)),
                                     [&](const site::Site& s) { return site::activate(s, i->id); });
    });
}

void GuardTable::refresh() {
    fill([this] {
        const site::SitePtr s = document_->site();
        for (const site::ItemPtr& i : s->items)
            for (const site::Guard& g : i->guards)
                add_row(g.id,
                        {QString::fromStdString(g.name), counted(*s, {{i->id, g.elements}}),
                         QString::fromStdString(i->name)},
                        {1})
                    ->set_number(1, static_cast<double>(g.elements->count()));
    });
    if (rows()->topLevelItemCount() == 0) lift_->setToolTip(tr("Nothing is guarded."));
}

KeptTable::KeptTable(Document* document, QWidget* parent)
    : ListTable(QStringLiteral("kept"), tr("Selections that were kept; Enter selects them again"),
                {tr("Selection"), tr("Holds"), tr("Made by")}, parent),
      document_(document) {
    const auto button = [&](const char* name, const QString& text) {
        QPushButton* b = make_button(this, name, text);
        below()->addWidget(b);
        return b;
    };
    use_ = button("keptUse", tr("Select it"));
    rename_ = button("keptRename", tr("Rename…"));
    drop_ = button("keptDrop", tr("Drop"));
    below()->addStretch(1);
    const auto use = [this](quint64 id) {
        document_->apply(tr("Select what was kept"),
                         [&](const site::Site& s) { return site::use_kept(s, id, site::Combine::New); });
    };
    connect(this, &ListTable::chosen_changed, this, [this] {
        const std::size_t n = chosen().size();
        use_->setEnabled(n == 1);
        rename_->setEnabled(n == 1);
        drop_->setEnabled(n > 0);
    });
    connect(this, &ListTable::gone_to, this, use);
    connect(use_, &QPushButton::clicked, this, [this, use] {
        if (const auto numbers = chosen(); !numbers.empty()) use(numbers.front());
    });
    connect(rename_, &QPushButton::clicked, this, &KeptTable::rename);
    connect(drop_, &QPushButton::clicked, this, [this] {
        const std::vector<quint64> numbers = chosen();
        document_->apply(tr("Drop %n kept selection(s)", "", static_cast<int>(numbers.size())),
                         [&](const site::Site& s) {
                             site::SitePtr next;
                             for (const quint64 id : numbers) next = site::drop_kept(next ? *next : s, id);
                             return next;
                         });
    });
}

void KeptTable::refresh() {
    fill([this] {
        const site::SitePtr s = document_->site();
        std::map<std::uint64_t, const site::KeptSelection*> all;
        for (const site::ItemPtr& i : s->items)
            for (const site::KeptSelection& k : i->kept) all.emplace(k.id, &k);
        for (const auto& [id, k] : all) {
            const site::Parts parts = parts_of(*s, id);
            add_row(id,
                    {QString::fromStdString(k->name), counted(*s, parts),
                     QString::fromStdString(site::told(k->origin.cause))},
                    {1})
                ->set_number(1, static_cast<double>(site::count_of(parts)));
        }
    });
}

void KeptTable::rename() {
    const std::vector<quint64> numbers = chosen();
    if (numbers.size() != 1) return;
    bool ok = false;
    const QString before = rows()->selectedItems().front()->text(0);
    const QString name = QInputDialog::getText(this, tr("Name"), tr("What is this selection called?"),
                                               QLineEdit::Normal, before, &ok)
                             .trimmed();
    if (ok && !name.isEmpty())
        document_->apply(tr("Call the selection %1").arg(name), [&](const site::Site& s) {
            return site::rename_kept(s, numbers.front(), name.toStdString());
        });
}

StepTable::StepTable(Document* document, QWidget* parent)
    : ListTable(QStringLiteral("step"),
                tr("Steps, oldest first; Enter leads to the site as it was after one"),
                {tr("Step"), tr("What was done"), tr("State")}, parent),
      document_(document) {
    rows()->setSelectionMode(QAbstractItemView::SingleSelection);
    below()->addWidget(go_ = make_button(this, "stepGo", tr("Go to this step"),
                                         tr("Takes back what came after it, or brings it again")));
    said_ = new QLabel(this);
    said_->setObjectName(QStringLiteral("stepSaid"));
    below()->addWidget(said_, 1);
    const auto go = [this](quint64 index) {
        if (index != document_->history().cursor()) document_->go_to(static_cast<std::size_t>(index));
    };
    connect(this, &ListTable::chosen_changed, this, [this] { go_->setEnabled(chosen().size() == 1); });
    connect(this, &ListTable::gone_to, this, go);
    connect(go_, &QPushButton::clicked, this, [this, go] {
        if (const auto numbers = chosen(); numbers.size() == 1) go(numbers.front());
    });
}

void StepTable::refresh() {
    const site::History& h = document_->history();
    fill([&] {
        for (std::size_t i = 0; i < h.commits().size(); ++i) {
            const std::string& title = h.commits()[i].title;
            ListRow* row =
                add_row(i,
                        {QString::number(i), title.empty() ? tr("Beginning") : QString::fromStdString(title),
                         i == h.cursor()  ? tr("now")
                         : i > h.cursor() ? tr("taken back")
                                          : QString()},
                        {0});
            row->set_number(0, static_cast<double>(i));
            QFont font = rows()->font();
            font.setBold(i == h.cursor());
            for (int c = 0; c < 3; ++c) {
                row->setFont(c, font);
                if (i > h.cursor()) row->setForeground(c, token::ink_soft);
            }
            if (i == h.cursor()) rows()->setCurrentItem(row);
        }
    });
    if (QTreeWidgetItem* row = rows()->currentItem()) rows()->scrollToItem(row);
    const auto back = h.commits().size() - 1 - h.cursor();
    said_->setText(back == 0 ? tr("%n step(s)", "", static_cast<int>(h.cursor()))
                             : tr("%n step(s), and %1 taken back: what is done now drops those", "",
                                  static_cast<int>(h.cursor()))
                                   .arg(back));
}

}  // namespace pristine::app
