// Lines and fences come in the unit and system of their file; they are used among data with its own.

#pragma once

#include <memory>
#include <string>
#include <vector>

#include "core/cloud/point_cloud.h"
#include "core/geometry/vec.h"

namespace pristine::io {

class Reprojection;

/// From the coordinates of one file to those of other data: by PROJ where both name a system, by the factor
/// of their units where only these are known. What is not stated on one side is taken for that of the other.
class Placing {
  public:
    /// Throws Error(Usage) when there is no way, or when only one side is in degrees and nothing says where
    /// the other lies.
    Placing(const cloud::Reference& from, const cloud::Reference& to);
    ~Placing();
    /// Throws Error(Usage) when a place has no image.
    void apply(std::vector<Vec3>& places);
    /// "Converted from US survey foot to metre", once something was moved; else empty.
    const std::string& note() const { return note_; }

  private:
    std::unique_ptr<Reprojection> way_;
    double plan_ = 1, heights_ = 1;
    std::string from_, to_, note_;
};

}  // namespace pristine::io
