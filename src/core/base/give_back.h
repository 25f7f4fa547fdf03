// Memory that comes back from a file by itself, and is given back to the system when the program holds more
// than its budget (memory.h). What is given back is chosen by the clock algorithm (Corbató 1968): the hand
// passes over all parts of everything that takes part; a part that was asked for since its last pass is
// spared once.

#pragma once

#include <cstddef>
#include <cstdint>

namespace pristine {

/// Something in parts that can be given back one by one, at any time and from any thread.
class GivesBack {
  public:
    virtual ~GivesBack() = default;
    virtual std::size_t parts() const = 0;
    /// One pass of the hand over a part; bytes given back at most.
    virtual std::size_t pass(std::size_t part) const = 0;
};

/// From now on the hand passes over it, until it is forgotten. Watched: even if nobody says what arrives.
void take_part(const GivesBack*, bool watched = false);
void forget(const GivesBack*, bool watched = false);
/// So many bytes came in: now and then this makes room.
void arrived(std::uint64_t bytes);

}  // namespace pristine
