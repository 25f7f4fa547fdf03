// Drawings on paper: PDF, SVG and PNG, and how wide text is. Vectors stay vectors, fonts are embedded.
//
// Text is laid out and drawn by Pango and Cairo in DejaVu Sans. Safe to call from several threads.

#pragma once

#include <string>
#include <vector>

#include "core/base/progress.h"
#include "core/report/drawing.h"

namespace pristine::report {

/// Width of a line of text, mm.
double width_of(const std::vector<Run>&, double points);
/// Broken into lines no wider than `width` mm, at spaces, inside words that are longer than a line, and where
/// the text says so ('\n'). At least one line.
std::vector<std::vector<Run>> wrapped(const std::vector<Run>&, double points, double width);
/// From one baseline to the next, and from the upper edge of a line to its baseline, mm.
double line_height(double points);
double ascent(double points);

/// A place in a PDF that its outline names.
struct Bookmark {
    std::string title;
    int page = 1;  ///< from 1
};
struct PdfWords {
    std::string title, author, subject, creator;
    std::vector<Bookmark> bookmarks{};
};
/// The bytes of a PDF with a page for each drawing. Throws Error(Io), Cancelled.
std::string pdf_of(const std::vector<Drawing>&, const PdfWords&, Progress& = Progress::none());
/// The bytes of an SVG, in millimetres.
std::string svg_of(const Drawing&);
/// As pixels, over the paper colour unless `clear`.
Image image_of(const Drawing&, double dpi, bool clear = false);
/// The bytes of a PNG.
std::string png_of(const Image&);

}  // namespace pristine::report
