// Lines over a picture: kept as long as the view stays, and the same as drawn anew.

#include <catch2/catch.hpp>

#include <QImage>
#include <QPainter>
#include <random>

#include "app/stage/guide.h"
#include "render/camera.h"
#include "support/cloud_makers.h"

using namespace pristine;
using namespace pristine::app;

namespace {

QImage drawn(GuideLayer& layer, const ViewFrame& view, bool moving = false) {
    QImage image(view.width, view.height, QImage::Format_ARGB32_Premultiplied);
    image.fill(Qt::black);
    QPainter painter(&image);
    layer.paint(painter, view, moving);
    return image;
}

std::vector<Guide> lines(std::mt19937_64& dice, int n, int vertices) {
    std::uniform_real_distribution<double> unit(-1, 1);
    std::vector<Guide> out;
    for (int k = 0; k < n; ++k) {
        Guide g;
        Vec3 p{50 * unit(dice), 50 * unit(dice), 5 * unit(dice)};
        for (int i = 0; i < vertices; ++i) {
            p = p + Vec3{unit(dice), unit(dice), 0};
            g.points.push_back(p);
            g.beside.push_back(QString::number(p.z, 'f', 2));
        }
        g.label = QString::number(k);
        out.push_back(std::move(g));
    }
    return out;
}

}  // namespace

TEST_CASE("LinesThatAreKeptAreThoseDrawnAnew", "[window]") {
    const std::uint64_t seed = test::seed_for("Guides");
    CAPTURE(seed);
    std::mt19937_64 dice(seed);
    for (const int vertices : {4, 3000}) {
        GuideLayer layer;
        for (int round = 0; round < 6; ++round) {
            if (round % 2 == 0) layer.set(lines(dice, 12, vertices));
            render::Camera camera;
            camera.yaw_deg = static_cast<double>(dice() % 360);
            camera.pitch_deg = -static_cast<double>(dice() % 90);
            camera.perspective = round % 3 != 0;
            camera.look_at_all({{-50, -50, -5}, {50, 50, 5}}, 1.5);
            const ViewFrame view = camera.frame(600, 400, {{-50, -50, -5}, {50, 50, 5}});
            const QImage first = drawn(layer, view), again = drawn(layer, view);
            GuideLayer fresh;
            fresh.set(layer.guides());
            CAPTURE(vertices, round);
            CHECK(first == again);
            CHECK(first == drawn(fresh, view));
            QImage empty(first.size(), first.format());
            empty.fill(Qt::black);
            CHECK(first != empty);
            // Many are drawn rough while the view moves, few are not; rest brings all back.
            const QImage rough = drawn(layer, view, true);
            CHECK((rough == first) == (vertices < 1000));
            CHECK(rough != empty);
            CHECK(drawn(layer, view) == first);
        }
        layer.set({});
        const ViewFrame view = render::Camera().frame(600, 400, {});
        QImage empty(600, 400, QImage::Format_ARGB32_Premultiplied);
        empty.fill(Qt::black);
        CHECK(drawn(layer, view) == empty);
    }
}
