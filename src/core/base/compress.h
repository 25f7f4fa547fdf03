// Lossless packing of page data: byte planes, differences, zstd level 1.

#pragma once

#include <cstdint>
#include <span>
#include <string>
#include <string_view>
#include <vector>

namespace pristine {

/// `bytes` packed by zstd at level 1.
std::string pack(std::string_view bytes);
/// The opposite of pack. Throws Error(Format) if `packed` is damaged or would unpack to more than `limit`
/// bytes.
std::string unpack(std::string_view packed, std::uint64_t limit);

/// Records of `record_bytes` each, turned into byte planes (all first bytes, all second bytes, …), which pack
/// far better. bytes.size() must be a multiple of record_bytes.
std::string to_planes(std::string_view bytes, std::size_t record_bytes);
std::string from_planes(std::string_view planes, std::size_t record_bytes);

/// 32-bit numbers as differences to their predecessor, in byte planes, packed. Good for sorted or slowly
/// changing ones.
std::string pack_deltas(std::span<const std::uint32_t> values);
/// Exactly `count` numbers. Throws Error(Format) on damage.
std::vector<std::uint32_t> unpack_deltas(std::string_view packed, std::size_t count);

}  // namespace pristine
