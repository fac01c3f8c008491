#pragma once

#include <periscena/image/image.h>

#include <array>
#include <optional>

namespace periscena {

/// What the numbers of one channel are like.
struct ChannelStatistics {
  double least = 0, most = 0, mean = 0;  ///< of the finite ones; 0 when there are none
  std::size_t finite = 0, nan = 0, infinite = 0;
};

/// Of each channel, over all pixels; bytes count as 0..255.
std::vector<ChannelStatistics> statistics(const Image& image);

/// How far two pictures are apart. 8-bit values count as 0..1, others as they are.
struct PictureDifference {
  double rmse = 0;      ///< root of the mean square difference over all pixels and channels
  double psnr = 0;      ///< decibels, 20 log10(peak / rmse); infinite for equal pictures
  double ssim = 1;      ///< mean structural similarity, −1..1
  double peak = 1;      ///< the largest value that counted as full scale: 1 for 8 bit, else the largest in `a`
  double greatest = 0;  ///< largest difference of one channel; infinite where only one picture is finite
  int x = 0, y = 0;     ///< of the greatest, from the upper left
  int channel = 0;
  std::size_t pixels = 0;  ///< that differ
};

/// Compares channel by channel. NaN equals NaN, and each infinity itself; where only one of two numbers is finite, the
/// difference is infinite.
///
/// Structural similarity: Wang, Bovik, Sheikh and Simoncelli, "Image Quality Assessment: From Error Visibility to
/// Structural Similarity", IEEE TIP 13(4), 2004; Gaussian window of 11 x 11 with sigma 1.5 (renormalised where it
/// leaves the picture), K1 = 0.01, K2 = 0.03, mean over channels, pixels that are not finite left out.
/// @throws Mistake "size-mismatch", "image-format" when the channels are not alike
PictureDifference compare(const Image& a, const Image& b);

/// How far apart they are at each pixel, as a picture: black for equal, then blue, red, yellow to white at `most` and
/// more; magenta where the difference is not finite.
/// @param most  the difference that is white, > 0 @throws as compare
Image difference_heat(const Image& a, const Image& b, double most);

/// How far edges are from those of a reference: root of the mean square difference over pixels around which (3 x 3) the
/// reference's brightness, as it is stored, differs by more than `step`, and all channels. 0 where it has none.
/// @param step  0..1, where 8-bit values count as 0..1 @throws as compare
double edge_difference(const Image& reference, const Image& picture, double step = 0.1);

/// What flickers from one picture to the next and not in the reference: root of the mean square of the difference of
/// both changes, over all pixels and channels. @throws as compare
double flicker(const std::array<const Image*, 2>& reference, const std::array<const Image*, 2>& pictures);

}  // namespace periscena
