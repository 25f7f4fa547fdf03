// The lists of a site below the stage: decisions, guards, kept selections, steps, surveys.

#pragma once

#include <QWidget>

class QPushButton;
class QTabWidget;

namespace pristine::app {

class DecisionTable;
class Document;
class GuardTable;
class KeptTable;
class StepTable;
class SurveyTable;

class ListsPane : public QWidget {
    Q_OBJECT
  public:
    enum class List : int { Decisions, Guards, Kept, Steps, Surveys };
    ListsPane(Document*, QWidget* parent);
    bool is_open() const { return isVisibleTo(parentWidget()); }
    List shown() const;
    void open(List);
    void close_pane();
    /// The document may have changed.
    void refresh();
    DecisionTable& decisions() { return *decisions_; }

  signals:
    void closed();
    void fly_to(quint64 entry);
    void said(const QString&);

  private:
    void save();
    Document* document_;
    QTabWidget* tabs_;
    DecisionTable* decisions_;
    GuardTable* guards_;
    KeptTable* kept_;
    StepTable* steps_;
    SurveyTable* surveys_;
    QPushButton* save_;
};

}  // namespace pristine::app
