#include "app/window/command_search.h"

#include <QKeyEvent>
#include <QLabel>
#include <QLineEdit>
#include <QListWidget>
#include <QPainter>
#include <QStyledItemDelegate>
#include <QVBoxLayout>

#include "app/look/theme.h"
#include "app/model/command_ranking.h"

namespace pristine::app {
namespace {

constexpr int kTitle = Qt::UserRole + 1, kNote = Qt::UserRole + 2, kMenu = Qt::UserRole + 3,
              kKey = Qt::UserRole + 4, kOff = Qt::UserRole + 5, kIcon = Qt::UserRole + 6;
constexpr int kRow = 44, kHead = 28, kLeft = 58;

// A command in two lines, with where it stands and its key; or the title of a group.
class RowPainter : public QStyledItemDelegate {
  public:
    RowPainter(const QLineEdit* line, QObject* parent) : QStyledItemDelegate(parent), line_(line) {}

    QSize sizeHint(const QStyleOptionViewItem&, const QModelIndex& i) const override {
        return {100, i.data(Qt::UserRole).isNull() ? kHead : kRow};
    }
    void paint(QPainter* p, const QStyleOptionViewItem& o, const QModelIndex& i) const override {
        p->save();
        const QRect r = o.rect;
        if (i.data(Qt::UserRole).isNull())
            paint_head(*p, o, i);
        else
            paint_command(*p, o, i);
        p->setPen(token::line);
        p->drawLine(r.bottomLeft(), r.bottomRight());
        p->restore();
    }

  private:
    static QFont sized(const QStyleOptionViewItem& o, double by, bool bold) {
        QFont f = o.font;
        f.setPointSizeF(f.pointSizeF() + by);
        f.setBold(bold);
        return f;
    }
    static void paint_head(QPainter& p, const QStyleOptionViewItem& o, const QModelIndex& i) {
        p.setFont(sized(o, -1, true));
        p.setPen(token::ink);
        p.drawText(o.rect.adjusted(14, 0, -14, 0), Qt::AlignLeft | Qt::AlignVCenter,
                   i.data(kTitle).toString());
    }
    void paint_command(QPainter& p, const QStyleOptionViewItem& o, const QModelIndex& i) const {
        const bool off = i.data(kOff).toBool();
        if (o.state & QStyle::State_Selected) {
            p.fillRect(o.rect, Qt::white);
            p.fillRect(QRect(o.rect.left(), o.rect.top(), 4, o.rect.height()), token::ink);
        }
        const QIcon symbol = i.data(kIcon).value<QIcon>();
        const QRect box(o.rect.left() + 14, o.rect.top() + 6, 32, 32);
        if (!symbol.isNull()) {
            p.setPen(token::line);
            p.setBrush(Qt::white);
            p.drawRoundedRect(box, 4, 4);
        }
        symbol.paint(&p, box.adjusted(6, 6, -6, -6), Qt::AlignCenter, off ? QIcon::Disabled : QIcon::Normal);
        const int right = paint_place(p, o, i);
        const QRect text(o.rect.left() + kLeft, o.rect.top() + 4, right - o.rect.left() - kLeft - 12, 20);
        p.setFont(sized(o, 0.5, true));
        paint_title(p, text, i.data(kTitle).toString(), off);
        p.setFont(sized(o, -0.5, false));
        p.setPen(off ? QColor(0x7A, 0x52, 0x00) : token::ink_soft);
        const QString note = i.data(kNote).toString();
        p.drawText(text.translated(0, 18), Qt::AlignLeft | Qt::AlignVCenter,
                   p.fontMetrics().elidedText(note, Qt::ElideRight, text.width()));
    }
    // Key and menu at the right; gives where they begin.
    static int paint_place(QPainter& p, const QStyleOptionViewItem& o, const QModelIndex& i) {
        int right = o.rect.right() - 14;
        p.setFont(sized(o, -0.5, false));
        const QFontMetrics m = p.fontMetrics();
        if (const QString key = i.data(kKey).toString(); !key.isEmpty()) {
            const QRect k(right - m.horizontalAdvance(key) - 12, o.rect.center().y() - 10,
                          m.horizontalAdvance(key) + 12, 20);
            p.setPen(token::ink_soft);
            p.setBrush(Qt::white);
            p.drawRoundedRect(k, 3, 3);
            p.setPen(token::ink);
            p.drawText(k, Qt::AlignCenter, key);
            right = k.left() - 8;
        }
        const QString menu = i.data(kMenu).toString();
        p.setPen(token::ink_soft);
        p.drawText(QRect(right - 120, o.rect.top(), 120, o.rect.height()), Qt::AlignRight | Qt::AlignVCenter,
                   menu);
        return right - m.horizontalAdvance(menu);
    }
    // What was typed is underlined where it stands in the title.
    void paint_title(QPainter& p, const QRect& r, const QString& title, bool off) const {
        const QFontMetrics m = p.fontMetrics();
        const QString shown = m.elidedText(title, Qt::ElideRight, r.width());
        p.setPen(off ? token::ink_soft : token::ink);
        p.drawText(r, Qt::AlignLeft | Qt::AlignVCenter, shown);
        for (const QString& w : line_->text().split(' ', Qt::SkipEmptyParts)) {
            const auto at = shown.indexOf(w, 0, Qt::CaseInsensitive);
            if (at < 0) continue;
            const int x = r.left() + m.horizontalAdvance(shown.left(at)),
                      width = m.horizontalAdvance(shown.mid(at, w.size()));
            p.fillRect(QRect(x, r.center().y() + m.ascent() / 2 + 2, width, 2), token::warn);
        }
    }
    const QLineEdit* line_;
};

}  // namespace

CommandSearch::CommandSearch(CommandTable* table, QWidget* parent) : QDialog(parent), table_(table) {
    setObjectName(QStringLiteral("commandSearch"));
    setWindowTitle(tr("Find a command"));
    setModal(true);
    resize(600, 520);
    auto* layout = new QVBoxLayout(this);
    line_ = new QLineEdit(this);
    line_->setObjectName(QStringLiteral("commandSearchLine"));
    line_->setAccessibleName(tr("Words of a command"));
    line_->setPlaceholderText(tr("What do you want to do? Delete, crop, volume …"));
    list_ = new QListWidget(this);
    list_->setObjectName(QStringLiteral("commandSearchList"));
    list_->setAccessibleName(tr("Commands found"));
    list_->setItemDelegate(new RowPainter(line_, list_));
    list_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    list_->setStyleSheet(QStringLiteral("QListWidget { background: #ECE7DD; border: none; }"));
    also_ = new QLabel(this);
    also_->setObjectName(QStringLiteral("commandSearchAlso"));
    layout->addWidget(line_);
    layout->addWidget(list_);
    layout->addWidget(also_);
    line_->installEventFilter(this);
    connect(line_, &QLineEdit::textChanged, this, [this] { fill(); });
    connect(line_, &QLineEdit::returnPressed, this, [this] { run_current(); });
    connect(list_, &QListWidget::itemActivated, this, [this] { run_current(); });
    connect(list_, &QListWidget::currentRowChanged, this, [this] { say_other_words(); });
    fill();
}

bool CommandSearch::eventFilter(QObject* watched, QEvent* event) {
    if (watched == line_ && event->type() == QEvent::KeyPress) {
        const auto* key = static_cast<QKeyEvent*>(event);
        if (key->key() == Qt::Key_Down || key->key() == Qt::Key_Up) {
            step(key->key() == Qt::Key_Down ? 1 : -1);
            return true;
        }
    }
    return QDialog::eventFilter(watched, event);
}

// The next command, past titles of groups.
void CommandSearch::step(int by) {
    for (int row = list_->currentRow() + by; row >= 0 && row < list_->count(); row += by)
        if (!list_->item(row)->data(Qt::UserRole).isNull()) return list_->setCurrentRow(row);
}

void CommandSearch::add_head(const QString& title) {
    auto* item = new QListWidgetItem(list_);
    item->setData(kTitle, title);
    item->setFlags(Qt::NoItemFlags);
}

void CommandSearch::add(const Command& c) {
    const QString why = c.why_not ? c.why_not() : QString();
    auto* item = new QListWidgetItem(list_);
    const QString title = c.live_title ? c.live_title() : c.title,
                  note = why.isEmpty() ? c.help : tr("Off: %1").arg(why);
    item->setData(Qt::UserRole, c.id);
    item->setData(kTitle, title);
    item->setData(kNote, note);
    item->setData(kMenu, QString(c.menu).remove('-'));
    item->setData(kKey, c.key.toString(QKeySequence::NativeText));
    item->setData(kOff, !why.isEmpty());
    item->setData(kIcon, c.icon.isEmpty() ? QIcon() : icon(c.icon));
    item->setData(Qt::AccessibleTextRole, title + ". " + note);
    item->setToolTip(note);
}

void CommandSearch::fill() {
    list_->clear();
    const std::vector<const Command*> found = ranked(*table_, line_->text());
    std::vector<const Command*> on, off;
    for (const Command* c : found) (c->why_not && !c->why_not().isEmpty() ? off : on).push_back(c);
    if (!on.empty()) add_head(tr("You can do this now"));
    for (const Command* c : on) add(*c);
    if (!off.empty()) add_head(tr("Not just now, and what is missing"));
    for (const Command* c : off) add(*c);
    if (found.empty()) add_head(tr("Nothing is called so. The manual is on F1."));
    // Enter means what fits best, also where it can only say what is missing.
    for (int row = 0; row < list_->count(); ++row)
        if (!found.empty() && list_->item(row)->data(Qt::UserRole).toString() == found.front()->id)
            list_->setCurrentRow(row);
    say_other_words();
}

void CommandSearch::say_other_words() {
    const QListWidgetItem* item = list_->currentItem();
    const QStringList words = item ? other_words(item->data(Qt::UserRole).toString()) : QStringList();
    also_->setText(words.isEmpty() ? tr("Enter: do it")
                                   : tr("Enter: do it. Also found by: %1").arg(words.join(", ")));
}

void CommandSearch::run_current() {
    const QListWidgetItem* item = list_->currentItem();
    if (!item || item->data(Qt::UserRole).isNull()) return;
    const QString id = item->data(Qt::UserRole).toString();
    accept();
    table_->trigger(id);
}

}  // namespace pristine::app
