#include "app/panes/lists_pane.h"

#include <QFileDialog>
#include <QHBoxLayout>
#include <QPushButton>
#include <QSettings>
#include <QTabWidget>
#include <QVBoxLayout>

#include "app/look/make.h"
#include "app/panes/decision_table.h"
#include "app/panes/site_tables.h"
#include "app/panes/survey_table.h"
#include "core/base/error.h"
#include "core/base/output.h"

namespace pristine::app {

ListsPane::ListsPane(Document* document, QWidget* parent) : QWidget(parent), document_(document) {
    setObjectName(QStringLiteral("listsPane"));
    setAttribute(Qt::WA_StyledBackground);
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(8, 4, 8, 6);
    tabs_ = new QTabWidget(this);
    tabs_->setObjectName(QStringLiteral("listsTabs"));
    tabs_->setDocumentMode(true);
    // In the order of List.
    tabs_->addTab(decisions_ = new DecisionTable(document, this), tr("Decisions"));
    tabs_->addTab(guards_ = new GuardTable(document, this), tr("Guards"));
    tabs_->addTab(kept_ = new KeptTable(document, this), tr("Kept selections"));
    tabs_->addTab(steps_ = new StepTable(document, this), tr("Steps"));
    tabs_->addTab(surveys_ = new SurveyTable(document, this), tr("Surveys"));
    auto* corner = new QWidget(this);
    auto* buttons = new QHBoxLayout(corner);
    buttons->setContentsMargins(0, 0, 0, 2);
    save_ = make_button(this, "listsSave", tr("Save table…"), tr("The decisions that are listed, as CSV"));
    auto* close = make_button(this, "listsClose", tr("Close"));
    buttons->addWidget(save_);
    buttons->addWidget(close);
    tabs_->setCornerWidget(corner);
    layout->addWidget(tabs_);
    setMinimumHeight(200);
    hide();
    connect(close, &QPushButton::clicked, this, &ListsPane::close_pane);
    connect(save_, &QPushButton::clicked, this, &ListsPane::save);
    connect(tabs_, &QTabWidget::currentChanged, this, &ListsPane::refresh);
    connect(decisions_, &ListTable::gone_to, this, &ListsPane::fly_to);
}

ListsPane::List ListsPane::shown() const {
    return static_cast<List>(tabs_->currentIndex());
}

void ListsPane::open(List list) {
    tabs_->setCurrentIndex(static_cast<int>(list));
    show();
    refresh();
}

void ListsPane::close_pane() {
    hide();
    emit closed();
}

void ListsPane::refresh() {
    if (!is_open()) return;
    save_->setVisible(shown() == List::Decisions);
    switch (shown()) {
        case List::Decisions:
            return decisions_->refresh();
        case List::Guards:
            return guards_->refresh();
        case List::Kept:
            return kept_->refresh();
        case List::Steps:
            return steps_->refresh();
        case List::Surveys:
            return surveys_->refresh();
    }
}

void ListsPane::save() {
    const QString file = QFileDialog::getSaveFileName(
        this, tr("Save the decisions"), QSettings().value("folder").toString(), tr("Tables (*.csv)"));
    if (file.isEmpty()) return;
    try {
        OutputFile out(file.toStdString(), true);
        out.write(decisions_->table().toStdString());
        out.finish();
        emit said(tr("Saved %1").arg(file));
    } catch (const Error& e) {
        emit said(QString::fromStdString(e.what()));
    }
}

}  // namespace pristine::app
