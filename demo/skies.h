#pragma once

#include <periscena/image/image.h>

namespace osier_lock {

// Panoramas, nits. The sun and the moon themselves are left out: they are lights of the scene.
periscena::Image dusk_sky();
periscena::Image day_sky();
periscena::Image night_sky();

}  // namespace osier_lock
