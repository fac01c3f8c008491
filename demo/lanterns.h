#pragma once

#include <periscena/scene/scene.h>

namespace osier_lock {

/// The lock on the night of lanterns: 256 paper lanterns, each a lamp that reaches a few metres, on the water, along
/// the path and its verges, and on strings over the towpath. Lights and objects have the tag `lanterns`.
periscena::Scene lantern_night(periscena::Scene lock);

}  // namespace osier_lock
