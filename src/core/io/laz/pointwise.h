// Chunks of point formats 0-5: one stream, point by point, field after field.

#pragma once

#include <memory>
#include <optional>
#include <vector>

#include "core/io/laz/colour.h"
#include "core/io/laz/gps_time.h"
#include "core/io/laz/scheme.h"
#include "core/io/laz/wave_packet.h"

namespace pristine::io::laz {

/// The first 20 bytes of a record: coordinates to point source.
class Point10Coder {
  public:
    Point10Coder();
    void restart(const std::byte* first);
    template <class Coder>
    void code(Coder&, std::byte* item);

  private:
    template <class Coder>
    void code_attributes(Coder&, std::byte* item, unsigned changed, unsigned kind);
    template <class Coder>
    void code_position(Coder&, std::byte* item, unsigned kind, unsigned level, unsigned single);

    std::array<std::byte, 20> last_{};
    std::array<std::uint16_t, 16> intensity_{};
    std::array<Median5, 16> dx_median_, dy_median_;
    std::array<std::int32_t, 8> height_{};
    SymbolModel changed_;
    std::array<SymbolModel, 2> scan_angle_;
    LazyModels flags_, class_, user_data_;
    IntegerCoder intensity_coder_, source_, dx_, dy_, z_;
};

/// Codes the points of one chunk after the first, which is stored as it is.
class PointwiseCoder {
  public:
    explicit PointwiseCoder(const Scheme& scheme);
    void restart(const std::byte* first);
    /// Encoder: writes the record. Decoder: fills it.
    template <class Coder>
    void code(Coder&, std::byte* record);

  private:
    Scheme scheme_;
    Point10Coder point_;
    std::optional<GpsTimeCoder> time_;
    std::unique_ptr<RgbModels> rgb_;
    std::unique_ptr<WavePacketCoder> wave_;
    Rgb last_rgb_{};
    std::vector<SymbolModel> extra_;
    std::vector<std::byte> last_extra_;
};

}  // namespace pristine::io::laz
