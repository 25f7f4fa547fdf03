// What holds for all sites of this user.

#pragma once

#include <QByteArray>
#include <QString>
#include <QStringList>

#include "core/site/site.h"

namespace pristine::app {

struct Preferences {
    double memory_gib = 0;          ///< for clouds; 0: as much as is usual
    QString person;                 ///< who signs decisions; empty: the login name
    bool wheel_turned = false;      ///< the wheel towards oneself comes nearer
    bool turn_with_middle = false;  ///< the middle button turns and the right one moves; else the other way
    double turning = 1;             ///< times the usual speed of turning
    double space_speed = 1;         ///< times the usual speed of a mouse with six axes
    bool space_viewer = false;      ///< it moves the person; else what is looked at
    int more_digits = 0;            ///< behind lengths and coordinates, beyond about a centimetre
    double sagitta_m = 0.01;        ///< chords leave the arcs of lines by no more than this
    QStringList reasons;            ///< offered for decisions; empty: the usual ones
    QString scratch;                ///< folder for what does not fit in memory; empty: the usual one
    site::CodeTable codes;          ///< of survey lists, for sites that know none yet
    bool operator==(const Preferences&) const = default;
};

/// Those in force.
const Preferences& preferences();
/// Reads what an earlier session kept, and applies it. Once at the start.
void apply_preferences();
/// Applies and keeps them.
void set_preferences(const Preferences&);

/// As JSON, for another machine or person.
QByteArray written(const Preferences&);
/// Throws Error(Format) for what is no such file; values beyond their limits are brought to them.
Preferences read_preferences(const QByteArray&);

}  // namespace pristine::app
