// The rule card: colours that the stage shows, and colours that are taken off it instead of typed.

#include <QFormLayout>
#include <QHBoxLayout>
#include <algorithm>

#include "app/cards/rule_card.h"
#include "app/look/make.h"
#include "app/model/document.h"
#include "core/score/colour_sample.h"

namespace pristine::app {

std::shared_ptr<const cloud::FetchedColumn> RuleCard::colours() const {
    if (!is_open() || !column_ || !colour_->isChecked()) return nullptr;
    auto c = std::make_shared<cloud::FetchedColumn>();
    c->base = column_->base;
    c->values = column_->values;
    c->lo = static_cast<float>(profile_.low - column_->base);
    c->hi = static_cast<float>(profile_.high - column_->base);
    return c;
}

void RuleCard::add_colour_picks() {
    colours_taken_ = 0;
    colour_spread_ = 0;
    auto* row = new QWidget(this);
    auto* buttons = new QHBoxLayout(row);
    buttons->setContentsMargins(0, 0, 0, 0);
    auto* click =
        make_button(row, "ruleColourPick", tr("Click a colour"),
                    tr("The colour of the points round a click in the stage; another click adds another "
                       "colour, up to four"));
    auto* chosen = make_button(row, "ruleColourSelection", tr("Of the selection"),
                               tr("The mean colour of what is selected: fence or paint an area of it first"));
    buttons->addWidget(click);
    buttons->addWidget(chosen);
    parameters_->addRow(row);
    connect(click, &QPushButton::clicked, this, [this] { emit pick_wanted(tr("Click the colour.")); });
    connect(chosen, &QPushButton::clicked, this, [this] {
        const site::SitePtr s = document_->site();
        const site::ItemPtr item = s->active_item();
        const site::SetPtr set = s->of_removed ? nullptr : s->selection_in_work();
        if (!item || !set) return emit said(tr("Select some points of that colour first."));
        take_colour(score::sample_colours(*item->cloud, *set));
    });
}

void RuleCard::picked(const Vec3& place) {
    if (score_ && score_->id == "plane") return plane_picked(place);
    const site::ItemPtr item = document_->site()->active_item();
    if (item) take_colour(score::colour_at(*item->cloud, ~*item->absent, place));
}

void RuleCard::set_box(const char* parameter, double value) {
    for (QDoubleSpinBox* box : boxes_)
        if (box->objectName() == QStringLiteral("rule.") + QString::fromLatin1(parameter)) {
            const QSignalBlocker quiet(box);
            box->setValue(value);
        }
}

// The first one is the colour itself, those that follow are added to it; the range reaches as far as they
// spread.
void RuleCard::take_colour(const std::optional<score::ColourSample>& sample) {
    if (!sample) return emit said(tr("There are no points with a colour here."));
    if (colours_taken_ == 0) {
        set_box("red", sample->rgb >> 16 & 255u);
        set_box("green", sample->rgb >> 8 & 255u);
        set_box("blue", sample->rgb & 255u);
        for (const char* name : {"second", "third", "fourth"}) set_box(name, -1);
    } else {
        static constexpr const char* kMore[] = {"second", "third", "fourth"};
        set_box(kMore[std::min(colours_taken_ - 1, 2)], sample->rgb);
    }
    colours_taken_ = std::min(colours_taken_ + 1, 4);
    colour_spread_ = std::max(colour_spread_, sample->spread);
    compute();
    emit said(tr("#%1, from %2 points that differ from it by up to %3.")
                  .arg(sample->rgb, 6, 16, QLatin1Char('0'))
                  .arg(sample->count)
                  .arg(sample->spread, 0, 'f', 1));
}

bool RuleCard::show_colour_range() {
    constexpr double kLeast = 4, kMost = 40, kMargin = 1.2;
    if (score_->id != "colour" || colours_taken_ == 0) return false;
    filling_ = true;
    lo_->setValue(0);
    hi_->setValue(std::clamp(kMargin * colour_spread_, kLeast, kMost));
    filling_ = false;
    range_edited();
    return true;
}

}  // namespace pristine::app
