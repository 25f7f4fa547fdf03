// One chunk of compressed records, decoded or encoded on its own.

#pragma once

#include <memory>
#include <span>
#include <string>

#include "core/io/laz/layered.h"
#include "core/io/laz/pointwise.h"

namespace pristine::io::laz {

/// Keeps its models from chunk to chunk; one for each thread.
class ChunkDecoder {
  public:
    explicit ChunkDecoder(const Scheme& scheme);
    /// Fills `records`, a whole number of them, at least one. Returns the bytes of the chunk. Throws
    /// Error(Format) when the bytes are no such chunk.
    std::size_t decode(std::span<const std::byte> bytes, std::span<std::byte> records);

  private:
    std::size_t decode_layered(std::span<const std::byte> bytes, std::span<std::byte> records);
    Scheme scheme_;
    std::unique_ptr<PointwiseCoder> pointwise_;
    std::unique_ptr<LayeredCoder> layered_;
};

/// Codes one chunk after the other.
class ChunkEncoder {
  public:
    explicit ChunkEncoder(const Scheme& scheme);
    /// The chunk that holds these records, at least one.
    std::string encode(std::span<const std::byte> records);

  private:
    Scheme scheme_;
    std::unique_ptr<PointwiseCoder> pointwise_;
    std::unique_ptr<LayeredCoder> layered_;
};

}  // namespace pristine::io::laz
