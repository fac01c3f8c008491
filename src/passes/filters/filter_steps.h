#pragma once

#include <periscena/graph/pass.h>

namespace periscena::passes {

/// Gives a filter's pass its work, and lets it go together with others.
void make_filter(Pass& pass, FilterStep step);

}  // namespace periscena::passes
