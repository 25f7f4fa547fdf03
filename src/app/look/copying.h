// Every table and figure of the window can be copied: as text with tabs, and as a picture.

#pragma once

#include <QObject>
#include <QString>

class QAbstractItemView;
class QWidget;

namespace pristine::app {

/// The rows that are chosen, or all when none or one is, with their headings, cells parted by tabs. Hidden
/// columns and rows are left out.
QString table_text(const QAbstractItemView&);

/// Ctrl+C on a table that has the keys copies it, as text and as HTML. A click with the right button on a
/// table without a menu of its own, or on a chart or a page, offers to copy it and its picture.
class Copying : public QObject {
    Q_OBJECT
  public:
    /// For all windows of the program, as long as it lives.
    explicit Copying(QObject* parent);
    static void copy_table(const QAbstractItemView&);
    static void copy_picture(QWidget&);

  protected:
    bool eventFilter(QObject*, QEvent*) override;
};

}  // namespace pristine::app
