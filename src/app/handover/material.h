// What reports, sheets and deliverables of the open site are made of.

#pragma once

#include "core/report/compose.h"

namespace pristine::app {

class Document;

report::Material material_of(const Document&);
/// The setup of the report as it was left, else as it is proposed with the office, surveyor and logo of the
/// last one. Throws nothing: one that cannot be read is as if there were none.
report::Setup kept_setup(const Document&);

}  // namespace pristine::app
