// Reading and writing numbers in byte buffers, in a stated byte order.

#pragma once

#include <bit>
#include <cstddef>
#include <cstdint>
#include <cstring>
#include <span>
#include <string>
#include <type_traits>

namespace pristine {

static_assert(std::endian::native == std::endian::little,
              "page data is used in place; a big-endian port must swap");

using Bytes = std::span<const std::byte>;

/// The bytes of a number in the opposite order.
template <class T>
T byte_swapped(T value) {
    static_assert(std::is_trivially_copyable_v<T>);
    unsigned char raw[sizeof(T)];
    std::memcpy(raw, &value, sizeof(T));
    for (std::size_t i = 0; i < sizeof(T) / 2; ++i) std::swap(raw[i], raw[sizeof(T) - 1 - i]);
    std::memcpy(&value, raw, sizeof(T));
    return value;
}

/// The number at `at`, little-endian, any alignment. The caller has checked that sizeof(T) bytes are there.
template <class T>
T load_le(const void* at) {
    T value;
    std::memcpy(&value, at, sizeof(T));
    return value;
}

/// Writes a number, low byte first, to memory of its size.
template <class T>
void store_le(void* at, T value) {
    std::memcpy(at, &value, sizeof(T));
}

/// Adds a number, low byte first.
template <class T>
void append_le(std::string& out, T value) {
    out.append(reinterpret_cast<const char*>(&value), sizeof(T));
}

}  // namespace pristine
