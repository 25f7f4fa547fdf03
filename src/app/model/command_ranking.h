// Which commands a person means by a few typed words, best first.
//
// Order: the exact title; titles that begin so; titles with all words, in any order; then the trade's other
// words for a thing ("delete", "crop"); then words of the help and the menu. Within one kind the order of the
// table.

#pragma once

#include <QStringList>
#include <vector>

#include "app/model/commands.h"

namespace pristine::app {

/// Best first; empty words give all commands in their order. Case, "…" and accents of the words do not
/// matter.
std::vector<const Command*> ranked(const CommandTable&, const QString& typed);

/// Other words of the trade that lead to a command.
QStringList other_words(const QString& command_id);
/// All of them with the commands that they lead to: for the test that each command is there.
const std::vector<std::pair<QString, QStringList>>& trade_words();

}  // namespace pristine::app
