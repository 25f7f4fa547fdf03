// The work card: the tool in hand, its few settings, and the live numbers of what is selected.

#pragma once

#include <QWidget>

#include "core/site/site.h"

class QLabel;
class QButtonGroup;
class QComboBox;

namespace pristine::app {

class Document;

/// Bars in the colour of the selection: how many points lie how high above the floor.
class HeightHistogram : public QWidget {
    Q_OBJECT
  public:
    explicit HeightHistogram(QWidget* parent = nullptr);
    void set(std::vector<std::uint64_t> bins, double top, const QString& unit);

  protected:
    void paintEvent(QPaintEvent*) override;

  private:
    std::vector<std::uint64_t> bins_;
    double top_ = 0;
    QString unit_;
};

class WorkCard : public QWidget {
    Q_OBJECT
  public:
    WorkCard(Document*, QWidget* parent = nullptr);
    void set_tool(const QString& title, const QString& hint);
    void refresh();

    site::Combine combine() const;
    void set_combine(site::Combine);
    bool visible_only() const;
    void set_visible_only(bool);
    QString reason() const;

  signals:
    void settings_changed();

  private:
    Document* document_;
    QLabel *title_, *hint_, *histogram_title_;
    QButtonGroup *combine_, *depth_;
    QComboBox* reason_;
    HeightHistogram* histogram_;
};

}  // namespace pristine::app
