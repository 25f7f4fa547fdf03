#include "app/model/measured_text.h"

#include <QCoreApplication>
#include <QLocale>
#include <QStringList>
#include <cmath>

namespace pristine::app {
namespace {

struct MeasuredSay {
    Q_DECLARE_TR_FUNCTIONS(MeasuredText)
};

// What it was stands below, when it was something else.
QString row(const QString& title, const QString& value, const QString& was = {}) {
    QString text =
        QStringLiteral("<tr><td>%1&nbsp;&nbsp;</td><td align=right><b>%2</b></td></tr>").arg(title, value);
    if (!was.isEmpty() && was != value)
        text += QStringLiteral("<tr><td></td><td align=right>%1</td></tr>")
                    .arg(MeasuredSay::tr("was %1").arg(was));
    return text;
}

// What the standard deviations rest on, and what they leave out.
QString text_of_sigma(const Measured& f, const Lengths& l) {
    const measure::Difference& d = *f.difference;
    QString text =
        MeasuredSay::tr("± is one standard deviation. Noise of heights: earlier %1 (%2), later %3 (%4).")
            .arg(l.spread(f.earlier.noise), f.earlier_noise, l.spread(f.later.noise), f.later_noise);
    const auto both = [&](const QString& words, double a, double b) {
        if (a > 0 || b > 0)
            text += ' ' + words.arg(a > 0 ? l.spread(a) : MeasuredSay::tr("none stated"),
                                    b > 0 ? l.spread(b) : MeasuredSay::tr("none stated"));
    };
    both(MeasuredSay::tr("Shared by all heights: earlier %1, later %2."), f.earlier.systematic,
         f.later.systematic);
    both(MeasuredSay::tr("Thinned, with heights off by up to: earlier %1, later %2."), f.earlier.thinning,
         f.later.thinning);
    if (d.excess_cut + d.excess_fill > 0.1 * (d.sigma_cut + d.sigma_fill))
        text += ' ' +
                MeasuredSay::tr(
                    "Noise alone makes cut and fill too large by about %1 and %2: leave it out with a band.")
                    .arg(l.spread(d.excess_cut, 3), l.spread(d.excess_fill, 3));
    return text;
}

// A figure with its name, of one board.
struct Figure {
    QString title;
    double value;
    int exponent;
};
std::vector<Figure> figures_of(const Measured& f) {
    std::vector<Figure> all{{MeasuredSay::tr("Plan area"), f.now.plan_area, 2}};
    if (f.difference) {
        all.push_back({MeasuredSay::tr("Cut volume"), f.difference->cut, 3});
        all.push_back({MeasuredSay::tr("Fill volume"), f.difference->fill, 3});
        all.push_back({MeasuredSay::tr("Net"), f.difference->net(), 3});
    } else if (f.volumes) {
        all.push_back({MeasuredSay::tr("Volume above"), f.volumes->above, 3});
        all.push_back({MeasuredSay::tr("Volume below"), f.volumes->below, 3});
    } else if (f.solid_now) {
        all = {{MeasuredSay::tr("Surface area"), f.solid_now->area, 2}};
        if (f.solid_now->closed) all.push_back({MeasuredSay::tr("Volume"), f.solid_now->volume, 3});
    }
    return all;
}

}  // namespace

QString text_beside(const Measured& now, const Measured& pinned, const QString& what, const Lengths& l) {
    const QString line = QStringLiteral(
        "<tr><td>%1&nbsp;&nbsp;</td><td align=right>%2&nbsp;&nbsp;</td><td align=right>%3</td></tr>");
    QString rows;
    const std::vector<Figure> before = figures_of(pinned);
    for (const Figure& f : figures_of(now))
        for (const Figure& p : before)
            if (p.title == f.title) {
                const auto text = [&](double v) { return f.exponent == 2 ? l.area(v) : l.volume(v); };
                rows += line.arg(f.title, text(p.value),
                                 (f.value >= p.value ? "+" : "") + text(f.value - p.value));
            }
    if (rows.isEmpty()) return {};
    return "<b>" + what + "</b><table>" +
           line.arg(QString(), MeasuredSay::tr("pinned"), MeasuredSay::tr("now more by")) + rows + "</table>";
}

MeasuredText text_of_surface(const Measured& f, const Lengths& l) {
    MeasuredText told;
    const auto area = [&](double x) { return l.area(x); };
    const auto volume = [&](double x) { return l.volume(x); };
    const bool edited = f.now.plan_area != f.before.plan_area;
    const auto was_before = [&](const QString& text) { return edited ? text : QString(); };
    told.now =
        "<table>" +
        row(MeasuredSay::tr("Plan area"), area(f.now.plan_area), was_before(area(f.before.plan_area))) +
        row(MeasuredSay::tr("Surface area"), area(f.now.surface_area),
            was_before(area(f.before.surface_area))) +
        row(MeasuredSay::tr("Perimeter"), l.text(f.now.perimeter), was_before(l.text(f.before.perimeter))) +
        "</table>";
    told.state = MeasuredSay::tr("As it is shown now; heights %1 to %2.")
                     .arg(l.text(f.now.lowest), l.text(f.now.highest));
    const auto was = [&](const auto& before, auto figure) {
        return before ? volume(figure(*before)) : QString();
    };
    if (f.difference) {
        const measure::Difference& d = *f.difference;
        const QString dates = f.later_date.empty() ? QString()
                                                   : MeasuredSay::tr("%1 minus %2. ")
                                                         .arg(QString::fromStdString(f.later_date),
                                                              QString::fromStdString(f.earlier_date));
        // Turned round on purpose the words are turned round too.
        const bool back = !f.later_date.empty() && f.later_date < f.earlier_date;
        const auto figure = [&](double v, double sigma) { return l.with_spread(v, sigma, 3); };
        told.volumes =
            dates +
            (back ? MeasuredSay::tr(
                        "Earlier minus later: what reads as fill was taken away between the two dates.")
                  : MeasuredSay::tr("Later minus earlier: fill is material added.")) +
            "<table>" +
            row(MeasuredSay::tr("Cut volume"), figure(d.cut, d.sigma_cut),
                was(f.difference_before, [](auto& b) { return b.cut; })) +
            row(MeasuredSay::tr("Cut area"), area(d.cut_area)) +
            row(MeasuredSay::tr("Fill volume"), figure(d.fill, d.sigma_fill),
                was(f.difference_before, [](auto& b) { return b.fill; })) +
            row(MeasuredSay::tr("Fill area"), area(d.fill_area)) +
            row(MeasuredSay::tr("Net"), figure(d.net(), d.sigma_net),
                was(f.difference_before, [](auto& b) { return b.net(); })) +
            row(MeasuredSay::tr("Unchanged"), area(d.unchanged_area)) +
            row(MeasuredSay::tr("Covered by one survey only"), area(d.uncovered_area)) + "</table>" +
            text_of_sigma(f, l);
    } else if (f.volumes) {
        told.volumes = ("<table>" +
                        row(MeasuredSay::tr("Volume above"), volume(f.volumes->above),
                            was(f.volumes_before, [](auto& b) { return b.above; })) +
                        row(MeasuredSay::tr("Area above"), area(f.volumes->area_above)) +
                        row(MeasuredSay::tr("Volume below"), volume(f.volumes->below),
                            was(f.volumes_before, [](auto& b) { return b.below; })) +
                        row(MeasuredSay::tr("Area below"), area(f.volumes->area_below)) + "</table>");
    }
    return told;
}

MeasuredText text_of_solid(const Measured& f, double density, const Lengths& l) {
    MeasuredText told;
    const measure::SolidFigures &now = *f.solid_now, &before = *f.solid_before;
    const auto area = [&](double v) { return l.area(v); };
    const auto volume = [&](const measure::SolidFigures& f) {
        return f.closed ? l.volume(f.volume) : MeasuredSay::tr("none: open");
    };
    QString text = "<table>" + row(MeasuredSay::tr("Surface area"), area(now.area), area(before.area)) +
                   row(MeasuredSay::tr("Volume"), volume(now), volume(before));
    if (now.closed && density > 0)
        text += row(MeasuredSay::tr("Mass"),
                    l.known() ? QString::fromStdString(mass_text(
                                    now.volume * std::pow(l.data_metres(), 3) * density, number_marks()))
                              : MeasuredSay::tr("none: unit not set"),
                    {});
    told.now = text + "</table>";
    told.state = MeasuredSay::tr("As it is shown now.");
    QStringList said;
    if (now.boundary_edges > 0)
        said << MeasuredSay::tr(
            "No volume: %n edge(s) belong to one triangle only. Check and repair (Ctrl+R) marks the rims "
            "and closes them.",
            "", static_cast<int>(now.boundary_edges));
    else if (!now.closed)
        said << MeasuredSay::tr(
            "No volume: edges of more than two triangles, or faces that disagree. Check and repair "
            "(Ctrl+R) shows where.");
    if (now.crossings > 0)
        said << MeasuredSay::tr("%n pair(s) of triangles cross: the volume counts some places twice.", "",
                                static_cast<int>(now.crossings));
    if (now.inwards) said << MeasuredSay::tr("The mesh faces inwards; its volume is counted positive.");
    told.volumes = said.join(QLatin1Char(' '));
    return told;
}

QString table_of_classes(const std::vector<measure::ClassFigures>& classes, const Lengths& l) {
    // The unit stands in the head: with it in each row the numbers would be parted from theirs.
    const QString line =
        QStringLiteral("<tr><td>%1&nbsp;</td><td align=right>%2&nbsp;</td><td align=right>%3</td></tr>");
    const auto whole = [](QString figure) { return figure.replace(' ', QStringLiteral("&nbsp;")); };
    const QString unit = l.suffix().trimmed();
    QString table = "<table>" + line.arg(unit.isEmpty() ? MeasuredSay::tr("Change")
                                                        : MeasuredSay::tr("Change [%1]").arg(unit),
                                         MeasuredSay::tr("Area"), MeasuredSay::tr("Volume"));
    double area = 0, volume = 0;
    for (const measure::ClassFigures& c : classes) {
        if (c.area == 0) continue;
        area += c.area;
        volume += c.volume;
        // Limits as they were typed, not rounded as figures are.
        const auto limit = [&](double v) { return QLocale().toString(v / l.data(1), 'g', 6); };
        const QString from = limit(c.from), to = limit(c.to);
        table += line.arg(std::isinf(c.from) ? MeasuredSay::tr("below %1").arg(to)
                          : std::isinf(c.to) ? MeasuredSay::tr("%1 and more").arg(from)
                                             : MeasuredSay::tr("%1 to %2").arg(from, to),
                          "<b>" + whole(l.area(c.area)) + "</b>", "<b>" + whole(l.volume(c.volume)) + "</b>");
    }
    table += line.arg(MeasuredSay::tr("All"), whole(l.area(area)), whole(l.volume(volume))) + "</table>";
    return table;
}

}  // namespace pristine::app
