#pragma once

#include <periscena/scene/scene.h>

namespace osier_lock {

/// The narrowboat of the lock alone, at the origin, with her livery of the night as variant "night".
periscena::Scene narrowboat(periscena::Scene lock);

}  // namespace osier_lock
