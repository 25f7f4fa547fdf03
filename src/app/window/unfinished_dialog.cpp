#include "app/window/unfinished_dialog.h"

#include <QDateTime>
#include <QFile>
#include <QFileInfo>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QLabel>
#include <QLocale>
#include <QMessageBox>
#include <QPixmap>
#include <QPushButton>
#include <QTreeWidget>
#include <QVBoxLayout>

#include "app/model/document.h"
#include "core/base/error.h"
#include "core/base/memory.h"
#include "core/store/glance.h"

namespace pristine::app {
namespace fs = std::filesystem;
namespace {

constexpr QSize kThumbnail{128, 80};

QString size_text(std::uint64_t bytes) {
    return QString::fromStdString(bytes_text(bytes));
}

std::uint64_t size_of(const fs::path& draft) {
    std::uint64_t bytes = 0;
    for (const char* end : {"", "-wal", "-shm"}) {
        std::error_code error;
        const auto size = fs::file_size(draft.string() + end, error);
        if (!error) bytes += size;
    }
    return bytes;
}

}  // namespace

QString UnfinishedDialog::told(const std::vector<fs::path>& drafts) {
    std::uint64_t bytes = 0;
    for (const fs::path& d : drafts) bytes += size_of(d);
    return tr("%n site(s) that were never saved, %1 on the disk", "", static_cast<int>(drafts.size()))
        .arg(size_text(bytes));
}

UnfinishedDialog::UnfinishedDialog(QWidget* parent) : QDialog(parent) {
    setObjectName(QStringLiteral("unfinishedDialog"));
    setWindowTitle(tr("Unfinished work"));
    resize(680, 420);
    auto* rows = new QVBoxLayout(this);
    tree_ = new QTreeWidget(this);
    tree_->setObjectName(QStringLiteral("unfinishedList"));
    tree_->setAccessibleName(tr("Sites that were never saved"));
    tree_->setHeaderLabels({tr("Site and items"), tr("Last change"), tr("Size")});
    tree_->setRootIsDecorated(false);
    tree_->setIconSize(kThumbnail);
    tree_->header()->setStretchLastSection(false);
    tree_->header()->setSectionResizeMode(0, QHeaderView::Stretch);
    tree_->header()->setSectionResizeMode(1, QHeaderView::ResizeToContents);
    tree_->header()->setSectionResizeMode(2, QHeaderView::ResizeToContents);
    rows->addWidget(tree_, 1);
    auto* foot = new QHBoxLayout;
    total_ = new QLabel(this);
    total_->setObjectName(QStringLiteral("unfinishedTotal"));
    foot->addWidget(total_, 1);
    away_ = new QPushButton(tr("Move to the trash"), this);
    away_->setObjectName(QStringLiteral("unfinishedAway"));
    away_->setAutoDefault(false);
    open_ = new QPushButton(tr("Open"), this);
    open_->setObjectName(QStringLiteral("unfinishedOpen"));
    open_->setDefault(true);
    foot->addWidget(away_);
    foot->addWidget(open_);
    rows->addLayout(foot);
    connect(open_, &QPushButton::clicked, this, &UnfinishedDialog::choose);
    connect(tree_, &QTreeWidget::itemDoubleClicked, this, &UnfinishedDialog::choose);
    connect(away_, &QPushButton::clicked, this, &UnfinishedDialog::throw_away);
    fill();
}

void UnfinishedDialog::fill() {
    const auto drafts = Document::left_drafts();
    tree_->clear();
    for (const fs::path& d : drafts) {
        auto* row = new QTreeWidgetItem(tree_);
        row->setData(0, Qt::UserRole, QString::fromStdString(d.string()));
        const QFileInfo info(QString::fromStdString(d.string()));
        row->setText(1, QLocale().toString(info.lastModified(), QLocale::ShortFormat));
        row->setText(2, size_text(size_of(d)));
        row->setTextAlignment(2, Qt::AlignRight | Qt::AlignVCenter);
        try {
            const store::Glance g = store::glance(d);
            QStringList items;
            for (const std::string& name : g.items) items << QString::fromStdString(name);
            row->setText(0, tr("%1\n%2\nlast: %3")
                                .arg(QString::fromStdString(g.name), items.join(QStringLiteral(", ")),
                                     QString::fromStdString(g.last_step)));
            QPixmap picture;
            if (!g.picture.empty() &&
                picture.loadFromData(QByteArray::fromBase64(QByteArray::fromStdString(g.picture)), "PNG"))
                row->setIcon(0, QIcon(picture));
            row->setToolTip(0, items.join(QLatin1Char('\n')));
        } catch (const Error& e) {
            row->setText(0,
                         tr("%1\ncannot be read: %2").arg(info.fileName(), QString::fromStdString(e.what())));
        }
    }
    if (tree_->topLevelItemCount() > 0) tree_->setCurrentItem(tree_->topLevelItem(0));
    total_->setText(told(drafts));
    open_->setEnabled(!drafts.empty());
    away_->setEnabled(!drafts.empty());
}

fs::path UnfinishedDialog::current() const {
    const QTreeWidgetItem* row = tree_->currentItem();
    return row ? fs::path(row->data(0, Qt::UserRole).toString().toStdString()) : fs::path();
}

void UnfinishedDialog::choose() {
    chosen_ = current();
    if (!chosen_.empty()) accept();
}

// To the desktop's trash, from where it can be had back; where there is none, only after a question.
void UnfinishedDialog::throw_away() {
    const fs::path draft = current();
    if (draft.empty()) return;
    if (!QFile::moveToTrash(QString::fromStdString(draft.string()))) {
        QMessageBox ask(QMessageBox::Question, tr("No trash"),
                        tr("This desktop has no trash for that folder. Delete %1 for good?")
                            .arg(QString::fromStdString(draft.filename().string())),
                        QMessageBox::NoButton, this);
        const auto* gone = ask.addButton(tr("Delete for good"), QMessageBox::DestructiveRole);
        ask.setDefaultButton(ask.addButton(tr("Keep it"), QMessageBox::RejectRole));
        ask.exec();
        if (ask.clickedButton() != gone) return;
        std::error_code ignored;
        fs::remove(draft, ignored);
    }
    for (const char* end : {"-wal", "-shm"}) {
        const QString beside = QString::fromStdString(draft.string() + end);
        if (QFile::exists(beside) && !QFile::moveToTrash(beside)) QFile::remove(beside);
    }
    fill();
}

}  // namespace pristine::app
