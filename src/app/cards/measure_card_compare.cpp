// What the measure board says beside the figures of one comparison: work areas, pinned figures, and how well
// the heights of both surfaces are known.

#include <QComboBox>
#include <QFileDialog>
#include <QPushButton>
#include <QSettings>

#include "app/cards/measure_card.h"
#include "app/look/rich_label.h"
#include "app/model/document.h"
#include "core/base/error.h"
#include "core/base/output.h"
#include "core/io/area_table.h"
#include "core/site/heights.h"

namespace pristine::app {

void MeasureCard::say_areas(const Lengths& l) {
    const bool any = figures_ && figures_->areas;
    for (QWidget* w : std::initializer_list<QWidget*>{areas_, areas_said_, save_areas_}) w->setVisible(any);
    if (!any) return;
    areas_->show_areas(*figures_->areas, l);
    areas_said_->setText(AreaList::check_of(*figures_->areas, l));
}

void MeasureCard::say_pinned(const Lengths& l) {
    const QString text = pinned_ && figures_ ? text_beside(*figures_, *pinned_, pinned_of_, l) : QString();
    set_rich(pinned_text_, pinned_ && text.isEmpty() && figures_
                               ? tr("What is pinned (%1) has no figure in common with this.").arg(pinned_of_)
                               : text);
    pinned_text_->setVisible(pinned_ != nullptr);
    pin_->setChecked(pinned_ != nullptr);
}

void MeasureCard::pin() {
    pinned_ = pinned_ || !fresh_ ? nullptr : figures_;
    pinned_of_ = QString::fromStdString(measured_);
    if (pinned_ && pinned_->difference && other_->currentIndex() >= 0)
        pinned_of_ = tr("%1 against %2").arg(pinned_of_, other_->currentText());
    if (pinned_ && within_->currentIndex() > 0)
        pinned_of_ = tr("%1, inside %2").arg(pinned_of_, within_->currentText());
    say_pinned(Lengths(*document_->site()));
}

void MeasureCard::propose_band() {
    if (!figures_ || !figures_->difference) return;
    band_->setValue(
        band_->lengths().shown(two_digits(measure::proposed_band(figures_->earlier, figures_->later))));
}

void MeasureCard::save_areas(const std::filesystem::path& file) {
    if (!fresh_ || !figures_ || !figures_->areas)
        throw Error(ErrorCode::Usage, "There is no table of work areas yet");
    const site::ItemPtr item = document_->site()->active_item();
    OutputFile out(file, true);
    out.write(io::area_table(*figures_->areas, figures_->band, item->cloud->reference()));
    out.finish();
}

void MeasureCard::choose_areas_file() {
    const QString file = QFileDialog::getSaveFileName(
        this, tr("Save the work areas"), QSettings().value("folder").toString(), tr("Tables (*.csv)"));
    if (file.isEmpty()) return;
    try {
        save_areas(file.toStdString());
        emit said(tr("Saved %1").arg(file));
    } catch (const Error& e) {
        emit said(QString::fromStdString(e.what()));
    }
}

// What is known of the heights of a surface: what a person gave here holds for both, then what their surveys
// state.
MeasureCard::Sigma MeasureCard::sigma_of(const site::Item& item) const {
    Sigma s{site::heights_of(*document_->site(), item), tr("by local fits")};
    const site::Survey* survey = document_->site()->survey(item.survey);
    if (survey && survey->noise > 0)
        s.noise_from = tr("of the survey %1").arg(QString::fromStdString(survey->name));
    if (noise_->in_data() > 0) {
        s.heights.noise = noise_->in_data();
        s.noise_from = tr("as given");
    }
    return s;
}

}  // namespace pristine::app
