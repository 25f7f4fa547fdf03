// Colours, type and icons of the window: the tokens of the look, in one place.

#pragma once

#include <QColor>
#include <QIcon>
#include <QString>

class QApplication;

namespace pristine::app {

namespace token {
inline const QColor paper{0xF5, 0xF2, 0xEC};
inline const QColor paper_deep{0xEC, 0xE7, 0xDD};
inline const QColor line{0xD8, 0xD1, 0xC3};
inline const QColor ink{0x1D, 0x27, 0x33};
inline const QColor ink_soft{0x6B, 0x70, 0x76};
inline const QColor pick{0xB8, 0x6B, 0xFF};
inline const QColor guard{0x19, 0xB5, 0xA5};
inline const QColor ghost{0x8C, 0x85, 0x77};
inline const QColor warn{0xE0, 0xA1, 0x00};
inline const QColor fault{0xFF, 0x6F, 0x59};
}  // namespace token

/// Style sheet and palette for the whole program.
void apply_theme(QApplication&);

/// One of our line icons by name ("rectangle", "polygon", …), drawn in the given colour. Empty for an unknown
/// name.
QIcon icon(const QString& name, const QColor& colour = token::ink);

/// 1234567 as "1,234,567".
QString grouped(std::uint64_t n);
/// 4184310 as "4.18 M": for narrow places.
QString rounded(std::uint64_t n);

}  // namespace pristine::app
