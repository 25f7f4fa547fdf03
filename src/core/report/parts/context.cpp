#include "core/report/parts/context.h"

#include "core/io/mesh/mesh_cloud.h"

namespace pristine::report {

void Context::say(const std::string& text, Paragraph::Kind kind) {
    blocks.emplace_back(Paragraph{{{text, false}}, kind});
}
void Context::say(std::vector<Run> runs) {
    blocks.emplace_back(Paragraph{std::move(runs), Paragraph::Kind::Plain});
}
void Context::add(Table t) {
    blocks.emplace_back(std::move(t));
}
void Context::add(Figure f) {
    blocks.emplace_back(std::move(f));
}

std::vector<site::ItemPtr> Context::items() const {
    std::vector<site::ItemPtr> out;
    for (const std::uint64_t id : part.items)
        if (auto i = site().item(id)) out.push_back(std::move(i));
    return out;
}

std::vector<site::LinePtr> Context::lines() const {
    std::vector<site::LinePtr> out;
    for (const std::uint64_t id : part.lines)
        if (auto l = site().line(id)) out.push_back(std::move(l));
    return out;
}

mesh::TriMesh shown_triangles(const site::Item& i) {
    return io::mesh_of(*i.cloud, ~*i.absent);
}

std::string told_cause(const site::Site& s, const site::Item& i, const site::Cause& cause) {
    const Shown shown(s, i.cloud->reference());
    site::Wording w;
    w.length = [&](double v) { return shown.text_of(shown.length(v, 1)); };
    w.area = [&](double v) { return shown.text_of(shown.area(v)); };
    return site::told(cause, w);
}

}  // namespace pristine::report
