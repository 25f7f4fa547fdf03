#include "app/window/settings_dialog.h"

#include <QCheckBox>
#include <QDialogButtonBox>
#include <QDir>
#include <QDoubleSpinBox>
#include <QFileDialog>
#include <QFormLayout>
#include <QHBoxLayout>
#include <QLabel>
#include <QLineEdit>
#include <QPlainTextEdit>
#include <QPushButton>
#include <QSpinBox>

#include "app/look/make.h"
#include "core/base/error.h"
#include "core/base/file.h"
#include "core/base/memory.h"
#include "core/base/output.h"

namespace pristine::app {
namespace {

constexpr double kGiB = 1024.0 * 1024 * 1024;

QLabel* heading(const QString& text) {
    auto* l = new QLabel(text);
    QFont font = l->font();
    font.setBold(true);
    l->setFont(font);
    return l;
}

}  // namespace

SettingsDialog::SettingsDialog(QWidget* parent) : QDialog(parent) {
    setObjectName("settings");
    setWindowTitle(tr("Settings"));
    auto* form = new QFormLayout(this);
    add_work(form);
    add_mouse(form);
    add_memory(form);
    said_ = make_sentence(this, "settings_said");
    form->addRow(said_);
    auto* buttons = new QDialogButtonBox(QDialogButtonBox::Ok | QDialogButtonBox::Cancel);
    auto* save = buttons->addButton(tr("&Export…"), QDialogButtonBox::ActionRole);
    auto* load = buttons->addButton(tr("&Import…"), QDialogButtonBox::ActionRole);
    save->setObjectName("settings_export");
    load->setObjectName("settings_import");
    connect(save, &QPushButton::clicked, this, &SettingsDialog::choose_export);
    connect(load, &QPushButton::clicked, this, &SettingsDialog::choose_import);
    connect(buttons, &QDialogButtonBox::accepted, this, &QDialog::accept);
    connect(buttons, &QDialogButtonBox::rejected, this, &QDialog::reject);
    form->addRow(buttons);
    show_preferences(preferences());
}

void SettingsDialog::add_work(QFormLayout* form) {
    form->addRow(heading(tr("Work")));
    person_ = new QLineEdit;
    person_->setObjectName("settings_person");
    person_->setPlaceholderText(tr("the login name"));
    person_->setToolTip(tr("Stands with every decision from now on; those that were made keep their name"));
    form->addRow(tr("&Name that signs decisions"), person_);
    reasons_ = new QPlainTextEdit;
    reasons_->setObjectName("settings_reasons");
    reasons_->setAccessibleName(tr("Reasons that are offered for decisions, one on each line"));
    reasons_->setPlaceholderText(tr("the usual ones; one on each line"));
    reasons_->setTabChangesFocus(true);
    reasons_->setMaximumHeight(92);
    form->addRow(tr("&Reasons on offer"), reasons_);
    codes_said_ = new QLabel;
    codes_said_->setObjectName("settings_codes");
    codes_forget_ = new QPushButton(tr("&Forget them"));
    codes_forget_->setObjectName("settings_codes_forget");
    codes_forget_->setToolTip(tr("New sites then propose what each code is by its word alone"));
    connect(codes_forget_, &QPushButton::clicked, this, [this] {
        codes_ = {};
        say_codes();
    });
    auto* codes = new QHBoxLayout;
    codes->addWidget(codes_said_, 1);
    codes->addWidget(codes_forget_);
    form->addRow(tr("Codes of survey lists"), codes);
    digits_ = new QSpinBox;
    digits_->setObjectName("settings_digits");
    digits_->setRange(0, 3);
    digits_->setSpecialValueText(tr("none"));
    digits_->setToolTip(
        tr("Lengths and coordinates are shown to about a centimetre, and this many digits more"));
    form->addRow(tr("More &digits behind lengths"), digits_);
    sagitta_ = new QDoubleSpinBox;
    sagitta_->setObjectName("settings_sagitta");
    sagitta_->setRange(0.1, 10'000);
    sagitta_->setDecimals(1);
    sagitta_->setSuffix(tr(" mm"));
    sagitta_->setToolTip(tr("Lines that are read from now on: no chord leaves its arc farther (sagitta)"));
    form->addRow(tr("Chords of &arcs, off by at most"), sagitta_);
}

void SettingsDialog::add_mouse(QFormLayout* form) {
    form->addRow(heading(tr("Mouse")));
    middle_ = new QCheckBox(tr("The &middle button turns, the right one moves"));
    middle_->setObjectName("settings_middle");
    wheel_ = new QCheckBox(tr("The &wheel towards you comes nearer"));
    wheel_->setObjectName("settings_wheel");
    form->addRow(middle_);
    form->addRow(wheel_);
    turning_ = new QDoubleSpinBox;
    turning_->setObjectName("settings_turning");
    turning_->setRange(0.1, 10);
    turning_->setSingleStep(0.25);
    turning_->setPrefix(QStringLiteral("× "));
    form->addRow(tr("&Turning, times the usual speed"), turning_);
    space_speed_ = new QDoubleSpinBox;
    space_speed_->setObjectName("settings_space_speed");
    space_speed_->setRange(0.1, 10);
    space_speed_->setSingleStep(0.25);
    space_speed_->setPrefix(QStringLiteral("× "));
    space_speed_->setToolTip(tr("A mouse with six axes, served by a daemon of this machine"));
    form->addRow(tr("&3D mouse, times the usual speed"), space_speed_);
    space_viewer_ = new QCheckBox(tr("The 3D mouse moves the &viewer, not the things"));
    space_viewer_->setObjectName("settings_space_viewer");
    form->addRow(space_viewer_);
}

void SettingsDialog::add_memory(QFormLayout* form) {
    form->addRow(heading(tr("Memory")));
    memory_ = new QDoubleSpinBox;
    memory_->setObjectName("settings_memory");
    memory_->setAccessibleName(tr("Memory for the program, GiB"));
    memory_->setRange(0.25, 4096);
    memory_->setDecimals(2);
    memory_->setSingleStep(0.5);
    memory_->setSuffix(tr(" GiB"));
    auto* note =
        new QLabel(tr("Scans that do not fit are kept in a file in %1 and looked into page by page. "
                      "The limit holds for scans opened from now on, and at once for those that are "
                      "in such a file already. Every change is on the disk at once: there is nothing to "
                      "save by itself.")
                       .arg(QString::fromStdString(scratch_folder().string())));
    note->setObjectName("settings_memory_note");
    note->setWordWrap(true);
    note->setTextInteractionFlags(Qt::TextSelectableByMouse);
    scratch_ = new QLineEdit;
    scratch_->setObjectName("settings_scratch");
    scratch_->setPlaceholderText(tr("the usual one"));
    scratch_->setToolTip(
        tr("A fast drive with room for the largest scan; a folder that is not there, or cannot be "
           "written, is passed over"));
    auto* browse = new QPushButton(tr("&Choose…"));
    browse->setObjectName("settings_scratch_choose");
    connect(browse, &QPushButton::clicked, this, &SettingsDialog::choose_scratch);
    auto* row = new QHBoxLayout;
    row->addWidget(scratch_, 1);
    row->addWidget(browse);
    form->addRow(tr("Mem&ory for the program"), memory_);
    form->addRow(tr("&Folder for what does not fit"), row);
    form->addRow(note);
}

void SettingsDialog::show_preferences(const Preferences& p) {
    memory_->setValue(p.memory_gib > 0 ? p.memory_gib : static_cast<double>(memory_budget()) / kGiB);
    person_->setText(p.person);
    scratch_->setText(p.scratch);
    codes_ = p.codes;
    say_codes();
    reasons_->setPlainText(p.reasons.join(QLatin1Char('\n')));
    digits_->setValue(p.more_digits);
    sagitta_->setValue(p.sagitta_m * 1000);
    middle_->setChecked(p.turn_with_middle);
    wheel_->setChecked(p.wheel_turned);
    turning_->setValue(p.turning);
    space_speed_->setValue(p.space_speed);
    space_viewer_->setChecked(p.space_viewer);
}

Preferences SettingsDialog::shown() const {
    Preferences p;
    p.memory_gib = memory_->value();
    p.person = person_->text().trimmed();
    p.scratch = scratch_->text().trimmed();
    p.codes = codes_;
    for (const QString& line : reasons_->toPlainText().split(QLatin1Char('\n')))
        if (!line.trimmed().isEmpty()) p.reasons << line.trimmed();
    p.more_digits = digits_->value();
    p.sagitta_m = sagitta_->value() / 1000;
    p.turn_with_middle = middle_->isChecked();
    p.wheel_turned = wheel_->isChecked();
    p.turning = turning_->value();
    p.space_speed = space_speed_->value();
    p.space_viewer = space_viewer_->isChecked();
    return p;
}

void SettingsDialog::say_codes() {
    const auto n = static_cast<int>(codes_.rules.size());
    codes_said_->setText(n == 0 ? tr("none is kept for new sites")
                                : tr("%n code(s) kept for new sites", "", n));
    codes_forget_->setEnabled(n > 0);
}

void SettingsDialog::choose_scratch() {
    const QString folder = QFileDialog::getExistingDirectory(
        this, tr("Folder for what does not fit in memory"), scratch_->text());
    if (!folder.isEmpty()) scratch_->setText(folder);
}

void SettingsDialog::accept() {
    set_preferences(shown());
    QDialog::accept();
}

void SettingsDialog::export_to(const std::filesystem::path& file) const {
    OutputFile out(file, true);
    out.write(written(shown()).toStdString());
    out.finish();
}

void SettingsDialog::import_from(const std::filesystem::path& file) {
    const InputFile in(file);
    constexpr std::uint64_t kLargest = 1 << 20;
    if (in.size() > kLargest) throw Error(ErrorCode::Format, "This is no file of settings", file.string());
    show_preferences(read_preferences(QByteArray::fromStdString(in.read_string(0, in.size()))));
}

void SettingsDialog::choose_export() {
    const QString file =
        QFileDialog::getSaveFileName(this, tr("Export the settings"), {}, tr("Settings (*.json)"));
    if (file.isEmpty()) return;
    try {
        export_to(file.toStdString());
        said_->setText(tr("Written to %1.").arg(file));
    } catch (const Error& e) {
        said_->setText(QString::fromStdString(e.what()));
    }
}

void SettingsDialog::choose_import() {
    const QString file =
        QFileDialog::getOpenFileName(this, tr("Import settings"), {}, tr("Settings (*.json);;All files (*)"));
    if (file.isEmpty()) return;
    try {
        import_from(file.toStdString());
        said_->setText(tr("These are the settings of %1: OK takes them.").arg(file));
    } catch (const Error& e) {
        said_->setText(QString::fromStdString(e.what()));
    }
}

std::filesystem::path usual_log() {
    const char* state = std::getenv("XDG_STATE_HOME");
    const std::filesystem::path home = QDir::homePath().toStdString();
    const std::filesystem::path folder =
        state && *state ? std::filesystem::path(state) : home / ".local/state";
    return folder / "pristine-cloud" / "log.txt";
}

}  // namespace pristine::app
