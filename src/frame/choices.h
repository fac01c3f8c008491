#pragma once

#include "frame/sections.h"

#include <periscena/base/diagnostic.h>
#include <periscena/base/value.h>

namespace periscena {

/// Leaves out the passes whose `when` speaks of another choice than [choice] makes, and the targets that only they
/// name.
/// @param root  a frame file, with its overrides
void leave_out_unchosen(Value& root, Diagnostics& diagnostics);

SectionInfo choice_section();

}  // namespace periscena
