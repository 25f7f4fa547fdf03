#include "app/window/settings_dialog.h"

#include <QDialogButtonBox>
#include <QDir>
#include <QDoubleSpinBox>
#include <QFormLayout>
#include <QLabel>
#include <QSettings>

#include "core/base/memory.h"

namespace pristine::app {
namespace {

constexpr double kGiB = 1024.0 * 1024 * 1024;

}  // namespace

void apply_settings() {
    const double gib = QSettings().value("memory_gib", 0).toDouble();
    if (gib > 0 && !qEnvironmentVariableIsSet("PRISTINE_MEMORY"))
        set_memory_budget(static_cast<std::uint64_t>(gib * kGiB));
}

SettingsDialog::SettingsDialog(QWidget* parent) : QDialog(parent) {
    setObjectName("settings");
    setWindowTitle(tr("Settings"));
    memory_ = new QDoubleSpinBox;
    memory_->setObjectName("settings_memory");
    memory_->setAccessibleName(tr("Memory for the program, GiB"));
    memory_->setRange(0.25, 4096);
    memory_->setDecimals(2);
    memory_->setSingleStep(0.5);
    memory_->setSuffix(tr(" GiB"));
    memory_->setValue(static_cast<double>(memory_budget()) / kGiB);
    auto* note =
        new QLabel(tr("Scans that do not fit are kept in a file in\n%1\nand looked into page by page. "
                      "The limit holds for scans opened from now on,\nand at once for those that are "
                      "in such a file already.")
                       .arg(QString::fromStdString(scratch_folder().string())));
    note->setObjectName("settings_memory_note");
    note->setTextInteractionFlags(Qt::TextSelectableByMouse);
    auto* form = new QFormLayout(this);
    form->addRow(tr("&Memory for the program"), memory_);
    form->addRow(note);
    auto* buttons = new QDialogButtonBox(QDialogButtonBox::Ok | QDialogButtonBox::Cancel);
    connect(buttons, &QDialogButtonBox::accepted, this, &QDialog::accept);
    connect(buttons, &QDialogButtonBox::rejected, this, &QDialog::reject);
    form->addRow(buttons);
}

void SettingsDialog::accept() {
    QSettings().setValue("memory_gib", memory_->value());
    set_memory_budget(static_cast<std::uint64_t>(memory_->value() * kGiB));
    QDialog::accept();
}

std::filesystem::path usual_log() {
    const char* state = std::getenv("XDG_STATE_HOME");
    const std::filesystem::path home = QDir::homePath().toStdString();
    const std::filesystem::path folder =
        state && *state ? std::filesystem::path(state) : home / ".local/state";
    return folder / "pristine-cloud" / "log.txt";
}

}  // namespace pristine::app
