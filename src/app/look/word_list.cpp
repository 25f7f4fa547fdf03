#include "app/look/word_list.h"

#include <QSet>
#include <QSignalBlocker>
#include <algorithm>

namespace pristine::app {

WordList::WordList(QWidget* parent) : QListWidget(parent) {}

void WordList::show_words(const std::map<std::string, std::uint64_t>& counts) {
    std::vector<std::pair<std::string, std::uint64_t>> all(counts.begin(), counts.end());
    std::stable_sort(all.begin(), all.end(), [](auto& a, auto& b) { return a.second > b.second; });
    QSet<QString> before;
    for (const std::string& word : ticked()) before << QString::fromStdString(word);
    const QSignalBlocker blocker(this);
    clear();
    for (const auto& [word, n] : all) {
        const QString name = QString::fromStdString(word);
        auto* line = new QListWidgetItem(tr("%1  ·  %n point(s)", "", static_cast<int>(n)).arg(name), this);
        line->setData(Qt::UserRole, name);
        line->setFlags(Qt::ItemIsEnabled | Qt::ItemIsUserCheckable | Qt::ItemIsSelectable);
        line->setCheckState(before.contains(name) ? Qt::Checked : Qt::Unchecked);
    }
}

std::vector<std::string> WordList::ticked() const {
    std::vector<std::string> words;
    for (int i = 0; i < count(); ++i)
        if (item(i)->checkState() == Qt::Checked)
            words.push_back(item(i)->data(Qt::UserRole).toString().toStdString());
    return words;
}

}  // namespace pristine::app
