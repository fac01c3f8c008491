#pragma once

#include <periscena/math/bounds.h>
#include <periscena/scene/scene.h>

namespace periscena {

/// The box around what objects of a scene show, in the world; empty when they show nothing. What is not finite is left
/// out. @param seconds  of the frame's time
Box bounds_of(const Scene& scene, const Selection& objects = {}, double seconds = 0);

}  // namespace periscena
