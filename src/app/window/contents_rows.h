// What the rows of the contents hold.

#pragma once

#include <QTreeWidget>
#include <cstdint>

namespace pristine::app {

enum Column { kEye, kName, kCount, kLock };
constexpr int kHeading = Qt::UserRole + 1;    // name of the group of items that a row stands over
constexpr int kLineGroup = Qt::UserRole + 2;  // name of the group of lines that a row stands for

inline std::uint64_t id_of(const QTreeWidgetItem* row) {
    return row ? row->data(0, Qt::UserRole).toULongLong() : 0;
}

}  // namespace pristine::app
