// A repair as a job: worked out in the background, then an entry of the item's ledger.

#pragma once

#include <QString>
#include <functional>

#include "core/base/progress.h"
#include "core/mesh/tri_mesh.h"
#include "core/site/site.h"

namespace pristine::app {

class Document;
class Jobs;

struct Mending {
    site::ItemPtr item;
    QString title;              ///< of the job
    QString step;               ///< of the step of undo; empty: the title. %1: how many triangles were made
    QString reason;             ///< of the entry
    std::string repair;         ///< of its cause: id of the repair (cause.cpp)
    site::Settings settings{};  ///< of its cause
    /// The mesh that is to be shown of the item, without triangles for none, and a sentence in which %1 and
    /// %2 are how many triangles were taken and made. Called on a worker thread.
    struct Result {
        mesh::TriMesh mesh;
        QString told;
        site::Settings found{};  ///< what the cause tells besides how many were taken and made
        bool heals = false;      ///< of what is taken nothing is to be seen any more, its colour neither
    };
    std::function<Result(Progress&)> work;
    QString nothing;                           ///< said when nothing changed
    std::function<void(const QString&)> said;  ///< the sentence, or why not
};

void start_mending(Document*, Jobs*, Mending);

}  // namespace pristine::app
