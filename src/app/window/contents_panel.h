// The contents: items of the site by kind, with eye, lock and counts; below, how the item in work is
// coloured.

#pragma once

#include <QWidget>
#include <set>
#include <string>

#include "core/site/site.h"

class QMenu;
class QTreeWidget;
class QTreeWidgetItem;
class QComboBox;
class QSpinBox;
class QLabel;
class QPushButton;
class QVBoxLayout;

namespace pristine::app {

class Document;

class ContentsPanel : public QWidget {
    Q_OBJECT
  public:
    ContentsPanel(Document*, QWidget* parent = nullptr);
    void refresh();
    /// Only the name and whether it is saved.
    void refresh_head();

  signals:
    /// Contours or a map are to be made anew.
    void make_again(const site::Making&);
    void fly_to(quint64 item);
    void fly_to_line(quint64 line);
    void fly_along_line(quint64 line);
    void fly_to_mark(quint64 mark);
    void edit_line(quint64 line);
    void select_inside(quint64 line);
    void replace_inside(quint64 line);
    void refused(const QString& why);
    void drape(quint64 item);

  protected:
    bool eventFilter(QObject*, QEvent*) override;

  private:
    void add_tree(QVBoxLayout*);
    void follow_tree();
    void add_look(QVBoxLayout*);
    void fill_tree();
    void add_row(const site::ItemPtr&, bool active);
    void add_lines();
    void add_marks();
    QTreeWidgetItem* add_thin_row(std::uint64_t id, bool visible, const QString& name);
    void change_mark(const site::MarkPtr&, const QString& title, const std::function<void(site::Mark&)>&);
    void add_line_row(const site::LinePtr&);
    void add_line_group(const std::string& group);
    void mark_stale(QTreeWidgetItem*, const std::string& why);
    static void put_mark(QTreeWidgetItem*, const QString& mark);
    void click_line_group(const std::string& group, int column);
    std::set<std::string> open_groups_;  // groups of lines whose lines are listed
    void change_line(const site::LinePtr&, const QString& title, const std::function<void(site::Line&)>&);
    void add_roles(QMenu*, const site::LinePtr&);
    void add_roles(QMenu*, const site::ItemPtr&);
    void line_menu(const site::LinePtr&, QTreeWidgetItem*, const QPoint&);
    void mark_menu(const site::MarkPtr&, QTreeWidgetItem*, const QPoint&);
    void fill_look();
    void toggle_group(const QString&);
    void choose_date(std::uint64_t item);
    void add_surveys(QMenu*, std::uint64_t now, const std::vector<std::uint64_t>& items,
                     const std::vector<std::uint64_t>& lines);
    void choose_classes(std::uint64_t item);
    void choose_group(std::uint64_t item);
    void clicked(QTreeWidgetItem*, int column);
    void edit_look();
    void choose_colour();
    void context_menu(const QPoint&);
    void heading_menu(QTreeWidgetItem*, const QPoint&);
    Document* document_;
    QTreeWidget* tree_;
    QComboBox *colour_, *faces_;
    QSpinBox* size_;
    QPushButton* swatch_;
    QLabel *site_, *disk_, *size_title_, *faces_title_;
    bool filling_ = false;
    std::vector<const void*> shown_;  // what the rows were made from
    std::uint64_t shown_active_ = 0;
    std::string shown_unit_;
};

}  // namespace pristine::app
