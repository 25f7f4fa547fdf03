#include "app/handover/picture_page.h"

#include <QCheckBox>
#include <QComboBox>
#include <QDoubleSpinBox>
#include <QFileDialog>
#include <QFormLayout>
#include <QHBoxLayout>
#include <QLabel>
#include <QPainter>
#include <QPushButton>
#include <QSettings>
#include <QSignalBlocker>
#include <QSpinBox>
#include <QTimer>

#include "app/handover/material.h"
#include "app/look/lengths.h"
#include "app/look/make.h"
#include "app/look/theme.h"
#include "app/model/document.h"
#include "app/stage/stage.h"
#include "core/base/output.h"
#include "core/io/ending.h"
#include "core/report/client_page.h"
#include "core/report/paint.h"

namespace pristine::app {

namespace {

// A board of light and dark squares behind what is transparent.
QPixmap on_board(const report::Image& image, QSize room) {
    const QImage own(reinterpret_cast<const uchar*>(image.argb.data()), image.width, image.height,
                     image.width * 4, QImage::Format_ARGB32);
    const QImage small = own.scaled(room, Qt::KeepAspectRatio, Qt::SmoothTransformation);
    QPixmap out(small.size());
    QPainter p(&out);
    constexpr int kSquare = 12;
    for (int y = 0; y < small.height(); y += kSquare)
        for (int x = 0; x < small.width(); x += kSquare)
            p.fillRect(
                x, y, kSquare, kSquare,
                (x / kSquare + y / kSquare) % 2 == 0 ? QColor(0xFF, 0xFD, 0xF9) : QColor(0xDE, 0xD8, 0xCB));
    p.drawImage(0, 0, small);
    return out;
}

}  // namespace

PicturePage::PicturePage(Document* document, const Stage* stage, Jobs* jobs, QWidget* foot, QWidget* parent)
    : Cover("picturePage", foot, parent), document_(document), stage_(stage), drawing_(jobs), writing_(jobs) {
    QVBoxLayout* middle = build_frame(tr("Picture, film, page for the client"), build_settings());
    view_ = new QLabel(this);
    view_->setObjectName(QStringLiteral("pictureView"));
    view_->setAccessibleName(tr("The picture, in small"));
    view_->setAlignment(Qt::AlignCenter);
    view_->setMinimumSize(80, 80);
    view_->setProperty("copies_as_picture", true);
    middle->addWidget(view_, 1);
    soon_ = new QTimer(this);
    soon_->setSingleShot(true);
    soon_->setInterval(250);
    connect(soon_, &QTimer::timeout, this, &PicturePage::draw);
    follow(document_, [this] { draw(); });
}

QWidget* PicturePage::build_settings() {
    QVBoxLayout* rows = nullptr;
    QWidget* side = build_side(rows);
    form_ = new QFormLayout;
    form_->setSpacing(8);
    form_->addRow(tr("&What"), kind_ = make_choice(side, "pictureKind", tr("What is made")));
    kind_->addItem(tr("a picture"), static_cast<int>(Kind::Still));
    kind_->addItem(tr("before and after, side by side"), static_cast<int>(Kind::Pair));
    kind_->addItem(tr("a film: once round"), static_cast<int>(Kind::Turn));
    kind_->addItem(tr("a film: along a line"), static_cast<int>(Kind::Flight));
    kind_->addItem(tr("a page for the client"), static_cast<int>(Kind::Page));
    build_size(side, form_);
    build_film(side, form_);
    rows->addLayout(form_);
    legend_ = add_box(rows, "pictureLegend", tr("Scale bar, north arrow and words"), true);
    clear_ = add_box(rows, "pictureClear", tr("Nothing behind it (transparent)"), false);
    before_ = add_box(rows, "pictureBefore", tr("As it was before any decision"), false);
    rows->addStretch(1);
    rows->addWidget(state_ = make_sentence(side, "pictureState"));
    rows->addWidget(write_ = make_main_button(side, "pictureWrite", tr("Write…")));
    const auto later = [this] { soon_->start(); };
    connect(kind_, &QComboBox::currentIndexChanged, this, &PicturePage::follow_kind);
    for (QComboBox* c : {from_, line_})
        connect(c, &QComboBox::currentIndexChanged, this, &PicturePage::follow_kind);
    for (QSpinBox* s : {width_, height_}) connect(s, &QSpinBox::valueChanged, this, later);
    for (QDoubleSpinBox* s : {yaw_, pitch_}) connect(s, &QDoubleSpinBox::valueChanged, this, later);
    for (QCheckBox* b : {legend_, clear_, before_}) connect(b, &QCheckBox::toggled, this, &PicturePage::draw);
    connect(write_, &QPushButton::clicked, this, &PicturePage::choose_file);
    return side;
}

QCheckBox* PicturePage::add_box(QVBoxLayout* rows, const char* name, const QString& text, bool on) {
    auto* b = new QCheckBox(text);
    b->setObjectName(QString::fromLatin1(name));
    b->setChecked(on);
    rows->addWidget(b);
    return b;
}

namespace {

template <class Spin, class Value>
Spin* make_spin(QWidget* side, const char* name, const QString& what, Value least, Value most,
                const QString& unit) {
    auto* s = new Spin(side);
    s->setObjectName(QString::fromLatin1(name));
    s->setAccessibleName(what);
    s->setRange(least, most);
    s->setSuffix(unit);
    return s;
}

}  // namespace

void PicturePage::build_size(QWidget* side, QFormLayout* form) {
    form->addRow(tr("&From"), from_ = make_choice(side, "pictureFrom", tr("Viewpoint")));
    from_->addItems({tr("the direction of the stage"), tr("above"), tr("a direction that is typed")});
    yaw_ = make_spin<QDoubleSpinBox>(side, "pictureYaw", tr("Looking to: 0 north, 90 east"), -360.0, 360.0,
                                     tr("°"));
    pitch_ = make_spin<QDoubleSpinBox>(side, "picturePitch", tr("Tilt: -90 straight down, 0 level"), -90.0,
                                       90.0, tr("°"));
    yaw_->setDecimals(1), pitch_->setDecimals(1);
    yaw_->setValue(45), pitch_->setValue(-30);
    form->addRow(tr("&Looking to"), yaw_);
    form->addRow(tr("&Tilt"), pitch_);
    width_ = make_spin<QSpinBox>(side, "pictureWidth", tr("Width"), 16, 30'000, tr(" pixels"));
    height_ = make_spin<QSpinBox>(side, "pictureHeight", tr("Height"), 16, 30'000, tr(" pixels"));
    width_->setValue(1920), height_->setValue(1080);
    form->addRow(tr("W&idth"), width_);
    form->addRow(tr("&Height"), height_);
}

void PicturePage::build_film(QWidget* side, QFormLayout* form) {
    form->addRow(tr("Al&ong"), line_ = make_choice(side, "pictureLine", tr("Line of the flight")));
    frames_ = make_spin<QSpinBox>(side, "pictureFrames", tr("How many frames"), 2, 10'000, QString());
    seconds_ = make_spin<QDoubleSpinBox>(side, "pictureSeconds", tr("How long"), 0.1, 3600.0, tr(" s"));
    megabytes_ = make_spin<QSpinBox>(side, "pictureMegabytes", tr("Size of the page"), 5, 50, tr(" MB"));
    frames_->setValue(72), seconds_->setValue(6), megabytes_->setValue(12);
    seconds_->setDecimals(1);
    form->addRow(tr("F&rames"), frames_);
    form->addRow(tr("&Duration"), seconds_);
    form->addRow(tr("&Size"), megabytes_);
}

PicturePage::Kind PicturePage::kind() const {
    return static_cast<Kind>(kind_->currentData().toInt());
}

void PicturePage::fill_lines() {
    const QSignalBlocker quiet(line_);
    line_->clear();
    for (const site::LinePtr& l : document_->site()->lines)
        if (l->points.size() > 1)
            line_->addItem(QString::fromStdString(l->name), QVariant::fromValue(quint64{l->id}));
}

void PicturePage::open() {
    cover();
    fill_lines();
    state_->clear();
    show();
    raise();
    kind_->setFocus();
    follow_kind();
}

// Only the fields that count are there.
void PicturePage::follow_kind() {
    const Kind k = kind();
    const bool film = k == Kind::Turn || k == Kind::Flight, page = k == Kind::Page;
    const auto shown = [this](QWidget* field, bool on) {
        field->setVisible(on);
        form_->labelForField(field)->setVisible(on);
    };
    const bool typed = from_->currentIndex() == 2;
    shown(from_, !page && k != Kind::Flight);
    shown(yaw_, !page && k != Kind::Flight && typed);
    shown(pitch_, !page && k != Kind::Flight && typed);
    shown(width_, !page);
    shown(height_, !page);
    shown(line_, k == Kind::Flight);
    shown(frames_, film);
    shown(seconds_, film);
    shown(megabytes_, page);
    legend_->setVisible(!page);
    clear_->setVisible(!page);
    before_->setVisible(k == Kind::Still || film);
    draw();
}

report::StillLook PicturePage::look() const {
    report::StillLook l;
    l.width = width_->value(), l.height = height_->value();
    const render::Camera& c = stage_->camera();
    const bool typed = from_->currentIndex() == 2;
    l.yaw_deg = typed ? yaw_->value() : c.yaw_deg;
    l.pitch_deg = typed ? pitch_->value() : c.pitch_deg;
    l.plan = from_->currentIndex() == 1 && kind() != Kind::Turn;
    if (from_->currentIndex() == 1 && kind() == Kind::Turn) l.pitch_deg = -89;
    l.legend = legend_->isChecked();
    l.clear = clear_->isChecked();
    l.before = before_->isChecked() && kind() != Kind::Pair && kind() != Kind::Page;
    return l;
}

report::FilmSpec PicturePage::film() const {
    report::FilmSpec f;
    f.look = look();
    f.frames = frames_->value();
    f.seconds = seconds_->value();
    if (kind() == Kind::Flight)
        for (const site::LinePtr& l : document_->site()->lines)
            if (l->id == line_->currentData().toULongLong()) f.along = l->points;
    return f;
}

// In the proportions of what will be written; of a film its first frame.
void PicturePage::draw() {
    soon_->stop();
    fresh_ = false;
    if (!isVisible()) return;
    const bool no_line = kind() == Kind::Flight && line_->count() == 0;
    write_->setEnabled(!no_line);
    if (no_line) {
        view_->clear();
        state_->setText(tr("There is no line to fly along: draw one, or open one."));
        return drawing_.drop();
    }
    report::StillLook l = look();
    const double share = std::min({1.0, 1000.0 / l.width, 700.0 / l.height});
    l.width = std::max(16, static_cast<int>(l.width * share));
    l.height = std::max(16, static_cast<int>(l.height * share));
    drawing_.start<report::Image>(
        tr("Drawing the picture"),
        [m = material_of(*document_), l, pair = kind() == Kind::Pair](Progress&, report::Image& out) {
            out = pair ? report::before_and_after(m, l) : report::still(m, l);
        },
        [this](report::Image& image) {
            preview_ = std::move(image);
            fresh_ = true;
            state_->clear();
            show_preview();
        },
        [this](const QString& why) {
            state_->setText(why);
            view_->clear();
            write_->setEnabled(why.isEmpty());
        },
        Jobs::Show::IfLong);
}

void PicturePage::show_preview() {
    if (fresh_) view_->setPixmap(on_board(preview_, view_->size() - QSize(32, 32)));
}

void PicturePage::resizeEvent(QResizeEvent* e) {
    Cover::resizeEvent(e);
    show_preview();
}

void PicturePage::choose_file() {
    const Kind k = kind();
    const bool film = k == Kind::Turn || k == Kind::Flight;
    const QString ending = film              ? QStringLiteral("webp")
                           : k == Kind::Page ? QStringLiteral("html")
                                             : QStringLiteral("png");
    QString name = QString::fromStdString(document_->site()->name);
    name.replace(QLatin1Char('/'), QLatin1Char('-'));
    QString file = QFileDialog::getSaveFileName(
        this, tr("Write it"),
        QSettings().value("folder").toString() + QLatin1Char('/') + name + QLatin1Char('.') + ending,
        film ? tr("Animated WebP (*.webp);;A folder of PNG frames (*)")
             : QStringLiteral("%1 (*.%2)").arg(ending.toUpper(), ending));
    if (file.isEmpty()) return;
    if (!film && !file.endsWith(QLatin1Char('.') + ending, Qt::CaseInsensitive))
        file += QLatin1Char('.') + ending;
    write(file.toStdString(), true);  // the dialog has asked
}

void PicturePage::write(const std::filesystem::path& path, bool replace) {
    if (kind() == Kind::Page) return write_page(path, replace);
    const bool films = kind() == Kind::Turn || kind() == Kind::Flight;
    write_->setEnabled(false);
    writing_.start<bool>(
        tr("Writing %1").arg(QString::fromStdString(path.filename().string())),
        [m = material_of(*document_), l = look(), f = film(), films, pair = kind() == Kind::Pair, path,
         replace](Progress& p, bool&) {
            if (films) return report::write_film(m, f, path, replace, p);
            const report::Image image = pair ? report::before_and_after(m, l) : report::still(m, l);
            p.check();
            OutputFile out(path, replace);
            out.write(report::png_of(image));
            out.finish();
        },
        [this, path](bool&) {
            write_->setEnabled(true);
            emit said(tr("Written: %1").arg(QString::fromStdString(path.string())), false);
            emit wrote(path);
        },
        [this](const QString& why) {
            write_->setEnabled(true);
            if (!why.isEmpty()) emit said(why, true);
        });
}

void PicturePage::write_page(const std::filesystem::path& path, bool replace) {
    write_->setEnabled(false);
    report::ClientPageSpec spec;
    spec.megabytes = megabytes_->value();
    writing_.start<report::ClientPageSize>(
        tr("Writing %1").arg(QString::fromStdString(path.filename().string())),
        [m = material_of(*document_), s = kept_setup(*document_), spec, path, replace](
            Progress& p, report::ClientPageSize& size) mutable {
            m.dpi = 110;  // for screens
            for (report::PartSetup& part : s.parts)
                if (part.kind == "ledger" || part.kind == "rules" || part.kind == "sources") part.on = false;
            const report::ClientPage page = report::client_page(m, report::compose(m, s, p), spec, p);
            OutputFile out(path, replace);
            out.write(page.html);
            out.finish();
            size = page.size;
        },
        [this, path](report::ClientPageSize& size) {
            write_->setEnabled(true);
            const QString held =
                size.of_points > 0
                    ? tr("%1 of %2 points").arg(grouped(size.points), grouped(size.of_points))
                    : tr("%1 of %2 triangles").arg(grouped(size.triangles), grouped(size.of_triangles));
            state_->setText(tr("The page shows %1.").arg(held));
            emit said(tr("Written: %1").arg(QString::fromStdString(path.string())), false);
            emit wrote(path);
        },
        [this](const QString& why) {
            write_->setEnabled(true);
            if (!why.isEmpty()) emit said(why, true);
        });
}

}  // namespace pristine::app
