// All file formats, for those who only offer them: dialogs, help, sentences of errors.

#pragma once

#include <string>
#include <vector>

namespace pristine::io {

/// A format, as people are told of it.
struct Format {
    enum class Holds { Points, Triangles, Heights, Lines } holds;
    std::string title;
    std::vector<std::string> endings;  ///< lower case, without the dot
    bool reads = false, writes = false;
};

/// From the registers of each kind (cloud_io.h, mesh_format.h, grid_io.h, lines.h).
std::vector<Format> formats();
/// "PLY (.ply), OBJ (.obj)": those that are read, or written.
std::string format_list(Format::Holds, bool writing);
/// "ply, obj, stl": the usual ending of each, those that are read, or written.
std::string ending_list(Format::Holds, bool writing);
/// Endings of everything that is read, each once.
std::vector<std::string> endings_read();

}  // namespace pristine::io
