#include "app/window/views.h"

#include <QBuffer>
#include <QImage>
#include <QInputDialog>
#include <QMenu>
#include <nlohmann/json.hpp>

#include "app/cards/work_card.h"
#include "app/look/lengths.h"
#include "app/look/preferences.h"
#include "app/model/document.h"
#include "app/model/thumbnails.h"
#include "app/panes/panorama_pane.h"
#include "app/stage/stage.h"
#include "app/window/contents_panel.h"
#include "app/window/hand.h"
#include "app/window/scene_view.h"
#include "app/window/status_line.h"

namespace pristine::app {

namespace {

nlohmann::json view_json(const render::Camera& c) {
    return {{"eye", {c.eye.x, c.eye.y, c.eye.z}},
            {"yaw", c.yaw_deg},
            {"pitch", c.pitch_deg},
            {"focus", c.focus},
            {"perspective", c.perspective},
            {"field", c.field_deg}};
}

// Throws nlohmann::json::exception for a view that a later version wrote.
render::Camera camera_from(const nlohmann::json& j) {
    render::Camera c;
    c.eye = {j.at("eye").at(0), j.at("eye").at(1), j.at("eye").at(2)};
    c.yaw_deg = j.at("yaw");
    c.pitch_deg = j.at("pitch");
    c.focus = j.at("focus");
    c.perspective = j.at("perspective");
    c.field_deg = j.at("field");
    return c;
}

}  // namespace
Views::Views(Desk& desk) : Part(desk) {
    connect(document_, &Document::replaced, this, &Views::restore_view);
    connect(stage_, &Stage::settled_now, this, &Views::store_view);
    connect(&desk_, &Desk::leaving_site, this, [this] {
        picture_kept_.invalidate();  // the last one is of the site as it is left
        store_view();
    });
    connect(stage_, &Stage::camera_changed, this, [this] { commands_.refresh(); });
    connect(stage_, &Stage::pointed_at, this, [this](double x, double y) { pointer_ = {x, y}; });
    desk_.view->add_drawn([this] { return centre_mark(); });
    use(new SpaceMouse(SpaceMouse::daemon(), this));
}

void Views::use(SpaceMouse* mouse) {
    delete space_mouse_;
    space_mouse_ = mouse;
    connect(mouse, &SpaceMouse::moved, this, &Views::follow);
    connect(mouse, &SpaceMouse::pressed, this, [this](int button) {
        if (button == 0) commands_.trigger(QStringLiteral("view.all"));
        if (button == 1) commands_.trigger(QStringLiteral("view.earlier"));
    });
}

// Dialogs and other windows have no use for it.
void Views::follow(const SpaceMotion& m) {
    if (!stage_->isVisible() || stage_->scene().bounds().empty()) return;
    const Vec3 centre = stage_->turning_centre();
    const Preferences& p = preferences();
    stage_->move_camera(after_motion(stage_->camera(), m, p.space_speed, p.space_viewer, centre,
                                     stage_->frame().depth(centre), stage_->height()));
}

void Views::add_commands() {
    add_directions();
    add_places();
    add_what_is_shown();
}

// From where.
void Views::add_directions() {
    const struct {
        const char* id;
        QString title, help;
        Qt::Key key;
        render::AxisView view;
    } axis[] = {
        {"view.top", tr("From above"), tr("Looks straight down, north up"), Qt::Key_1, render::AxisView::Top},
        {"view.front", tr("From the front"), tr("Looks north, side-on"), Qt::Key_2, render::AxisView::Front},
        {"view.back", tr("From the back"), tr("Looks south, side-on"), Qt::Key_3, render::AxisView::Back},
        {"view.left", tr("From the left"), tr("Looks east, side-on"), Qt::Key_4, render::AxisView::Left},
        {"view.right", tr("From the right"), tr("Looks west, side-on"), Qt::Key_5, render::AxisView::Right},
        {"view.bottom", tr("From below"), tr("Looks straight up"), Qt::Key_6, render::AxisView::Bottom}};
    for (const auto& v : axis)
        commands_.add({v.id,
                       v.title,
                       v.help,
                       "",
                       QKeySequence(v.key),
                       tr("View"),
                       [this, view = v.view] { stage_->look_along(view); },
                       [this] { return needs_item(); },
                       {},
                       {}});
    commands_.add(
        {"view.perspective",
         tr("Perspective"),
         tr("With perspective as the eye sees, or parallel as on a plan; side-on views start parallel"),
         "perspective",
         QKeySequence(Qt::Key_P),
         tr("-View"),
         [this] { stage_->set_perspective(!stage_->camera().perspective); },
         {},
         [this] { return stage_ && stage_->camera().perspective; },
         {}});
    add(
        "view.centre", tr("Turn about this point"),
        tr("Every turn goes about the point under the pointer, until the command is given again"),
        QKeySequence(Qt::SHIFT | Qt::Key_V), tr("View"), [this] { fix_centre(); },
        [this] { return needs_item(); }, [this] { return stage_ && stage_->fixed_centre().has_value(); });
    for (const char* unit : {"", "m", "mm", "ft", "usft"})
        commands_.add(
            {QStringLiteral("view.unit_%1").arg(*unit ? QLatin1String(unit) : QLatin1String("data")),
             tr("Lengths %1").arg(*unit ? tr("in %1").arg(unit_title(unit)) : unit_title({})),
             tr("What is shown and typed; the data stay as they are"),
             "",
             {},
             *unit ? tr("View") : tr("-View"),
             [this, unit = std::string(unit)] {
                 document_->apply(tr("Lengths %1").arg(unit_title(unit)),
                                  [&](const site::Site& s) { return site::set_unit(s, unit); });
             },
             {},
             [this, unit = std::string(unit)] { return document_->site()->unit == unit; },
             {}});
}

void Views::fix_centre() {
    if (stage_->fixed_centre()) {
        stage_->fix_centre(std::nullopt);
        status_->say(tr("Turns go about the point under the pointer again."), false);
    } else if (!stage_->seen_at(pointer_)) {
        return say_refused(tr("There is no point under the pointer to turn about."));
    } else {
        stage_->fix_centre(stage_->anchor(pointer_));
        status_->say(tr("Turns go about this point until %1 releases it.")
                         .arg(commands_.find(QStringLiteral("view.centre"))->key.toString()),
                     false);
    }
    desk_.view->show_guides();
    commands_.refresh();
}

// The centre as a small cross, as long as it is fixed.
std::vector<Stage::Guide> Views::centre_mark() const {
    std::vector<Stage::Guide> out;
    if (!stage_->fixed_centre()) return out;
    const double arm = 0.008 * stage_->scene().robust_bounds().diagonal();
    for (int a = 0; a < 3; ++a) {
        Vec3 from = *stage_->fixed_centre(), to = from;
        from[a] -= arm;
        to[a] += arm;
        out.push_back({{from, to}, {}, true});
    }
    return out;
}

// What fills the stage, and views that are kept.
void Views::add_places() {
    commands_.add({"view.all",
                   tr("Everything"),
                   tr("Puts everything in view; lone stray points do not count"),
                   "everything",
                   QKeySequence(Qt::Key_Home),
                   tr("-View"),
                   [this] { stage_->look_at_everything(); },
                   [this] { return needs_item(); },
                   {},
                   {}});
    commands_.add({"view.selection",
                   tr("The selection"),
                   tr("Puts the selection in view"),
                   "",
                   QKeySequence(Qt::Key_F),
                   tr("View"),
                   [this] {
                       if (document_->numbers().ready) stage_->look_at(document_->numbers().detail.box);
                   },
                   [this] { return needs_selection(); },
                   {},
                   {}});
    commands_.add(
        {"view.earlier",
         tr("Earlier view"),
         tr("Back to the view before the last jump or turn"),
         "",
         QKeySequence(Qt::ALT | Qt::Key_Left),
         tr("View"),
         [this] { stage_->go_back(); },
         [this] { return stage_ && stage_->can_go_back() ? QString() : tr("There is no earlier view."); },
         {},
         {}});
    commands_.add(
        {"view.later",
         tr("The later view"),
         tr("Goes forward again after going back"),
         "",
         QKeySequence(Qt::ALT | Qt::Key_Right),
         tr("View"),
         [this] { stage_->go_forward(); },
         [this] { return stage_ && stage_->can_go_forward() ? QString() : tr("There is no later view."); },
         {},
         {}});
    commands_.add({"view.keep",
                   tr("Keep this view under a name…"),
                   tr("It stays with the project and can be gone back to at any time"),
                   "",
                   {},
                   tr("View"),
                   [this] { keep_view_as(); },
                   [this] { return needs_item(); },
                   {},
                   {}});
    add_menu("view.kept", tr("Kept views"), tr("Views of this project that were kept under a name"),
             tr("View"), [this](QMenu* menu) { fill_views(menu); });
}

// What is shown of the item.
void Views::add_what_is_shown() {
    commands_.add({"view.visible",
                   tr("Show or hide the item in work"),
                   tr("Hidden items are safe from every tool"),
                   "",
                   QKeySequence(Qt::CTRL | Qt::Key_H),
                   tr("View"),
                   [this] {
                       const site::ItemPtr i = document_->site()->active_item();
                       document_->apply(
                           i->visible ? tr("Hide %1").arg(QString::fromStdString(i->name))
                                      : tr("Show %1").arg(QString::fromStdString(i->name)),
                           [&](const site::Site& s) { return site::set_visible(s, i->id, !i->visible); });
                   },
                   [this] { return needs_item(); },
                   {},
                   {}});
    add_iconed(
        "view.panorama", tr("Panorama from the station"),
        tr("Opens the scan as its scanner saw it, below; fences work in it. Without a known station it is "
           "drawn from where you stand"),
        "", QKeySequence(Qt::SHIFT | Qt::Key_P), tr("-View"),
        [this] {
            if (panorama_->is_open()) return panorama_->close_pane();
            panorama_->open(document_->site(), card_->all_shown(), stage_->camera().eye,
                            stage_->camera().yaw_deg);
        },
        [this] { return needs_item(); });
    add_iconed(
        "view.hide_selection", tr("Hide the selection"),
        tr("Hidden points are safe from every tool; nothing is removed"), "", QKeySequence(Qt::Key_H),
        tr("-View"),
        [this] {
            document_->apply(tr("Hide %1").arg(counted(*document_->site(), document_->site()->selection)),
                             site::hide_selection);
        },
        [this] { return needs_free_selection(); });
    add_iconed(
        "view.only_selection", tr("Show only the selection"), tr("Hides everything else of the item"), "",
        QKeySequence(Qt::SHIFT | Qt::Key_H), tr("View"),
        [this] {
            document_->apply(
                tr("Show only %1").arg(counted(*document_->site(), document_->site()->selection)),
                [this](const site::Site& s) { return site::show_only_selection(s, desk_.hand->reach(s)); });
        },
        [this] { return needs_free_selection(); });
    add_iconed(
        "view.show_all", tr("Show all of the item"), tr("Shows again what was hidden of it"), "",
        QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_H), tr("View"),
        [this] {
            document_->apply(tr("Show all"), [this](const site::Site& s) {
                site::SitePtr next;
                for (const std::uint64_t id : desk_.hand->reach(s))
                    if (s.item(id)->hidden) next = site::show_all(next ? *next : s, id);
                return next ? next : site::show_all(s, s.active);
            });
        },
        [this] { return needs_hidden(); });
}

void Views::store_view() {
    if (stage_->peeking() || document_->site()->items.empty()) return;
    nlohmann::json j = view_json(stage_->camera());
    const auto before = nlohmann::json::parse(document_->kept_view(), nullptr, false);
    if (before.is_object() && before.contains("saved")) j["saved"] = before["saved"];
    document_->keep_view(j.dump());
    keep_picture();
}

// At most every few seconds: what it shows, small.
void Views::keep_picture() {
    constexpr qint64 kEvery_ms = 5000;
    if (picture_kept_.isValid() && picture_kept_.elapsed() < kEvery_ms) return;
    const auto picture = stage_->picture();
    if (!picture) return;
    picture_kept_.start();
    QByteArray png;
    QBuffer buffer(&png);
    buffer.open(QIODevice::WriteOnly);
    stage_->grab()
        .toImage()
        .scaled(256, 160, Qt::KeepAspectRatio, Qt::SmoothTransformation)
        .save(&buffer, "PNG");
    document_->keep_picture(png.toBase64().toStdString());
}

void Views::restore_view() {
    const auto j = nlohmann::json::parse(document_->kept_view(), nullptr, false);
    if (!j.is_object()) return;
    try {
        stage_->set_camera(camera_from(j));
    } catch (const nlohmann::json::exception&) {
        // The data matter more than the place of the camera.
    }
}

void Views::keep_view_as() {
    bool ok = false;
    const QString name =
        QInputDialog::getText(window_, tr("Keep this view"), tr("Name"), QLineEdit::Normal, {}, &ok)
            .trimmed();
    if (!ok || name.isEmpty()) return;
    store_view();
    auto j = nlohmann::json::parse(document_->kept_view(), nullptr, false);
    nlohmann::json view = view_json(stage_->camera());
    view["name"] = name.toStdString();
    nlohmann::json others = nlohmann::json::array();
    for (const auto& v : j.value("saved", nlohmann::json::array()))
        if (v.value("name", "") != name.toStdString()) others.push_back(v);
    others.push_back(view);
    j["saved"] = others;
    document_->keep_view(j.dump());
    status_->say(tr("The view is kept as %1").arg(name), false);
}

void Views::fill_views(QMenu* menu) {
    const auto j = nlohmann::json::parse(document_->kept_view(), nullptr, false);
    if (j.is_object())
        for (const auto& v : j.value("saved", nlohmann::json::array()))
            menu->addAction(QString::fromStdString(v.value("name", "?")), this, [this, v] {
                try {
                    stage_->jump_to(camera_from(v));
                } catch (const nlohmann::json::exception&) {
                    say_refused(tr("This view cannot be read."));
                }
            });
    if (menu->isEmpty()) menu->addAction(tr("None yet"))->setEnabled(false);
}

}  // namespace pristine::app
