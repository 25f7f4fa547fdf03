// Chunks of point formats 6-10: a stream of its own for each kind of field, so that what never changes costs
// nothing. Points of different scanner channels are predicted from the last of their own channel.

#pragma once

#include <array>
#include <memory>
#include <vector>

#include "core/io/laz/colour.h"
#include "core/io/laz/gps_time.h"
#include "core/io/laz/scheme.h"
#include "core/io/laz/wave_packet.h"

namespace pristine::io::laz {

/// The streams of a chunk. Encoding: which of them ever carried a change. Decoding: which of them are there.
template <class Coder>
struct Layers {
    std::vector<Coder> coders;
    std::vector<char> live;
    explicit Layers(std::size_t count) : coders(count), live(count, 0) {}
};

/// How many streams a chunk of this scheme has.
std::size_t layer_count(const Scheme&);

/// Codes records of point formats 6 to 10, each part into a stream of its own.
class LayeredCoder {
  public:
    explicit LayeredCoder(const Scheme& scheme);
    ~LayeredCoder();
    void restart(const std::byte* first);
    template <class Coder>
    void code(Layers<Coder>&, std::byte* record);

  private:
    struct Channel;  // models of one scanner channel
    struct Tail;     // models of what follows the point: colour, wave packet, extra bytes
    template <class Coder>
    void code_returns(Layers<Coder>&, std::byte* item);
    template <class Coder>
    void code_position(Layers<Coder>&, const std::byte* item);
    template <class Coder>
    void code_attributes(Layers<Coder>&, const std::byte* item);
    template <class Coder>
    void code_colour(Layers<Coder>&, std::byte* item, std::size_t layer);
    template <class Coder>
    void code_extra(Layers<Coder>&, std::byte* item, std::size_t layer);
    void choose_tail();

    Scheme scheme_;
    std::array<std::unique_ptr<Channel>, 4> channels_;
    unsigned now_ = 0;  // channel of the last point
    std::array<std::unique_ptr<Tail>, 4> tails_;
    unsigned tail_ = 0;       // whose models code what follows the point
    unsigned tail_home_ = 0;  // whose last values that is predicted from, and kept with
    bool channel_changed_ = false;
    // Of the point in work.
    bool time_changed_ = false, angle_changed_ = false, source_changed_ = false;
};

}  // namespace pristine::io::laz
