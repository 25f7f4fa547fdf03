// A list of words with how many points have each, to be ticked.

#pragma once

#include <QListWidget>
#include <cstdint>
#include <map>
#include <string>
#include <vector>

namespace pristine::app {

class WordList : public QListWidget {
    Q_OBJECT
  public:
    explicit WordList(QWidget* parent);
    /// The most frequent first. What was ticked stays ticked.
    void show_words(const std::map<std::string, std::uint64_t>& counts);
    /// In the order in which they stand.
    std::vector<std::string> ticked() const;
};

}  // namespace pristine::app
