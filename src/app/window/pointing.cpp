#include "app/window/pointing.h"

#include <QMenu>
#include <algorithm>

#include "app/cards/place_card.h"
#include "app/cards/rule_card.h"
#include "app/cards/work_card.h"
#include "app/look/lengths.h"
#include "app/look/theme.h"
#include "app/model/document.h"
#include "app/model/jobs.h"
#include "app/panes/panorama_pane.h"
#include "app/panes/section_pane.h"
#include "app/tools/space_tools.h"
#include "core/select/under.h"

namespace pristine::app {

struct Pointing::Under {
    std::uint64_t item = 0;
    select::Layer layer;
    QString words;
};

namespace {

constexpr std::size_t kMostListed = 20;

}  // namespace

Pointing::Pointing(Desk& desk) : HandyPart(desk) {
    auto* const place = desk.find<PlaceCard>();
    connect(place, &PlaceCard::pick_wanted, this, [this, place](const QString& ask) {
        hand_.pick_next(ask, [place](const Vec3& at) { place->picked(at); });
    });
    connect(place, &PlaceCard::closed, this, [this] { hand_.drop_pick(); });
    connect(rule_, &RuleCard::pick_wanted, this, [this](const QString& ask) {
        hand_.pick_next(ask, [this](const Vec3& at) { rule_->picked(at); });
    });
    connect(&panorama_->view(), &PanoramaView::picked, this,
            [this](const PixelPoint& at, Qt::KeyboardModifiers m) {
                if (hand_.id() != ToolId::Single) return;
                const auto seen = panorama_->seen_at(at);
                if (!seen) return say_refused(tr("There is no point here."));
                take(stage_, seen->item, seen->element, hand_.combine_for(m));
            });
    for (Stage* stage : {stage_, &section_->stage()}) {
        connect(stage, &Stage::shape_made, this, [this, stage](const SpaceShape& s, Qt::KeyboardModifiers m) {
            if (s.kind == SpaceShape::Kind::Pick && hand_.id() == ToolId::Single) take_seen(stage, s.end, m);
        });
        connect(stage, &Stage::pointed_at, this, [this, stage](double x, double y) {
            pointed_ = stage;
            at_ = {x, y};
        });
    }
}

void Pointing::add_commands() {
    add(
        "select.under", tr("What lies under the pointer…"),
        tr("Lists what lies behind each other under the pointer, near to far, of all items that tools reach; "
           "choose by wheel, arrow keys or click"),
        QKeySequence(Qt::SHIFT | Qt::Key_U), tr("Select"), [this] { list_under(); },
        [this] { return needs_item(); });
}

void Pointing::take_seen(Stage* stage, PixelPoint at, Qt::KeyboardModifiers modifiers) {
    const auto id = stage->seen_at(at);
    if (!id) return say_refused(tr("There is no point here."));
    const render::Scene::PageRef ref = stage->scene().pages()[*id >> 16];
    take(stage, stage->scene().items()[ref.item].id, std::uint64_t{ref.page} * kPageSize + (*id & 0xFFFFu),
         hand_.combine_for(modifiers));
}

void Pointing::take(Stage* stage, std::uint64_t item, std::uint64_t element, site::Combine combine) {
    const site::SitePtr s = document_->site();
    const std::vector<Hand::Target> targets = hand_.targets(*s, stage);
    const auto target = std::find_if(targets.begin(), targets.end(),
                                     [&](const Hand::Target& t) { return t.item->id == item; });
    const site::ItemPtr owner = s->item(item);
    if (target == targets.end())
        return say_refused(
            owner ? tr("This is of %1: take it in work, or let tools take from all that is shown.")
                        .arg(QString::fromStdString(owner->name))
                  : tr("This is of no item."));
    // Of a selection it can always be taken away.
    if (!target->eligible.contains(element)) return say_refused(tr("It is guarded, or may not be touched."));
    ElementSet one(target->item->cloud->size());
    one.insert(element);
    site::Act act{.kind = site::Act::Kind::Tool, .id = "select.single"};
    hand_.finish_selecting(targets, {{item, std::make_shared<const ElementSet>(std::move(one))}},
                           {combine, tr("Nothing of %1 was taken."), {site::by(std::move(act)), {}}});
}

void Pointing::list_under() {
    Stage* const stage = pointed_ ? pointed_ : stage_;
    const auto found = std::make_shared<std::vector<Under>>();
    const std::vector<Hand::Target> targets = hand_.targets(*document_->site(), stage);
    jobs_->start(
        tr("Looking under the pointer"),
        [=, view = stage->frame(), at = at_](Progress& p) {
            for (const Hand::Target& t : targets)
                for (const select::Layer& l :
                     select::layers_under(*t.item->cloud, t.eligible, view, at, 3, p))
                    found->push_back({t.item->id, l, QString::fromStdString(t.item->name)});
            std::stable_sort(found->begin(), found->end(),
                             [](const Under& a, const Under& b) { return a.layer.depth < b.layer.depth; });
        },
        [this, found] { offer(*found); }, {}, Jobs::Show::IfLong);
}

// Each with its distance behind the nearest, which is what an eye wants to know.
void Pointing::offer(const std::vector<Under>& all) {
    if (all.empty()) return say_refused(tr("Nothing lies under the pointer."));
    Stage* const stage = pointed_ ? pointed_ : stage_;
    const Lengths lengths(*document_->site());
    auto* menu = new QMenu(window_);
    menu->setObjectName(QStringLiteral("underMenu"));
    menu->setAttribute(Qt::WA_DeleteOnClose);
    for (std::size_t k = 0; k < std::min(all.size(), kMostListed); ++k) {
        const Under& u = all[k];
        const QString how_far =
            k == 0 ? tr("nearest") : tr("%1 behind").arg(lengths.text(u.layer.depth - all[0].layer.depth));
        menu->addAction(tr("%1 · %2 · H %3 · %4")
                            .arg(u.words, how_far, lengths.coordinate(u.layer.place.z),
                                 counted(*document_, u.layer.count)),
                        this, [this, stage, item = u.item, element = u.layer.element] {
                            take(stage, item, element, card_->combine());
                        });
    }
    if (all.size() > kMostListed)
        menu->addAction(tr("and %1 more").arg(all.size() - kMostListed))->setEnabled(false);
    menu->popup(stage->mapToGlobal(QPoint(static_cast<int>(at_.x) + 12, static_cast<int>(at_.y))));
    menu->setActiveAction(menu->actions().front());
}

}  // namespace pristine::app
