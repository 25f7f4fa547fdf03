#include "core/io/grid/orthophoto_reader.h"

#include "core/base/file.h"
#include "core/base/fuzzing.h"
#include "core/io/foreign/grid_answer.h"

namespace pristine::io {

std::shared_ptr<const surface::Orthophoto> read_orthophoto(const std::filesystem::path& path,
                                                           std::uint64_t most_pixels, Progress& progress) {
    const InputFile there(path);  // a clear word when it is missing
    PlacedPixels p = fuzzing ? read_orthophoto_here(path, most_pixels, progress)
                             : read_orthophoto_guarded(path, most_pixels, progress);
    return std::make_shared<const surface::Orthophoto>(path.filename().string(), p.pixels.width,
                                                       p.pixels.height, p.at, std::move(p.pixels.argb));
}

}  // namespace pristine::io
