#include "app/model/mending.h"

#include "app/look/theme.h"
#include "app/model/document.h"
#include "app/model/jobs.h"
#include "core/site/mend.h"

namespace pristine::app {
namespace {

struct State {
    Mending::Result result;
    site::Mended mended;
    std::shared_ptr<const site::Thumbnail> picture;
};

QString told(const State& s) {
    QString text = s.result.told;
    if (text.contains(QStringLiteral("%1")))
        text = text.arg(grouped(s.mended.taken->count()), grouped(s.mended.made->count()));
    return text;
}

site::Cause cause_of(const Mending& m, const State& s) {
    site::Act act{.kind = site::Act::Kind::Repair, .id = m.repair, .settings = m.settings};
    act.settings.insert(s.result.found.begin(), s.result.found.end());
    act.settings["taken"] = static_cast<double>(s.mended.taken->count());
    act.settings["made"] = static_cast<double>(s.mended.made->count());
    return site::by(std::move(act));
}

}  // namespace

void start_mending(Document* document, Jobs* jobs, Mending m) {
    const auto state = std::make_shared<State>();
    jobs->start(
        m.title,
        [state, m, picture = document->picture_of()](Progress& p) {
            {
                const Progress::Part part(p, 0, 0.65, "");
                state->result = m.work(p);
            }
            p.stretch(0.65, 1, "Finding what stayed");
            if (state->result.mesh.triangles.empty()) return;
            state->mended = site::mended(*m.item, state->result.mesh, p,
                                         state->result.heals ? site::Carry::Healed : site::Carry::AsItWas);
            state->picture = picture(state->mended.cloud, state->mended.made->empty() ? *state->mended.taken
                                                                                      : *state->mended.made);
        },
        [document, state, m] {
            if (!state->mended.cloud) return m.said(state->result.told);
            if (state->mended.taken->empty() && state->mended.made->empty()) return m.said(m.nothing);
            const QString text = told(*state);
            QString step = m.step.isEmpty() ? m.title : m.step;
            if (step.contains(QStringLiteral("%1"))) step = step.arg(grouped(state->mended.made->count()));
            const bool done = document->apply(step, [&](const site::Site& s) {
                return site::mend(
                    s, m.item->id, m.item->cloud, state->mended,
                    {m.reason.toStdString(), cause_of(m, *state), site::Signature::now(), state->picture});
            });
            if (done) m.said(text);
        },
        [m](const QString& why) { m.said(why.isEmpty() ? Document::tr("Cancelled.") : why); });
}

}  // namespace pristine::app
