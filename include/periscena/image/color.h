#pragma once

namespace periscena {

/// sRGB's curve (IEC 61966-2-1): a value of 0..1 as files and screens have it, to linear light of 0..1.
double srgb_to_linear(double encoded);

/// And back.
double linear_to_srgb(double linear);

}  // namespace periscena
