#include "shots.h"

#include <QApplication>
#include <QCheckBox>
#include <QComboBox>
#include <QDir>
#include <QDoubleSpinBox>
#include <QElapsedTimer>
#include <QLineEdit>
#include <QListWidget>
#include <QMouseEvent>
#include <QPushButton>
#include <QTreeWidget>
#include <functional>

#include "app/cards/align_card.h"
#include "app/cards/holes_card.h"
#include "app/cards/mesh_card.h"
#include "app/cards/rule_card.h"
#include "app/cards/work_card.h"
#include "app/handover/picture_page.h"
#include "app/handover/report_page.h"
#include "app/handover/sheet_page.h"
#include "app/panes/panorama_pane.h"
#include "app/panes/section_pane.h"
#include "app/window/main_window.h"
#include "core/select/solid.h"
#include "core/site/marks.h"

namespace pristine::app {
namespace {

bool wait_for(const std::function<bool()>& condition, int limit_ms = 120'000) {
    QElapsedTimer t;
    t.start();
    while (!condition()) {
        if (t.elapsed() > limit_ms) return false;
        QApplication::processEvents(QEventLoop::AllEvents, 20);
    }
    return true;
}

bool wait_settled(MainWindow& w) {
    return wait_for(
        [&] { return !w.jobs().busy() && w.stage().settled() && w.document().disk().waiting == 0; });
}

void click(QWidget& on, PixelPoint p) {
    const QPointF at(p.x, p.y), global = on.mapToGlobal(at);
    for (const auto type : {QEvent::MouseButtonPress, QEvent::MouseButtonRelease}) {
        QMouseEvent e(type, at, global, Qt::LeftButton,
                      type == QEvent::MouseButtonPress ? Qt::LeftButton : Qt::NoButton, Qt::NoModifier);
        QApplication::sendEvent(&on, &e);
    }
}

void mouse(QWidget& on, QEvent::Type type, PixelPoint p, Qt::MouseButtons held) {
    const QPointF at(p.x, p.y);
    QMouseEvent e(type, at, on.mapToGlobal(at), type == QEvent::MouseMove ? Qt::NoButton : Qt::LeftButton,
                  held, Qt::NoModifier);
    QApplication::sendEvent(&on, &e);
}

void release(QWidget& on, PixelPoint p) {
    mouse(on, QEvent::MouseButtonRelease, p, Qt::NoButton);
}

void drag(QWidget& on, const std::vector<PixelPoint>& path, bool let_go) {
    mouse(on, QEvent::MouseButtonPress, path.front(), Qt::LeftButton);
    for (const PixelPoint& p : path) mouse(on, QEvent::MouseMove, p, Qt::LeftButton);
    if (let_go) release(on, path.back());
}

// A fence round a person who stands at these feet.
std::vector<PixelPoint> round_person(const Stage& stage, Vec3 feet) {
    const ViewFrame f = stage.frame();
    const Vec3 r = f.right, up{0, 0, 1};
    const auto at = [&](double side, double height) { return f.project(feet + r * side + up * height); };
    return {at(-0.55, -0.05), at(-0.6, 1.0), at(-0.3, 1.95), at(0.3, 1.95), at(0.6, 1.0), at(0.55, -0.05)};
}

void key(QWidget& on, Qt::Key k) {
    QKeyEvent down(QEvent::KeyPress, k, Qt::NoModifier), up(QEvent::KeyRelease, k, Qt::NoModifier);
    QApplication::sendEvent(&on, &down);
    QApplication::sendEvent(&on, &up);
}

// The culvert unrolled, and seen from inside.
bool shoot_culvert(MainWindow& w, const std::filesystem::path& folder) {
    const std::size_t items = w.document().site()->items.size(), lines = w.document().site()->lines.size();
    for (const site::ItemPtr& i : w.document().site()->items)
        w.document().apply(QStringLiteral("Hide"),
                           [&](const site::Site& s) { return site::set_visible(s, i->id, false); });
    w.open_files({folder / "culvert.las", folder / "culvert-line.geojson"});
    if (!wait_for([&] {
            return w.document().site()->items.size() > items && w.document().site()->lines.size() > lines;
        }))
        return false;
    w.document().apply(QStringLiteral("Culvert"),
                       [](const site::Site& s) { return site::activate(s, s.items.back()->id); });
    w.commands().trigger("select.tunnel");
    auto* line = w.findChild<QComboBox*>("tunnelLine");
    line->setCurrentIndex(line->count() - 1);
    emit line->activated(line->count() - 1);
    if (!wait_settled(w)) return false;
    render::Camera c;
    c.eye = Vec3{412300.4, 5218931.5, 58.2};
    c.pitch_deg = -6;
    c.focus = 8;
    w.stage().set_camera(c);
    w.findChild<QPushButton*>("tunnelTake")->click();
    return wait_for([&] { return w.document().numbers().ready; }) && wait_settled(w);
}

// What would be written of both scans with a coarser step, and the same site as a picture without background.
bool shoot_handing_over(MainWindow& w, const std::filesystem::path& folder,
                        const std::function<bool(const char*)>& shot) {
    w.commands().trigger("site.export");
    const auto choose = [&](const char* name, const QVariant& data) {
        auto* box = w.findChild<QComboBox*>(QString::fromLatin1(name));
        box->setCurrentIndex(box->findData(data));
        emit box->activated(box->currentIndex());
    };
    w.findChild<QLineEdit*>("exportFolder")->setText(QString::fromStdString(folder.string()));
    choose("exportWhat", static_cast<int>(site::Export::EachShown));
    choose("exportFormat", QStringLiteral("laz"));
    choose("exportPointFormat", 3);
    w.findChild<QDoubleSpinBox*>("exportStep")->setValue(0.002);
    if (!wait_settled(w) || !shot("export")) return false;
    w.commands().trigger("handover.picture");
    auto* page = w.findChild<PicturePage*>();
    w.findChild<QCheckBox*>("pictureClear")->setChecked(true);
    if (!wait_for([&] { return page->preview() != nullptr; }) || !wait_settled(w) || !shot("picture"))
        return false;
    page->go_back();
    return true;
}

// The report of the spoil bank at its change, and that on a plan sheet.
bool shoot_report(MainWindow& w, const std::function<bool(const char*)>& shot) {
    w.commands().trigger("handover.report");
    auto* page = w.findChild<ReportPage*>();
    if (!wait_for([&] { return page->report() != nullptr; })) return false;
    auto* parts = w.findChild<QListWidget*>("reportParts");
    for (std::size_t k = 0; k < page->setup().parts.size(); ++k)
        if (page->setup().parts[k].kind == "change") parts->setCurrentRow(static_cast<int>(k));
    if (!wait_settled(w) || !shot("report")) return false;
    w.commands().trigger("handover.sheet");
    auto* sheet = w.findChild<SheetPage*>();
    auto* what = w.findChild<QComboBox*>("sheetWhat");
    for (int k = 0; k < what->count(); ++k)
        if (what->itemData(k).toString() == "change") what->setCurrentIndex(k);
    if (!wait_for([&] { return sheet->sheets() != nullptr; }) || !wait_settled(w) || !shot("plan-sheet"))
        return false;
    sheet->go_back();
    return true;
}

// Hides what is there, opens these, waits for them; the first new item is then in work.
bool open_alone(MainWindow& w, const std::filesystem::path& folder, const std::vector<const char*>& files,
                std::size_t scans) {
    const std::size_t items = w.document().site()->items.size(), lines = w.document().site()->lines.size();
    w.document().apply(QStringLiteral("Hide"), [](const site::Site& s) {
        site::SitePtr now = std::make_shared<site::Site>(s);
        for (const site::ItemPtr& i : s.items) now = site::set_visible(*now, i->id, false);
        for (const site::LinePtr& l : s.lines) {
            site::Line hidden = *l;
            hidden.visible = false;
            now = site::put_lines(*now, {hidden});
        }
        return now;
    });
    std::vector<std::filesystem::path> paths;
    for (const char* f : files) paths.push_back(folder / f);
    w.open_files(paths);
    if (!wait_for([&] {
            return w.document().site()->items.size() == items + scans &&
                   (files.size() == scans || w.document().site()->lines.size() > lines) && !w.jobs().busy();
        }))
        return false;
    w.document().apply(QStringLiteral("Work"),
                       [](const site::Site& s) { return site::activate(s, s.items.back()->id); });
    return wait_settled(w);
}

bool build_surface(MainWindow& w) {
    w.commands().trigger("tools.surface");
    w.findChild<QDoubleSpinBox*>("surfaceRim")->setValue(0);
    const std::size_t items = w.document().site()->items.size();
    w.findChild<QPushButton*>("surfaceBuild")->click();
    return wait_for([&] { return w.document().site()->items.size() == items + 1; }) && wait_settled(w);
}

// The spoil bank: a surface with its steep triangles selected, the change between two dates, contours.
bool shoot_spoil(MainWindow& w, const std::filesystem::path& folder,
                 const std::function<bool(const char*)>& shot) {
    render::Camera c;
    c.eye = Vec3{412300 + 170, 5218930 - 60, 58 + 55};
    c.yaw_deg = -35;
    c.pitch_deg = -28;
    c.focus = 120;
    if (!open_alone(w, folder, {"spoil-bank-1.las", "spoil-breaklines-1.geojson", "spoil-outline.geojson"},
                    1) ||
        !build_surface(w))
        return false;
    w.commands().trigger("select.clear");
    if (!open_alone(w, folder, {"spoil-bank-2.las", "spoil-breaklines-2.geojson", "spoil-outline.geojson"},
                    1) ||
        !build_surface(w))
        return false;
    w.stage().set_camera(c);
    w.commands().trigger("select.rule");
    if (!wait_settled(w)) return false;
    w.findChild<RuleCard*>()->choose("slope");
    if (!wait_settled(w)) return false;
    w.findChild<QDoubleSpinBox*>("ruleLow")->setValue(50);
    if (!wait_for([&] { return w.document().numbers().ready; }) || !wait_settled(w) || !shot("surface"))
        return false;
    w.commands().trigger("decide.remove");
    if (!wait_settled(w)) return false;
    w.commands().trigger("tools.measure");
    auto* base = w.findChild<QComboBox*>("measureBase");
    base->setCurrentIndex(4);
    emit base->activated(4);
    if (!wait_settled(w)) return false;
    w.findChild<QDoubleSpinBox*>("measureInterval")->setValue(1);
    const std::size_t lines = w.document().site()->lines.size(), items = w.document().site()->items.size();
    w.findChild<QPushButton*>("measureContours")->click();
    if (!wait_for([&] { return w.document().site()->lines.size() > lines; }) || !wait_settled(w))
        return false;
    site::Line across;
    across.name = "Across the bank";
    across.points = {Vec3{412300 + 66, 5218930 + 30, 0}, Vec3{412300 + 156, 5218930 + 24, 0}};
    w.document().apply(QStringLiteral("Line"), [&](const site::Site& s) {
        site::SitePtr now = site::put_lines(s, {across});
        for (const site::ItemPtr& i : s.items)
            if (i->cloud->triangles()) now = site::set_visible(*now, i->id, true);
        return now;
    });
    w.commands().trigger("view.profile");
    if (!wait_settled(w)) return false;
    w.commands().trigger("view.profile");
    w.document().undo();
    w.document().undo();
    w.findChild<QPushButton*>("measureMap")->click();
    if (!wait_for([&] { return w.document().site()->items.size() == items + 1; }) || !wait_settled(w))
        return false;
    const std::uint64_t map = w.document().site()->items.back()->id;
    w.document().apply(QStringLiteral("Work"), [&](const site::Site& s) {
        site::Style classes = s.item(map)->style;
        classes.classes = {-2, -1, -0.5, -0.1, 0.1, 0.5, 1, 2};
        return site::activate(*site::set_style(s, map, classes), map);
    });
    return wait_settled(w) && shot("cut-and-fill") && shoot_report(w, shot);
}

bool choose(MainWindow& w, const char* box, int index) {
    auto* c = w.findChild<QComboBox*>(QString::fromLatin1(box));
    if (!c || index >= c->count()) return false;
    c->setCurrentIndex(index);
    emit c->activated(index);
    return true;
}

// A distance along the apron, an area on it and heights of a gate, with the card that lists them.
bool shoot_marks(MainWindow& w, const Vec3& origin, const std::function<bool(const char*)>& shot) {
    render::Camera c;
    c.eye = origin + Vec3{0.8, 3.6, 4.4};
    c.yaw_deg = -8;
    c.pitch_deg = -35;
    c.focus = 7;
    w.stage().set_camera(c);
    const auto mark = [&](MarkKind kind, const char* name, std::vector<Vec3> places, const char* note = "") {
        site::Mark m;
        m.kind = kind;
        m.name = name;
        m.note = note;
        for (Vec3& p : places) p = p + origin;
        m.points = std::move(places);
        return w.document().apply(QStringLiteral("Mark"),
                                  [&](const site::Site& s) { return site::put_mark(s, m); });
    };
    if (!mark(MarkKind::Distance, "Width of the floor", {{-2.9, 7, 0}, {2.9, 7, 0}}) ||
        !mark(MarkKind::Area, "Patch to relay", {{-1.8, 8, 0}, {1.4, 8, 0}, {1.4, 10.5, 0}, {-1.8, 10.5, 0}},
              "spalled, see photo 14") ||
        !mark(MarkKind::Fall, "Fall to the sump", {{0, 7.4, 0}, {0, 13, 0}}) ||
        !mark(MarkKind::Point, "Bolt 7", {{-2.4, 12, 0}}))
        return false;
    w.commands().trigger("tools.marks");
    if (!wait_settled(w) || !shot("marks")) return false;
    w.commands().trigger("tools.marks");
    return wait_settled(w);
}

// One item is shown and no line or mark, another may be in work.
void show_only(MainWindow& w, std::uint64_t shown, std::uint64_t in_work) {
    w.document().apply(QStringLiteral("Show"), [&](const site::Site& s) {
        site::SitePtr now = std::make_shared<site::Site>(s);
        for (const site::ItemPtr& i : s.items) now = site::set_visible(*now, i->id, i->id == shown);
        for (const site::LinePtr& l : s.lines) {
            site::Line hidden = *l;
            hidden.visible = false;
            now = site::put_lines(*now, {hidden});
        }
        for (const site::MarkPtr& m : s.marks) {
            site::Mark hidden = *m;
            hidden.visible = false;
            now = site::put_mark(*now, hidden);
        }
        return site::activate(*now, in_work);
    });
}

// The spoil bank and what stands round it as classes, with their key.
bool shoot_classes(MainWindow& w, const std::function<bool(const char*)>& shot) {
    std::uint64_t bank = 0;
    for (const site::ItemPtr& i : w.document().site()->items)
        if (!i->cloud->triangles() && i->name.find("Spoil bank 2") != std::string::npos) bank = i->id;
    if (bank == 0) return false;
    show_only(w, bank, bank);
    if (w.document().site()->selected() > 0) w.commands().trigger("select.clear");
    w.commands().trigger("decide.class_terrain");
    if (!wait_settled(w)) return false;
    w.commands().trigger("view.classes");
    w.stage().look_at(w.document().site()->item(bank)->cloud->robust_bounds());
    return wait_settled(w) && shot("classes");
}

// The second scan brought onto the first: how far each place lies off.
bool shoot_place(MainWindow& w, const std::function<bool(const char*)>& shot) {
    const site::SitePtr s = w.document().site();
    std::vector<std::uint64_t> scans;
    for (const site::ItemPtr& i : s->items)
        if (!i->cloud->triangles() && i->name.find("Chamber") != std::string::npos) scans.push_back(i->id);
    if (scans.size() < 2) return false;
    w.document().apply(QStringLiteral("Scans"), [&](const site::Site& now) {
        site::SitePtr next = std::make_shared<site::Site>(now);
        for (const std::uint64_t id : scans) next = site::set_visible(*next, id, true);
        return site::activate(*next, scans[1]);
    });
    w.commands().trigger("item.place");
    if (!choose(w, "placeWay", 3) || !wait_settled(w)) return false;
    auto* other = w.findChild<QComboBox*>("placeOther");
    other->setCurrentIndex(other->findData(quint64{scans[0]}));
    w.findChild<QPushButton*>("placeFit")->click();
    auto* map = w.findChild<QPushButton*>("placeResiduals");
    if (!wait_for([&] { return map->isEnabled(); })) return false;
    const std::size_t items = w.document().site()->items.size();
    map->click();
    if (!wait_for([&] { return w.document().site()->items.size() > items; })) return false;
    const site::ItemPtr made = w.document().site()->items.back();
    show_only(w, made->id, scans[1]);
    w.stage().look_at(made->cloud->robust_bounds());
    return wait_settled(w) && shot("place");
}

// The fill of the hole round the stone's edge, before it is made.
bool shoot_hole(MainWindow& w, const std::function<bool(const char*)>& shot) {
    w.commands().trigger("tools.holes");
    auto* card = w.findChild<HolesCard*>();
    if (!wait_for([&] { return card->holes() > 0; }) || !wait_settled(w)) return false;
    auto* list = w.findChild<QTreeWidget*>("holesList");
    list->setCurrentItem(list->topLevelItem(1));  // the widest is the foot
    return wait_for([&] { return card->preview() != nullptr; }) && wait_settled(w) && shot("hole-preview");
}

// Two faces and the middle of the stone, and what they fix.
bool shoot_alignment(MainWindow& w, const std::function<bool(const char*)>& shot) {
    w.commands().trigger("tools.align");
    auto* card = w.findChild<AlignCard*>();
    const auto fit = [&](const Vec3& lo, const Vec3& hi, Feature::Kind kind) {
        const std::size_t before = card->features().size();
        w.document().apply(QStringLiteral("Select"), [&](const site::Site& s) {
            const site::Item& i = *s.active_item();
            const ElementSet in = select::inside(
                *i.cloud, select::half_spaces({(lo + hi) * 0.5, (hi - lo) * 0.5, 0}), site::eligible(i));
            return site::select(s, in, site::Combine::New);
        });
        auto* kinds = w.findChild<QComboBox*>("featureKind");
        kinds->setCurrentIndex(kinds->findData(static_cast<int>(kind)));
        w.findChild<QPushButton*>("featureFit")->click();
        return wait_for([&] { return card->features().size() == before + 1; });
    };
    if (!fit({-0.12, 0.115, 0.1}, {0.12, 0.125, 0.5}, Feature::Kind::Plane)) return false;
    if (!fit({0.195, -0.05, 0.05}, {0.205, 0.05, 0.2}, Feature::Kind::Plane)) return false;
    if (!fit({-0.3, -0.3, 0}, {0.3, 0.3, 0.7}, Feature::Kind::Point)) return false;
    w.commands().trigger("select.clear");
    if (!choose(w, "alignOrigin", 3) || !choose(w, "alignDirection", 1)) return false;
    return wait_settled(w) && shot("align-steps");
}

// The stone without its turntable: the tour at a hole, a fill before it is made, what fixes its place.
bool shoot_milestone(MainWindow& w, const std::filesystem::path& folder,
                     const std::function<bool(const char*)>& shot) {
    if (!open_alone(w, folder, {"milestone-scan.ply"}, 1)) return false;
    const auto remove = [&](const char* tool, const Vec3& normal, double offset) {
        w.document().apply(QStringLiteral("Select"), [&](const site::Site& s) {
            const site::Item& item = *s.active_item();
            return site::select(s, select::inside(*item.cloud, {{normal, offset}}, site::eligible(item)),
                                site::Combine::New,
                                {site::by({.kind = site::Act::Kind::Tool, .id = tool}), "Fixture"});
        });
        if (!wait_for([&] { return w.document().numbers().ready; })) return false;
        w.commands().trigger("decide.remove");
        return wait_settled(w);
    };
    if (!remove("select.level", {0, 0, 1}, -1e-4)) return false;
    if (!remove("select.plane", {-1, 0, 0}, -0.2025)) return false;
    render::Camera c;
    c.eye = {0.75, -0.95, 0.75};
    c.yaw_deg = -38;
    c.pitch_deg = -20;
    c.focus = 1.2;
    w.stage().set_camera(c);
    w.commands().trigger("tools.mesh");
    auto* card = w.findChild<MeshCard*>();
    if (!wait_for([&] { return card->findings() != nullptr; }) || !wait_settled(w)) return false;
    auto* kinds = w.findChild<QTreeWidget*>("meshKinds");
    kinds->setCurrentItem(card->row_of(repair::Fault::Hole));
    for (int k = 0; k < 2; ++k) w.findChild<QPushButton*>("meshNext")->click();
    if (!wait_settled(w) || !shot("mesh-tour")) return false;
    return shoot_hole(w, shot) && shoot_alignment(w, shot);
}

}  // namespace

int make_shots(MainWindow& w, const QString& folder, const std::vector<std::filesystem::path>& scans) {
    QDir().mkpath(folder);
    const auto shot = [&](const char* name) {
        QApplication::processEvents();
        return w.grab().save(folder + "/" + QString::fromLatin1(name) + ".png");
    };
    if (!wait_for([&] { return !scans.empty() && w.document().site()->items.size() >= scans.size(); }) ||
        !wait_settled(w))
        return 1;
    const Vec3 origin{412300, 5218930, 58};
    render::Camera c;
    c.eye = origin + Vec3{0.4, 5.0, 2.6};
    c.yaw_deg = -3;
    c.pitch_deg = -12;
    c.focus = 8;
    w.stage().set_camera(c);
    if (!wait_settled(w) || !shot("main-view")) return 1;

    const Vec3 worker = origin + Vec3{-1.1, 11.5, 0}, other = origin + Vec3{0.55, 12.4, 0};
    const auto fence_worker = [&] {
        for (const PixelPoint p : round_person(w.stage(), worker)) click(w.stage(), p);
        key(w.stage(), Qt::Key_Return);
        return wait_for(
                   [&] { return w.document().site()->selected() > 0 && w.document().numbers().ready; }) &&
               wait_settled(w);
    };
    // Over both scans, then over the one in work, which what follows goes on with.
    w.commands().trigger(QStringLiteral("select.all_shown"));
    if (!fence_worker() || !shot("fence-and-decision-bar")) return 1;
    w.commands().trigger(QStringLiteral("select.all_shown"));
    w.commands().trigger(QStringLiteral("select.clear"));
    if (!fence_worker()) return 1;
    w.commands().trigger("decide.remove");
    if (!wait_settled(w)) return 1;
    for (const PixelPoint p : round_person(w.stage(), other)) click(w.stage(), p);
    key(w.stage(), Qt::Key_Return);
    if (!wait_for([&] { return w.document().site()->selected() > 0 && w.document().numbers().ready; }) ||
        !wait_settled(w))
        return 1;
    w.commands().trigger("decide.remove");
    w.commands().trigger("view.ghosts");
    if (!wait_settled(w) || !shot("ledger-and-ghosts")) return 1;
    if (!shoot_handing_over(w, scans.front().parent_path(), shot)) return 1;
    w.commands().trigger("view.ghosts");
    w.commands().trigger("decide.guard_ground");
    if (!wait_settled(w)) return 1;
    w.stage().set_camera(c);
    if (!wait_settled(w)) return 1;
    w.commands().trigger("decide.lift_guards");
    w.commands().trigger("select.brush");
    if (!wait_settled(w)) return 1;
    drag(w.stage(), {{330, 330}, {350, 336}, {380, 340}, {420, 338}, {455, 330}}, false);
    if (!wait_for([&] { return w.stage().settled(); })) return 1;
    release(w.stage(), {455, 330});
    w.commands().trigger("select.clear");
    w.commands().trigger("view.top");
    if (!wait_settled(w)) return 1;
    w.commands().trigger("view.section");
    const ViewFrame above = w.stage().frame();
    drag(w.stage(), {above.project(origin + Vec3{-3.5, 15.4, 0}), above.project(origin + Vec3{3.5, 15.4, 0})},
         true);
    auto* pane = w.findChild<SectionPane*>();
    if (!wait_for([&] {
            return pane->stage().settled() && pane->strip_of(w.document().site()->active_item()->cloud.get());
        }))
        return 1;
    w.commands().trigger("select.polygon");
    for (const PixelPoint p : round_person(pane->stage(), origin + Vec3{-1.3, 15.4, 0}))
        click(pane->stage(), p);
    key(pane->stage(), Qt::Key_Return);
    if (!wait_for([&] { return w.document().site()->selected() > 0 && w.document().numbers().ready; }) ||
        !wait_settled(w) || !wait_for([&] { return pane->stage().settled(); }) || !shot("section"))
        return 1;
    w.commands().trigger("select.clear");
    pane->close_pane();
    w.stage().set_camera(c);
    w.commands().trigger("view.clip");
    site::Style style = w.document().site()->active_item()->style;
    style.colour_by = site::ColourBy::Height;
    w.document().apply(QStringLiteral("Height"),
                       [&](const site::Site& s) { return site::set_style(s, s.active, style); });
    c.eye = origin + Vec3{10, -2, 17};
    c.yaw_deg = -35;
    c.pitch_deg = -50;
    w.stage().set_camera(c);
    if (!wait_settled(w)) return 1;
    const ViewFrame slanting = w.stage().frame();
    const std::vector<Vec3> handles = w.stage().tool()->handles();
    const PixelPoint far_face = slanting.project(handles[3]),
                     middle = slanting.project(origin + Vec3{0, 16, 2.5});
    drag(w.stage(), {far_face, middle}, true);
    if (!wait_settled(w)) return 1;

    w.commands().trigger("view.unclip");
    style.colour_by = site::ColourBy::Rgb;
    w.document().apply(QStringLiteral("Colour"),
                       [&](const site::Site& s) { return site::set_style(s, s.active, style); });
    c.eye = origin + Vec3{0.3, 4.2, 1.62};  // where the first scanner stood
    c.yaw_deg = 0;
    c.pitch_deg = -10;
    w.stage().set_camera(c);
    w.commands().trigger("select.rectangle");
    w.commands().trigger("view.panorama");
    auto* panorama = w.findChild<PanoramaPane*>();
    if (!wait_for([&] { return panorama->seen() != nullptr; }) || !wait_settled(w) || !shot("panorama"))
        return 1;
    panorama->close_pane();

    // A line round the apron, and a cylinder with its handles round a worker, in feet.
    c.eye = origin + Vec3{4, 1, 7};
    c.yaw_deg = -25;
    c.pitch_deg = -38;
    w.stage().set_camera(c);
    if (!wait_settled(w)) return 1;
    w.commands().trigger("view.unit_ft");
    w.commands().trigger("view.line");
    const ViewFrame over = w.stage().frame();
    for (const Vec3& corner : {Vec3{-2.6, 7, 0}, Vec3{2.4, 7, 0}, Vec3{2.4, 10, 0}, Vec3{-2.6, 10, 0}})
        click(w.stage(), over.project(origin + corner));
    click(w.stage(), over.project(origin + Vec3{-2.6, 7, 0}));
    w.commands().trigger("select.cylinder");
    const Vec3 standing = origin + Vec3{-1.3, 15.4, 0.9};
    drag(w.stage(), {over.project(standing), over.project(standing + over.right * 0.7)}, true);
    if (!wait_for([&] { return w.document().site()->selected() > 0 && w.document().numbers().ready; }) ||
        !wait_settled(w))
        return 1;

    w.commands().trigger("select.clear");
    w.commands().trigger("view.unit_data");
    w.commands().trigger("select.rule");
    if (!wait_settled(w)) return 1;
    w.findChild<RuleCard*>()->choose("group");
    if (!wait_settled(w)) return 1;
    w.findChild<QDoubleSpinBox*>("ruleHigh")->setValue(200);
    if (!wait_for([&] { return w.document().numbers().ready; }) || !wait_settled(w)) return 1;
    // The same scan in the colours of its heights above the floor; what stands on it is taken.
    auto* rule = w.findChild<RuleCard*>();
    rule->choose("floor");
    if (!wait_settled(w)) return 1;
    w.findChild<QDoubleSpinBox*>("ruleLow")->setValue(0.1);
    w.findChild<QDoubleSpinBox*>("ruleHigh")->setValue(2.2);
    w.commands().trigger("select.clear");
    w.findChild<QPushButton*>("ruleColour")->click();
    if (!wait_settled(w)) return 1;
    w.findChild<QPushButton*>("ruleColour")->click();
    if (w.document().site()->selected() > 0) w.commands().trigger("select.clear");
    if (!shoot_marks(w, origin, shot)) return 1;
    w.commands().trigger("select.objects");
    if (!wait_settled(w)) return 1;
    for (int k = 0; k < w.findChild<QTreeWidget*>("objectsTree")->topLevelItemCount(); ++k)
        w.findChild<QTreeWidget*>("objectsTree")->topLevelItem(k)->setExpanded(true);
    w.findChild<QTreeWidget*>("objectsTree")->topLevelItem(0)->setCheckState(0, Qt::Checked);
    w.findChild<QPushButton*>("objectsTake")->click();
    if (!wait_for([&] { return w.document().numbers().ready; }) || !wait_settled(w) || !shot("objects"))
        return 1;
    w.commands().trigger("select.clear");
    if (!shoot_culvert(w, scans.front().parent_path()) || !shot("tunnel")) return 1;
    w.commands().trigger("select.clear");
    if (!shoot_spoil(w, scans.front().parent_path(), shot)) return 1;

    if (!shoot_milestone(w, scans.front().parent_path(), shot)) return 1;
    if (!shoot_place(w, shot) || !shoot_classes(w, shot)) return 1;

    return 0;
}

}  // namespace pristine::app
