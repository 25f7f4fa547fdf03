// Solids of the demo site and rays against them.

#pragma once

#include <optional>
#include <vector>

#include "demo/ashmere.h"

namespace pristine::demo {

struct Rgb {
    double r = 0, g = 0, b = 0;  // 0..255
};

enum class Skin : std::uint8_t { Plain, Brick, Concrete, Grass, Wood };

struct Solid {
    enum class Shape : std::uint8_t { Box, Cylinder, Sphere } shape = Shape::Box;
    Vec3 a, b;  // box: corners; cylinder: foot of the axis (a) and radius b.x, height b.z; sphere: centre a,
                // radius b.x
    Kind kind = Kind::Floor;
    Rgb colour;
    Skin skin = Skin::Plain;
};

struct Hit {
    double range = 0;
    Vec3 normal;
    const Solid* solid = nullptr;
};

/// The chamber and what stands in it while the given station (0 or 1) is scanned.
std::vector<Solid> make_scene(int station);

/// The chamber alone.
std::vector<Solid> make_chamber();
/// Somebody 1.6 to 1.9 m tall, standing.
void add_person(std::vector<Solid>&, Vec3 feet, double height, Rgb vest, Rgb helmet);
void add_cart(std::vector<Solid>&, Vec3 at);
/// From a place to the nearest surface of a solid, metres.
double distance_to(const std::vector<Solid>&, Vec3);

/// The first solid that a ray meets.
std::optional<Hit> cast(const std::vector<Solid>&, Vec3 origin, Vec3 direction);

/// Colour of the surface at a point.
Rgb colour_at(const Hit&, Vec3 point);

}  // namespace pristine::demo
