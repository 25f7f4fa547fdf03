#include "app/cards/work_card.h"

#include <QButtonGroup>
#include <QCheckBox>
#include <QComboBox>
#include <QDoubleSpinBox>
#include <QHBoxLayout>
#include <QLabel>
#include <QPainter>
#include <QPushButton>
#include <QSettings>
#include <QSpinBox>
#include <QVBoxLayout>
#include <algorithm>

#include "app/look/theme.h"
#include "app/model/document.h"

namespace pristine::app {

namespace {}  // namespace

HeightHistogram::HeightHistogram(QWidget* parent) : QWidget(parent) {
    setObjectName(QStringLiteral("heightHistogram"));
    setAccessibleName(tr("Heights above the ground of what is selected"));
    setMinimumHeight(104);
}

void HeightHistogram::set(std::vector<std::uint64_t> bins, const QString& top) {
    bins_ = std::move(bins);
    top_ = top;
    update();
}

void HeightHistogram::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    const QRectF box = QRectF(rect()).adjusted(0.5, 0.5, -0.5, -20);
    p.setPen(token::line);
    p.setBrush(QColor(0xFF, 0xFD, 0xF9));
    p.drawRoundedRect(box, 4, 4);
    if (bins_.empty()) return;
    const double most = static_cast<double>(*std::max_element(bins_.begin(), bins_.end()));
    const double w = (box.width() - 8) / static_cast<double>(bins_.size());
    p.setPen(Qt::NoPen);
    p.setBrush(token::pick);
    for (std::size_t i = 0; i < bins_.size(); ++i) {
        if (bins_[i] == 0) continue;
        const double h = std::max(2.0, static_cast<double>(bins_[i]) / most * (box.height() - 8));
        p.drawRect(QRectF(box.left() + 4 + static_cast<double>(i) * w, box.bottom() - h, w - 1.5, h));
    }
    p.setPen(token::ink_soft);
    QFont f = font();
    f.setPointSizeF(8.5);
    p.setFont(f);
    p.drawText(QRectF(0, height() - 18, width(), 18), Qt::AlignLeft | Qt::AlignVCenter, QStringLiteral("0"));
    p.drawText(QRectF(0, height() - 18, width(), 18), Qt::AlignRight | Qt::AlignVCenter, top_);
}

namespace {

// A row that can be put away as a whole.
QWidget* row_of(QLayout* layout, QWidget* parent) {
    auto* row = new QWidget(parent);
    layout->setContentsMargins(0, 0, 0, 0);
    row->setLayout(layout);
    return row;
}

QHBoxLayout* segments(const QString& label, const QString& group_name, const QStringList& names,
                      const QStringList& tips, QButtonGroup* group, QWidget* parent) {
    auto* row = new QHBoxLayout;
    row->setSpacing(0);
    row->addWidget(new QLabel(label, parent));
    row->addSpacing(6);
    row->addStretch(1);
    for (int i = 0; i < names.size(); ++i) {
        auto* b = new QPushButton(names[i], parent);
        b->setCheckable(true);
        b->setProperty("segment", true);
        b->setChecked(i == 0);
        b->setObjectName(QStringLiteral("%1%2").arg(group_name).arg(i));
        b->setAccessibleName(label + ": " + names[i]);
        b->setToolTip(tips[i]);
        group->addButton(b, i);
        row->addWidget(b);
    }
    return row;
}

}  // namespace

WorkCard::WorkCard(Document* document, QWidget* parent) : QWidget(parent), document_(document) {
    setObjectName(QStringLiteral("workCard"));
    setAttribute(Qt::WA_StyledBackground);
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(14, 12, 14, 12);
    layout->setSpacing(9);
    back_ = new QPushButton(this);
    back_->setObjectName(QStringLiteral("backToCard"));
    back_->hide();
    connect(back_, &QPushButton::clicked, this, &WorkCard::back);
    layout->addWidget(back_, 0, Qt::AlignLeft);
    title_ = new QLabel(this);
    title_->setObjectName(QStringLiteral("cardTitle"));
    hint_ = new QLabel(this);
    hint_->setObjectName(QStringLiteral("soft"));
    hint_->setWordWrap(true);
    layout->addWidget(title_);
    layout->addWidget(hint_);
    add_choices(layout);
    add_triangle_settings(layout);
    add_plane_settings(layout);
    add_brush_settings(layout);
    add_growth(layout);
    add_shown(layout);
    connect(items_, &QButtonGroup::idClicked, this, [this](int id) { set_all_shown(id == 1); });
    connect(combine_, &QButtonGroup::idClicked, this, [this] { emit settings_changed(); });
    connect(depth_, &QButtonGroup::idClicked, this, [this] { emit settings_changed(); });
}

// What every fence asks: of which items, how it goes together with the selection, how deep.
void WorkCard::add_choices(QVBoxLayout* layout) {
    items_ = new QButtonGroup(this);
    items_row_ =
        row_of(segments(tr("Takes from"), QStringLiteral("items"), {tr("This item"), tr("All shown")},
                        {tr("Tools and decisions act on the item in work"),
                         tr("Tools and decisions act on every item that is shown and not locked")},
                        items_, this),
               this);
    layout->addWidget(items_row_);
    combine_ = new QButtonGroup(this);
    combine_row_ = row_of(
        segments(tr("Result"), QStringLiteral("combine"), {tr("New"), tr("Add"), tr("Take away"), tr("Both")},
                 {tr("The fence makes a new selection"), tr("What is in the fence is added (hold Shift)"),
                  tr("What is in the fence is taken away (hold Ctrl)"),
                  tr("Only what is selected and in the fence stays selected")},
                 combine_, this),
        this);
    layout->addWidget(combine_row_);
    depth_ = new QButtonGroup(this);
    depth_row_ = row_of(segments(tr("Depth"), QStringLiteral("depth"), {tr("Through"), tr("Visible only")},
                                 {tr("Everything inside the fence, near and far"),
                                  tr("Only what can be seen in this view; what lies behind it stays")},
                                 depth_, this),
                        this);
    layout->addWidget(depth_row_);
}

// What the tool shows: what was picked, and the spread of heights.
void WorkCard::add_shown(QVBoxLayout* layout) {
    picked_ = new QLabel(this);
    picked_->setObjectName(QStringLiteral("picked"));
    picked_->setWordWrap(true);
    picked_->setTextInteractionFlags(Qt::TextSelectableByMouse);
    picked_->hide();
    layout->addWidget(picked_);
    histogram_title_ = new QLabel(this);
    histogram_title_->setObjectName(QStringLiteral("soft"));
    histogram_title_->setWordWrap(true);
    layout->addWidget(histogram_title_);
    histogram_ = new HeightHistogram(this);
    layout->addWidget(histogram_);
    layout->addStretch(1);
    histogram_->hide();
    histogram_title_->hide();
}

LengthBox* WorkCard::number(const char* name, const QString& what, double value, double least, double most) {
    auto* box = new LengthBox(value, least, most, this);
    box->setObjectName(QString::fromLatin1(name));
    box->setAccessibleName(what);
    box->setToolTip(what);
    return box;
}

void WorkCard::add_plane_settings(QVBoxLayout* layout) {
    plane_settings_ = new QWidget(this);
    auto* rows = new QVBoxLayout(plane_settings_);
    rows->setContentsMargins(0, 0, 0, 0);
    side_ = new QButtonGroup(this);
    rows->addLayout(segments(tr("Side"), QStringLiteral("planeSide"), {tr("Above"), tr("Below")},
                             {tr("What lies above the plane"), tr("What lies below the plane")}, side_,
                             plane_settings_));
    auto* row = new QHBoxLayout;
    row->addWidget(new QLabel(tr("By more than"), plane_settings_));
    row->addStretch(1);
    offset_ = number("planeOffset",
                     tr("How far from the plane a point must lie to be taken; less than zero: also what lies "
                        "up to so much on the other side, as the noise of a table does"),
                     0.02, -1000, 1000);
    row->addWidget(offset_);
    rows->addLayout(row);
    plane_settings_->hide();
    layout->addWidget(plane_settings_);
    offset_->setKeyboardTracking(false);
    connect(offset_, &QDoubleSpinBox::valueChanged, this, &WorkCard::plane_changed);
    connect(side_, &QButtonGroup::idClicked, this, &WorkCard::plane_changed);
}

void WorkCard::add_brush_settings(QVBoxLayout* layout) {
    brush_settings_ = new QWidget(this);
    auto* row = new QHBoxLayout(brush_settings_);
    row->setContentsMargins(0, 0, 0, 0);
    row->addWidget(new QLabel(tr("Strength of the brush"), brush_settings_));
    row->addStretch(1);
    strength_ = new QSpinBox(brush_settings_);
    strength_->setObjectName(QStringLiteral("brushStrength"));
    strength_->setRange(1, 100);
    strength_->setValue(50);
    strength_->setSuffix(tr(" %"));
    strength_->setToolTip(tr("How far one pass of the brush goes"));
    row->addWidget(strength_);
    brush_settings_->hide();
    layout->addWidget(brush_settings_);
}

void WorkCard::add_triangle_settings(QVBoxLayout* layout) {
    triangle_settings_ = new QWidget(this);
    auto* rows = new QVBoxLayout(triangle_settings_);
    rows->setContentsMargins(0, 0, 0, 0);
    triangles_ = new QButtonGroup(this);
    rows->addLayout(segments(
        tr("Takes"), QStringLiteral("triangles"), {tr("Middle in"), tr("Touched"), tr("Whole")},
        {tr("Triangles whose middle lies in the shape"), tr("Triangles that lie in the shape with any part"),
         tr("Triangles that lie in the shape wholly")},
        triangles_, triangle_settings_));
    towards_ = new QCheckBox(tr("Only what faces the view"), triangle_settings_);
    towards_->setObjectName(QStringLiteral("towardsOnly"));
    towards_->setToolTip(tr("Triangles whose back is turned to the view are left alone"));
    rows->addWidget(towards_);
    triangle_settings_->hide();
    layout->addWidget(triangle_settings_);
}

void WorkCard::add_command(QHBoxLayout* row, const char* name, const QString& text, const char* id,
                           const QString& tip) {
    auto* b = new QPushButton(text, this);
    b->setObjectName(QString::fromLatin1(name));
    b->setToolTip(tip);
    b->setProperty("segment", true);
    connect(b, &QPushButton::clicked, this, [this, id] { emit command(QString::fromLatin1(id)); });
    row->addWidget(b);
}

void WorkCard::add_growth(QVBoxLayout* layout) {
    auto* first = new QHBoxLayout;
    step_title_ = new QLabel(tr("Step"), this);
    first->addWidget(step_title_);
    first->addStretch(1);
    reach_ = number("reach", tr("Step of growing, shrinking and connecting"), 0.05, 0.001, 100);
    first->addWidget(reach_);
    tolerance_ = new QSpinBox(this);
    tolerance_->setObjectName(QStringLiteral("colourTolerance"));
    tolerance_->setAccessibleName(tr("How far alike colours may differ, of 255 in each of red, green, blue"));
    tolerance_->setToolTip(tolerance_->accessibleName());
    tolerance_->setRange(0, 255);
    tolerance_->setPrefix(tr("colour ± "));
    tolerance_->setValue(20);
    first->addWidget(tolerance_);
    crease_ = new QDoubleSpinBox(this);
    crease_->setObjectName(QStringLiteral("crease"));
    crease_->setAccessibleName(tr("How far triangles side by side may turn that count as alike"));
    crease_->setToolTip(crease_->accessibleName());
    crease_->setRange(0.1, 180);
    crease_->setDecimals(1);
    crease_->setSuffix(QStringLiteral("°"));
    crease_->setValue(20);
    crease_->hide();
    first->addWidget(crease_);
    growth_ = new QWidget(this);
    auto* rows = new QVBoxLayout(growth_);
    rows->setContentsMargins(0, 0, 0, 0);
    rows->addLayout(first);
    auto* second = new QHBoxLayout;
    second->setSpacing(0);
    add_command(second, "growButton", tr("Grow"), "select.grow",
                tr("Adds what lies within one step of the selection"));
    add_command(second, "shrinkButton", tr("Shrink"), "select.shrink",
                tr("Takes off what lies within one step of the rest"));
    add_command(second, "connectButton", tr("Connected"), "select.connected",
                tr("Adds everything reached in such steps"));
    add_command(second, "similarButton", tr("Alike"), "select.similar",
                tr("The same, but only over similar colours"));
    rows->addLayout(second);
    layout->addWidget(growth_);
    add_ground(layout);
}

void WorkCard::add_ground(QVBoxLayout* layout) {
    ground_settings_ = new QWidget(this);
    auto* third = new QHBoxLayout(ground_settings_);
    third->setContentsMargins(0, 0, 0, 0);
    third->addWidget(new QLabel(tr("Ground"), this));
    margin_ = number("groundMargin", tr("The ground guard protects this much above the ground"), 0.05, 0, 10);
    third->addStretch(1);
    third->addWidget(margin_);
    third->setSpacing(4);
    add_command(third, "groundButton", tr("Guard"), "decide.guard_ground",
                tr("Protects ground and floors, up to this margin above them, from every tool"));
    layout->addWidget(ground_settings_);
}

double WorkCard::reach() const {
    return reach_->in_data();
}
int WorkCard::colour_tolerance() const {
    return tolerance_->value();
}
select::Reach WorkCard::reach_of() const {
    return static_cast<select::Reach>(triangles_->checkedId());
}
bool WorkCard::towards_only() const {
    return towards_->isChecked();
}
double WorkCard::crease_deg() const {
    return crease_->value();
}
double WorkCard::ground_margin() const {
    return margin_->in_data();
}
double WorkCard::plane_offset() const {
    return offset_->in_data();
}
bool WorkCard::below_plane() const {
    return side_->checkedId() == 1;
}
double WorkCard::brush_strength() const {
    return strength_->value() / 100.0;
}
void WorkCard::set_picked(const QString& text) {
    picked_->setText(text);
    picked_->setVisible(!text.isEmpty());
}
QString WorkCard::picked() const {
    return picked_->text();
}

void WorkCard::set_tool(const ToolSpec& tool) {
    title_->setText(tool.title);
    hint_->setText(tr("%1. Right drag turns the view, the wheel zooms, at any time.").arg(tool.help));
    settings_ = tool.settings;
    tool_ = QString::fromLatin1(tool.command);
    if (settings_.combine && all_shown() != QSettings().value("all_shown/" + tool_).toBool())
        set_all_shown(!all_shown());
    combine_row_->setVisible(settings_.combine);
    depth_row_->setVisible(settings_.depth);
    growth_->setVisible(settings_.combine);
    plane_settings_->setVisible(settings_.plane);
    brush_settings_->setVisible(settings_.strength);
    refresh();
}

void WorkCard::set_waiting(const QString& card_title) {
    back_->setText(tr("Back to: %1").arg(card_title));
    back_->setVisible(!card_title.isEmpty());
}

site::Combine WorkCard::combine() const {
    return static_cast<site::Combine>(combine_->checkedId());
}
void WorkCard::set_combine(site::Combine c) {
    combine_->button(static_cast<int>(c))->setChecked(true);
}
bool WorkCard::visible_only() const {
    return depth_->checkedId() == 1;
}
void WorkCard::set_visible_only(bool on) {
    depth_->button(on ? 1 : 0)->setChecked(true);
}
bool WorkCard::all_shown() const {
    return items_->checkedId() == 1;
}
void WorkCard::set_all_shown(bool on) {
    items_->button(on ? 1 : 0)->setChecked(true);
    if (settings_.combine) QSettings().setValue("all_shown/" + tool_, on);
    emit settings_changed();
    emit all_shown_changed();
}

void WorkCard::refresh() {
    const Document::Numbers& n = document_->numbers();
    const Lengths lengths(*document_->site());
    const site::ItemPtr item = document_->site()->active_item();
    const bool triangles = item && item->cloud->triangles();
    items_row_->setVisible(settings_.combine && (all_shown() || document_->site()->items.size() > 1));
    triangle_settings_->setVisible(triangles && settings_.triangles);
    crease_->setVisible(triangles);
    ground_settings_->setVisible(!triangles && settings_.combine);
    reach_->setVisible(!triangles);
    tolerance_->setVisible(!triangles);
    step_title_->setText(triangles ? tr("A ring; alike up to") : tr("Step"));
    for (LengthBox* box : {reach_, margin_, offset_}) box->set_lengths(lengths);
    const bool show = n.ready && !n.detail.above_ground.empty();
    histogram_->setVisible(show);
    histogram_title_->setVisible(show || n.count > 0);
    if (show) {
        histogram_title_->setText(tr("Height above the ground of what is selected"));
        histogram_->set(n.detail.above_ground, lengths.text(n.detail.histogram_top));
    } else {
        histogram_title_->setText(n.count > 0 && !n.ready ? tr("Measuring the selection…") : QString());
    }
}

}  // namespace pristine::app
