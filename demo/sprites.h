#pragma once

#include <periscena/scene/sprite_sheet.h>

/// Dragonflies from above, their heads to the right: "wings 0" to "wings 3", a beat of their wings.
periscena::SpriteSheet dragonfly_sheet();

/// Willow leaves, tips down: "leaf 0" to "leaf 2".
periscena::SpriteSheet leaf_sheet();

/// A tuft of willow down: white hairs about a seed.
periscena::Image willow_down();
