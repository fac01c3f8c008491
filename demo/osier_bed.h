#pragma once

#include <periscena/scene/scene.h>

namespace osier_lock {

/// The lock's upper reach: a quay wall of single bricks, a bed of reeds and osiers before it. 20,000 objects and more
/// of over 50 materials and few meshes, for batches.
periscena::Scene osier_bed();

}  // namespace osier_lock
