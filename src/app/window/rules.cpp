#include "app/window/rules.h"

#include <QFileDialog>
#include <QFileInfo>
#include <QSettings>
#include <algorithm>
#include <map>

#include "app/cards/objects_card.h"
#include "app/cards/rule_card.h"
#include "app/cards/tunnel_card.h"
#include "app/cards/work_card.h"
#include "app/look/lengths.h"
#include "app/look/theme.h"
#include "app/model/document.h"
#include "app/model/jobs.h"
#include "app/panes/section_pane.h"
#include "app/window/notice.h"
#include "app/window/scene_view.h"
#include "app/window/status_line.h"
#include "core/base/file.h"
#include "core/base/output.h"
#include "core/cloud/triangles.h"
#include "core/io/profile_file.h"
#include "core/recipe/ready.h"

namespace pristine::app {

namespace {

// The first of that name.
template <class Ptr>
Ptr named(const std::vector<Ptr>& all, const std::string& name) {
    const auto it = std::find_if(all.begin(), all.end(), [&](const Ptr& one) { return one->name == name; });
    return it == all.end() ? nullptr : *it;
}

// "TREE, POLE": what a rule of words takes is called by them.
std::string joined(const std::vector<std::string>& words) {
    std::string all;
    for (const std::string& w : words) all += (all.empty() ? "" : ", ") + w;
    return all;
}

// What else a site holds, for recipes that run on one of its items.
class Neighbours {
  public:
    Neighbours(const site::SitePtr& s, const site::ItemPtr& of) : site_(s) {
        for (const site::ItemPtr& i : s->items)
            if (i != of) eligible_[i->name] = {i, site::eligible(*i)};
    }
    score::ScanContext company() const {
        score::ScanContext c;
        c.other = [this](const std::string& name) {
            const auto it = eligible_.find(name);
            return it == eligible_.end()
                       ? score::OtherScan{}
                       : score::OtherScan{it->second.first->cloud.get(), &it->second.second};
        };
        c.line = [this](const std::string& name) {
            const site::LinePtr line = named(site_->lines, name);
            return line ? &line->points : nullptr;
        };
        for (const auto& [name, one] : eligible_)
            if (one.first->visible && !one.first->locked)
                c.beside.push_back({one.first->cloud.get(), &one.second});
        return c;
    }

  private:
    site::SitePtr site_;
    std::map<std::string, std::pair<site::ItemPtr, ElementSet>> eligible_;
};

}  // namespace
Rules::Rules(Desk& desk)
    : HandyPart(desk), objects_(desk.find<ObjectsCard>()), tunnel_(desk.find<TunnelCard>()) {
    connect(rule_, &RuleCard::preview, this, &Rules::preview_rule);
    connect(rule_, &RuleCard::chosen, this, &Rules::select_by_rule);
    connect(rule_, &RuleCard::remove_everywhere, this, &Rules::remove_by_rule_everywhere);
    connect(rule_, &RuleCard::all_scans_changed, card_, [this](bool on) {
        if (card_->all_shown() != on) card_->set_all_shown(on);
    });
    connect(card_, &WorkCard::all_shown_changed, this, [this] {
        rule_->set_all_scans(card_->all_shown());
        objects_->refresh();
    });
    connect(rule_, &RuleCard::begun, this, [this] { rule_selection_.clear(); });
    connect(objects_, &ObjectsCard::chosen, this, &Rules::select_objects);
    connect(tunnel_, &TunnelCard::chosen, this, &Rules::select_inside_tunnel);
    connect(tunnel_, &TunnelCard::make_item, this, &Rules::make_lining);
    connect(tunnel_, &TunnelCard::choose_design, this, &Rules::choose_design);
    connect(tunnel_, &TunnelCard::save_report, this, &Rules::save_lining_report);
    for (Stage* stage : {stage_, &section_->stage()})
        connect(stage, &Stage::pointed_at, this, [this, stage](double x, double y) {
            say_value_at(stage, {x, y});
        });
}

void Rules::add_commands() {
    for (const char* card : {"select.rule", "select.objects", "select.tunnel"})
        add_card(QString::fromLatin1(card));
    add(
        "site.save_recipe", tr("Save the rules as a recipe…"),
        tr("The rules in the ledger of the item in work, to be run on other scans, here or by 'pristine "
           "run'"),
        {}, tr("-Site"), [this] { choose_save_recipe(); },
        [this] {
            if (const QString why = needs_item(); !why.isEmpty()) return why;
            return rules_of_ledger().empty() ? tr("Nothing was removed by a rule yet.") : QString();
        });
    add(
        "site.run_recipe", tr("Run a recipe…"),
        tr("Runs saved rules on the item in work; each becomes an entry of the ledger that can be lifted"),
        {}, tr("Site"), [this] { choose_run_recipe(); }, [this] { return needs_item(); });
    add(
        "decide.class_terrain", tr("Class ground, vegetation and noise"),
        tr("Ground, vegetation by its height, and noise, by what the points say of themselves: four classes, "
           "each "
           "a decision that can be lifted"),
        QKeySequence(Qt::CTRL | Qt::Key_Insert), tr("-Decide"), [this] { class_terrain(); },
        [this] { return needs_item(); });
}

// A glance at what the selection will be, without a commit: it follows the mouse.
void Rules::preview_rule() {
    const site::SetPtr set = rule_->taken();
    const site::SitePtr s = document_->site();
    if (!set || !s->active_item()) return;
    site::Site before = *s;
    if (!s->selection.empty() && s->selection == rule_selection_) {
        before.selection = rule_before_.parts;
        before.origin = rule_before_.origin;
    }
    try {
        view_.show_scene_of(site::select(before, parts_of_rule(set), rule_->combine()));
        view_.show_guides();
    } catch (const Error& e) {
        say_refused(QString::fromStdString(e.what()));
    }
}

void Rules::select_by_rule() {
    const site::SetPtr set = rule_->taken();
    const auto step = rule_->step();
    const site::SitePtr s = document_->site();
    if (!set || !step || !s->active_item()) return;
    // Dragging on changes the rule's own selection; it does not add to it.
    if (s->selection != rule_selection_ || s->selection.empty()) rule_before_ = hand_.selected_now();
    const site::Origin origin{site::by_rule(*step),
                              step->words.empty() ? score::find(step->score).title : joined(step->words)};
    const site::Parts parts = parts_of_rule(set);
    document_->apply(tr("Select %1 by a rule").arg(counted(*s, parts)), [&](const site::Site& now) {
        site::Site before = now;
        before.selection = rule_before_.parts;
        before.origin = rule_before_.origin;
        return site::select(before, parts, rule_->combine(), origin);
    });
    rule_selection_ = document_->site()->selection;
}

// What the rule takes of every scan that is shown goes in one step, with an entry in the ledger of each.
void Rules::remove_by_rule_everywhere() {
    const auto step = rule_->step();
    const site::Parts sets = rule_->taken_everywhere();
    if (!step || site::count_of(sets) == 0)
        return say_refused(tr("The rule takes nothing in any of the scans."));
    site::Decision d;
    d.reason = score::find(step->score).title;
    d.cause = site::by_rule(*step);
    document_->apply(
        tr("Remove %1 of %2 scans by a rule").arg(counted(*document_->site(), sets)).arg(sets.size()),
        [&](const site::Site& now) { return site::remove_parts(now, sets, d); });
}

// What a rule takes: of all scans that it judges, or of the item in work.
site::Parts Rules::parts_of_rule(const site::SetPtr& in_work) const {
    if (site::Parts all = rule_->taken_everywhere(); !all.empty()) return all;
    return {{document_->site()->active, in_work}};
}

void Rules::select_objects() {
    const site::Parts parts = objects_->ticked();
    if (site::count_of(parts) == 0) return say_refused(tr("Nothing is ticked."));
    document_->apply(
        tr("Select %1 of things on the ground").arg(counted(*document_->site(), parts)),
        [&](const site::Site& s) { return site::select(s, parts, site::Combine::New, objects_->origin()); });
}

void Rules::select_inside_tunnel() {
    const site::SetPtr set = tunnel_->inside();
    if (!set || set->empty()) return say_refused(tr("Nothing lies inside the lining."));
    document_->apply(tr("Select %1 inside the lining").arg(counted(*document_, set->count())),
                     [&](const site::Site& s) {
                         return site::select(s, *set, site::Combine::New,
                                             {tunnel_->cause(), tr("Inside the lining").toStdString()});
                     });
}

// The mesh beside its scan, in the same system.
void Rules::make_lining() {
    const site::ItemPtr item = document_->site()->active_item();
    if (!item) return;
    const auto made = std::make_shared<std::shared_ptr<const cloud::PointCloud>>();
    jobs_->start(
        tr("Lining of %1").arg(QString::fromStdString(item->name)),
        [made, item, mesh = tunnel_->mesh()](Progress& p) {
            *made = cloud::with_reference(cloud::cloud_of_triangles(mesh, {}, p), item->cloud->reference());
        },
        [this, made, item] {
            const std::string name = tr("Lining of %1").arg(QString::fromStdString(item->name)).toStdString();
            document_->apply(tr("Lining of %1 as an item").arg(QString::fromStdString(item->name)),
                             [&](const site::Site& s) {
                                 return site::add_cloud(s, *made, name, "lining of " + item->name);
                             });
            status_->say(tr("%1 triangles. It is in the contents; take it in work to measure or export it.")
                             .arg(grouped((*made)->size())),
                         false);
        },
        {}, Jobs::Show::IfLong);
}

void Rules::choose_design() {
    const QString file = QFileDialog::getOpenFileName(window_, tr("Profile that was designed"),
                                                      QSettings().value("folder").toString(),
                                                      tr("Text (*.txt *.csv *.dat);;All files (*)"));
    if (file.isEmpty()) return;
    try {
        tunnel_->set_design(io::read_design_profile(file.toStdString()), QFileInfo(file).completeBaseName());
    } catch (const Error& e) {
        say_refused(QString::fromStdString(e.what()));
    }
}

void Rules::save_lining_report() {
    const QString file =
        QFileDialog::getSaveFileName(window_, tr("Save volumes by chainage"),
                                     QSettings().value("folder").toString(), tr("Tables (*.csv)"));
    if (file.isEmpty()) return;
    try {
        OutputFile out(file.toStdString(), true);
        out.write(tunnel_->report().toStdString());
        out.finish();
        status_->say(tr("Saved %1").arg(file), false);
    } catch (const Error& e) {
        say_refused(QString::fromStdString(e.what()));
    }
}

// Value of the point under the pointer, while a rule is in hand.
void Rules::say_value_at(Stage* stage, PixelPoint p) {
    QString text;
    if (rule_->is_open())
        if (const auto id = stage->seen_at(p)) {
            const render::Scene::PageRef ref = stage->scene().pages()[*id >> 16];
            if (stage->scene().items()[ref.item].id == document_->site()->active)
                text = rule_->value_of(std::uint64_t{ref.page} * kPageSize + (*id & 0xFFFFu));
        }
    stage->setToolTip(text);
}

// The active rules of the ledger of the item in work, in order.
score::Recipe Rules::rules_of_ledger() const {
    score::Recipe recipe;
    const site::ItemPtr item = document_->site()->active_item();
    if (!item) return recipe;
    for (const site::LedgerEntry& e : item->ledger) {
        const score::Step* rule = site::rule_of(e.cause);
        if (!e.active || !rule) continue;
        score::Step step = *rule;
        step.reason = e.reason;
        step.to_class = e.to_class;
        if (!step.fence() && score::find(step.score).needs_line)
            if (const site::LinePtr line = named(document_->site()->lines, step.with))
                step.line = line->points;
        recipe.push_back(std::move(step));
    }
    return recipe;
}

// What is out for another cause than a rule: a recipe does not hold it.
int Rules::entries_by_hand() const {
    const site::ItemPtr item = document_->site()->active_item();
    if (!item) return 0;
    return static_cast<int>(
        std::count_if(item->ledger.begin(), item->ledger.end(),
                      [](const site::LedgerEntry& e) { return e.active && !site::rule_of(e.cause); }));
}

void Rules::choose_save_recipe() {
    const QString file =
        QFileDialog::getSaveFileName(window_, tr("Save the rules as a recipe"),
                                     QSettings().value("folder").toString(), tr("Recipes (*.json)"));
    if (!file.isEmpty()) save_recipe(file.toStdString());
}

void Rules::save_recipe(const std::filesystem::path& file) {
    try {
        const score::Recipe recipe = rules_of_ledger();
        OutputFile out(file, true);
        out.write(score::json_of(recipe));
        out.finish();
        status_->say(tr("%n rule(s) saved as %1", "", static_cast<int>(recipe.size()))
                         .arg(QString::fromStdString(file.filename().string())),
                     false);
        if (const int by_hand = entries_by_hand(); by_hand > 0)
            notice_->show_text(
                tr("%n entry(s) of the ledger is not by a rule and not in the recipe.", "", by_hand), false);
    } catch (const Error& e) {
        say_refused(QString::fromStdString(e.what()));
    }
}

void Rules::choose_run_recipe() {
    const QString file =
        QFileDialog::getOpenFileName(window_, tr("Run a recipe"), QSettings().value("folder").toString(),
                                     tr("Recipes (*.json);;All files (*)"));
    if (!file.isEmpty()) run_recipe(file.toStdString());
}

// Each step becomes an entry of its own, that can be lifted by itself.
void Rules::run_recipe(const std::filesystem::path& file) {
    const site::ItemPtr item = document_->site()->active_item();
    if (!item) return say_refused(needs_item());
    score::Recipe recipe;
    try {
        const InputFile in(file);
        recipe = score::recipe_from_json(in.read_string(0, in.size()));
    } catch (const Error& e) {
        return say_refused(QString::fromStdString(e.what()));
    }
    const auto removals = std::make_shared<std::vector<score::Removal>>();
    jobs_->start(
        tr("Running %1").arg(QString::fromStdString(file.filename().string())),
        [=, site = document_->site()](Progress& p) {
            const Neighbours neighbours(site, item);
            *removals = score::run(recipe, *item->cloud, site::eligible(*item), p, neighbours.company());
        },
        [this, item, removals, file] {
            enter_recipe(item->id, *removals, QString::fromStdString(file.stem().string()));
        });
}

// By what the cloud says of itself; each class is an entry of its own.
void Rules::class_terrain() {
    const site::ItemPtr item = document_->site()->active_item();
    if (!item) return say_refused(needs_item());
    if (item->cloud->triangles())
        return say_refused(tr("Only points have classes; this item has triangles."));
    const auto steps = std::make_shared<std::vector<score::Removal>>();
    jobs_->start(
        tr("Classing ground and vegetation"),
        [=, metre = 1 / Lengths(*document_->site(), item.get()).data_metres()](Progress& p) {
            const ElementSet eligible = site::eligible(*item);
            score::Recipe recipe;
            {
                const Progress::Part part(p, 0, 0.4, p.label());
                recipe = score::terrain_classes(*item->cloud, eligible, metre, p);
            }
            const Progress::Part part(p, 0.4, 1, p.label());
            *steps = score::run(recipe, *item->cloud, eligible, p);
        },
        [this, item, steps] { enter_recipe(item->id, *steps, tr("for ground and vegetation")); });
}

void Rules::enter_recipe(std::uint64_t item, const std::vector<score::Removal>& steps,
                         const QString& recipe) {
    std::uint64_t gone = 0, classed = 0;
    for (const score::Removal& r : steps) (r.step.to_class ? classed : gone) += r.elements.count();
    if (gone + classed == 0) return say_refused(tr("The recipe finds nothing here."));
    const QString title =
        classed == 0 ? tr("Remove %1 by the recipe %2").arg(counted(*document_, gone), recipe)
        : gone == 0  ? tr("Class %1 by the recipe %2").arg(counted(*document_, classed), recipe)
                     : tr("Remove %1, class %2 by the recipe %3")
                          .arg(counted(*document_, gone), counted(*document_, classed), recipe);
    document_->apply(title, [&](const site::Site& s) {
        site::SitePtr now = site::clear_selection(*site::activate(s, item));
        for (const score::Removal& r : steps) {
            if (r.elements.empty()) continue;
            site::Decision d;
            d.reason = r.reason;
            d.cause = site::by_rule(r.step);
            const site::Parts part{{item, std::make_shared<const ElementSet>(r.elements)}};
            now = r.step.to_class ? site::class_parts(*now, part, *r.step.to_class, d)
                                  : site::remove_parts(*now, part, d);
        }
        return now;
    });
}

}  // namespace pristine::app
