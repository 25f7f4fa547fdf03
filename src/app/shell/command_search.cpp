#include "app/shell/command_search.h"

#include <QKeyEvent>
#include <QLineEdit>
#include <QListWidget>
#include <QVBoxLayout>

#include "app/shell/commands.h"
#include "app/shell/theme.h"

namespace pristine::app {

CommandSearch::CommandSearch(CommandTable* table, QWidget* parent) : QDialog(parent), table_(table) {
    setObjectName(QStringLiteral("commandSearch"));
    setWindowTitle(tr("Find a command"));
    setModal(true);
    resize(520, 380);
    auto* layout = new QVBoxLayout(this);
    line_ = new QLineEdit(this);
    line_->setObjectName(QStringLiteral("commandSearchLine"));
    line_->setAccessibleName(tr("Part of a command's name"));
    line_->setPlaceholderText(tr("Type part of a name, then Enter"));
    list_ = new QListWidget(this);
    list_->setObjectName(QStringLiteral("commandSearchList"));
    list_->setAccessibleName(tr("Commands found"));
    layout->addWidget(line_);
    layout->addWidget(list_);
    line_->installEventFilter(this);
    connect(line_, &QLineEdit::textChanged, this, [this] { fill(); });
    connect(line_, &QLineEdit::returnPressed, this, [this] { run_current(); });
    connect(list_, &QListWidget::itemActivated, this, [this] { run_current(); });
    fill();
}

bool CommandSearch::eventFilter(QObject* watched, QEvent* event) {
    if (watched == line_ && event->type() == QEvent::KeyPress) {
        const auto* key = static_cast<QKeyEvent*>(event);
        if (key->key() == Qt::Key_Down || key->key() == Qt::Key_Up) {
            const int row = list_->currentRow() + (key->key() == Qt::Key_Down ? 1 : -1);
            list_->setCurrentRow(std::clamp(row, 0, list_->count() - 1));
            return true;
        }
    }
    return QDialog::eventFilter(watched, event);
}

void CommandSearch::fill() {
    list_->clear();
    const QStringList words = line_->text().split(' ', Qt::SkipEmptyParts);
    for (const Command& c : table_->all()) {
        const QString all = c.title + ' ' + c.help + ' ' + c.menu;
        bool hit = true;
        for (const QString& w : words) hit &= all.contains(w, Qt::CaseInsensitive);
        if (!hit) continue;
        const QString why = c.why_not ? c.why_not() : QString();
        QString text = c.title;
        if (!c.key.isEmpty()) text += QStringLiteral("   (%1)").arg(c.key.toString(QKeySequence::NativeText));
        text += QStringLiteral("\n%1").arg(why.isEmpty() ? c.help : why);
        auto* item = new QListWidgetItem(text, list_);
        item->setData(Qt::UserRole, c.id);
        item->setForeground(why.isEmpty() ? token::ink : token::ink_soft);
    }
    list_->setCurrentRow(0);
}

void CommandSearch::run_current() {
    const QListWidgetItem* item = list_->currentItem();
    if (!item) return;
    const QString id = item->data(Qt::UserRole).toString();
    accept();
    table_->trigger(id);
}

}  // namespace pristine::app
