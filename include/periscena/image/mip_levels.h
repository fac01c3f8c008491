#pragma once

#include <periscena/image/image.h>

#include <vector>

namespace periscena {

/// The levels below a picture, down to a single pixel: each has half the width and height of the one before it, rounded
/// down, but at least 1.
///
/// Every pixel is the mean of what it covers of the level before it: where a side is odd, pixels count in part (a
/// polyphase box filter). sRGB colour is averaged in linear light; alpha is linear always. Levels are computed from
/// floats, so that rounding does not add up from level to level.
///
/// @param image  rgba8, rgba8_srgb, or 1, 2 or 4 channels of 32-bit floats
/// @param stored  the format of the texture; rgba8_srgb averages in linear light, whatever the picture's own tag says
/// @return levels 1, 2, …, each in the picture's format; empty for a single pixel
/// @throws Mistake "image-format" for integers and outlines
std::vector<Image> mip_levels(const Image& image, Format stored);

/// How many levels a picture of this size has, with itself.
int mip_level_count(int width, int height);

}  // namespace periscena
