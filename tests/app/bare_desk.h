// A desk with all its parts and controllers, and no window round them.

#pragma once

#include <QApplication>
#include <QElapsedTimer>

#include "app/cards/card_table.h"
#include "app/cards/work_card.h"
#include "app/model/document.h"
#include "app/model/jobs.h"
#include "app/panes/cross_sections_pane.h"
#include "app/panes/epoch_pane.h"
#include "app/panes/lists_pane.h"
#include "app/panes/panorama_pane.h"
#include "app/panes/profile_pane.h"
#include "app/panes/section_pane.h"
#include "app/stage/stage.h"
#include "app/window/controllers.h"
#include "app/window/decision_bar.h"
#include "app/window/legend.h"
#include "app/window/notice.h"
#include "app/window/status_line.h"

namespace pristine::test {

class BareDesk {
  public:
    explicit BareDesk(const std::filesystem::path& home) {
        qputenv("XDG_DATA_HOME", (home / "data").c_str());
        qputenv("XDG_CONFIG_HOME", (home / "config").c_str());
        desk.jobs = new app::Jobs(&all_);
        app::Jobs* const jobs = desk.jobs;
        desk.document = new app::Document(jobs, &all_);
        app::Document* const document = desk.document;
        desk.window = &all_;
        desk.stage = new app::Stage(&all_);
        desk.card = new app::WorkCard(document, &all_);
        desk.section = new app::SectionPane(jobs, &all_);
        desk.panorama = new app::PanoramaPane(jobs, &all_);
        desk.profile = new app::ProfilePane(document, jobs, &all_);
        desk.cross_sections = new app::CrossSectionsPane(document, jobs, &all_);
        desk.lists = new app::ListsPane(document, &all_);
        desk.epochs = new app::EpochPane(document, jobs, &all_);
        desk.cards = app::make_cards(document, jobs, &all_);
        desk.status = new app::StatusLine(document, jobs, &all_);
        desk.legend = new app::Legend(desk.stage);
        desk.notice = new app::Notice(desk.stage);
        controllers = std::make_unique<app::Controllers>(desk);
        controllers->decisions.set_bar(new app::DecisionBar(document, &desk.commands, desk.stage));
        QObject::connect(&desk.commands, &app::CommandTable::refused,
                         [this](const QString& why) { refused = why; });
    }
    ~BareDesk() {
        wait([&] { return !desk.jobs->busy() && desk.document->disk().waiting == 0; });
        controllers.reset();
        delete desk.jobs;
    }

    const site::Site& site() { return *desk.document->site(); }
    bool wait(const std::function<bool()>& condition, int limit_ms = 60000) {
        QElapsedTimer t;
        t.start();
        while (!condition()) {
            if (t.elapsed() > limit_ms) return false;
            QApplication::processEvents(QEventLoop::AllEvents, 10);
        }
        return true;
    }
    /// A command as from a menu, and what follows from it. The sentence when it cannot run, else empty.
    QString run(const char* command) {
        refused.clear();
        desk.commands.trigger(QString::fromLatin1(command));
        wait([&] { return !desk.jobs->busy(); });
        return refused;
    }
    /// Adds a cloud as an item, in work.
    std::uint64_t add(const std::shared_ptr<const cloud::PointCloud>& c, const std::string& name) {
        desk.document->apply(QStringLiteral("Add"), [&](const site::Site& s) {
            const site::SitePtr next = site::add_cloud(s, c, name, "");
            return site::activate(*next, next->items.back()->id);
        });
        return site().items.back()->id;
    }
    void select(const ElementSet& set) {
        desk.document->apply(QStringLiteral("Select"),
                             [&](const site::Site& s) { return site::select(s, set, site::Combine::New); });
    }

    app::Desk desk;
    std::unique_ptr<app::Controllers> controllers;
    QString refused;

  private:
    QWidget all_;  // never shown
};

}  // namespace pristine::test
