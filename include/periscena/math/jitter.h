#pragma once

#include <periscena/math/vector.h>

#include <vector>

namespace periscena {

/// Places in a pixel at which frames in a row are drawn, so that together they see all of it: the order of Halton's
/// sequence (bases 2 and 3, so that the first few are spread well, too), each axis brought to the middles of `count`
/// equal strips, so that each strip has one place and their mean is the pixel's middle.
/// @param count  > 0
/// @return 0..1 to the right and up
/// @see Halton, "On the efficiency of certain quasi-random sequences of points", Numerische Mathematik 2, 1960
std::vector<Vec2> jitter_places(int count);

}  // namespace periscena
