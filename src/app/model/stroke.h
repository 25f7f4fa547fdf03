// A stroke of a brush, from the press to the release.

#pragma once

#include <memory>
#include <optional>
#include <vector>

#include "core/repair/smooth.h"
#include "core/select/fence.h"
#include "core/site/site.h"
#include "render/renderer.h"

namespace pristine::app {

struct Stroke {
    /// Of each item that it may take something of; the item in work comes first.
    struct Of {
        site::ItemPtr item;
        ElementSet eligible, taken;
    };
    std::vector<Of> of;
    site::Combine combine = site::Combine::Add;
    /// As it was at the press: while the stroke goes on only tints change, and the picture need not be waited
    /// for.
    std::shared_ptr<const render::Picture> picture{};
    std::vector<float> depths;
    select::DepthPicture seen;
    bool visible_only = false;
    double ball_radius = 0;               // world; of brushes with a size in space, from the first place
    repair::BrushStroke brush{};          // of brushes that move corners
    PixelPoint from{};                    // where it was pressed
    std::optional<PixelPoint> last{};     // how far the brush has come
    std::optional<std::uint64_t> seed{};  // triangle that a region grows from
};

}  // namespace pristine::app
