#include "app/panes/chart_pane.h"

#include <QAbstractAxis>
#include <QBuffer>
#include <QChart>
#include <QChartView>
#include <QComboBox>
#include <QFileDialog>
#include <QHBoxLayout>
#include <QLabel>
#include <QPushButton>
#include <QSettings>
#include <QVBoxLayout>

#include "core/base/error.h"
#include "core/base/output.h"
#include "core/io/ending.h"

namespace pristine::app {

namespace {

QChart* fresh_chart() {
    auto* chart = new QChart;
    chart->setMargins(QMargins(2, 2, 2, 2));
    chart->setBackgroundRoundness(0);
    chart->legend()->setAlignment(Qt::AlignRight);
    return chart;
}

}  // namespace

ChartPane::ChartPane(const QString& id, const QString& what, Jobs* jobs, QWidget* parent)
    : QWidget(parent), latest_(jobs), what_(what) {
    setObjectName(id + QStringLiteral("Pane"));
    setAttribute(Qt::WA_StyledBackground);
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(8, 4, 8, 4);
    auto* top = new QHBoxLayout;
    head_ = new QHBoxLayout;
    top->addLayout(head_);
    state_ = new QLabel(this);
    state_->setObjectName(id + QStringLiteral("State"));
    top->addStretch(1);
    auto* table = new QPushButton(tr("Save…"), this);
    table->setObjectName(id + QStringLiteral("Save"));
    top->addWidget(table);
    auto* close = new QPushButton(tr("Close"), this);
    close->setObjectName(id + QStringLiteral("Close"));
    top->addWidget(close);
    layout->addLayout(top);
    layout->addWidget(state_);  // a line of its own: what it says is longer than what a narrow window leaves
    chart_ = fresh_chart();
    view_ = new QChartView(chart_, this);
    view_->setObjectName(id + QStringLiteral("Chart"));
    view_->setRenderHint(QPainter::Antialiasing);
    layout->addWidget(view_, 1);
    setMinimumHeight(180);
    hide();
    connect(close, &QPushButton::clicked, this, &ChartPane::close_pane);
    connect(table, &QPushButton::clicked, this, &ChartPane::choose_file);
}

void ChartPane::open() {
    // A long name must not widen the window.
    state_->setMinimumWidth(1);
    for (QComboBox* box : findChildren<QComboBox*>()) {
        box->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
        box->setMinimumContentsLength(8);
    }
    show();
    refresh();
}

void ChartPane::close_pane() {
    latest_.drop();
    hide();
    emit closed();
}

void ChartPane::say(const QString& text) {
    state_->setText(text);
    state_->setVisible(!text.isEmpty());
    state_->setToolTip(text);
}

void ChartPane::clear_chart() {
    chart_->removeAllSeries();
    for (QAbstractAxis* a : chart_->axes()) {
        chart_->removeAxis(a);
        a->deleteLater();
    }
}

void ChartPane::renew_chart() {
    QChart* const before = chart_;
    chart_ = fresh_chart();
    view_->setChart(chart_);
    delete before;
}

void ChartPane::save(const std::filesystem::path& file) const {
    std::string bytes;
    if (io::ending_of(file) == ".png") {
        QByteArray picture;
        QBuffer buffer(&picture);
        view_->grab().toImage().save(&buffer, "PNG");
        bytes = picture.toStdString();
    } else {
        bytes = table().toStdString();
    }
    OutputFile out(file, true);
    out.write(bytes);
    out.finish();
}

void ChartPane::choose_file() {
    QString file =
        QFileDialog::getSaveFileName(this, tr("Save %1").arg(what_), QSettings().value("folder").toString(),
                                     tr("Tables (*.csv);;Pictures (*.png)"));
    if (file.isEmpty()) return;
    if (io::ending_of(file.toStdString()).empty()) file += QStringLiteral(".csv");
    try {
        save(file.toStdString());
        say(tr("Saved %1").arg(file));
    } catch (const Error& e) {
        say(QString::fromStdString(e.what()));
    }
}

}  // namespace pristine::app
