#include <periscena/image/mip_levels.h>

#include <periscena/base/error.h>
#include <periscena/image/color.h>

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <bit>
#include <cmath>
#include <functional>

namespace periscena {
namespace {

/// A picture as floats, row by row.
struct Plane {
  int width, height, channels;
  std::vector<float> values;

  float* row(int y) { return values.data() + static_cast<std::size_t>(y) * row_length(); }
  std::size_t row_length() const { return static_cast<std::size_t>(width) * static_cast<std::size_t>(channels); }
};

Plane plane(int width, int height, int channels) {
  Plane made{width, height, channels, {}};
  made.values.resize(made.row_length() * static_cast<std::size_t>(height));
  return made;
}

/// What a pixel of the lower level covers of one axis of the upper: up to three pixels and their shares, which sum
/// to 1.
struct Cover {
  int first = 0;
  std::array<float, 3> share{};
};

std::vector<Cover> covers(int from, int to) {
  std::vector<Cover> all(static_cast<std::size_t>(to));
  for (int i = 0; i < to; ++i) {
    Cover& cover = all[static_cast<std::size_t>(i)];
    if (from == to) {
      cover = {i, {1, 0, 0}};
    } else if (from % 2 == 0) {
      cover = {2 * i, {0.5f, 0.5f, 0}};
    } else {
      // Pixel i reaches from i · from / to to (i + 1) · from / to, and from = 2 to + 1.
      const auto whole = static_cast<float>(from);
      cover = {2 * i,
               {static_cast<float>(to - i) / whole, static_cast<float>(to) / whole, static_cast<float>(i + 1) / whole}};
    }
  }
  return all;
}

int taps(int from, int to) {
  return from == to ? 1 : from % 2 == 0 ? 2 : 3;
}

/// One row of the lower level, of the mean of the upper rows that it covers.
template <std::size_t channels>
void halve_row(const std::vector<float>& mixed, const std::vector<Cover>& across, int taps, float* into) {
  for (const Cover& columns : across) {
    const float* from = mixed.data() + static_cast<std::size_t>(columns.first) * channels;
    std::array<float, channels> sum{};
    for (int tap = 0; tap < taps; ++tap, from += channels) {
      for (std::size_t k = 0; k < channels; ++k) sum[k] += columns.share[static_cast<std::size_t>(tap)] * from[k];
    }
    into = std::copy(sum.begin(), sum.end(), into);
  }
}

/// @param row_of  gives the floats of a row of the upper level, until it is called for the next
Plane halved(int width, int height, int channels, const std::function<const float*(int)>& row_of) {
  Plane lower = plane(std::max(1, width / 2), std::max(1, height / 2), channels);
  const std::vector<Cover> across = covers(width, lower.width), down = covers(height, lower.height);
  const int across_taps = taps(width, lower.width), down_taps = taps(height, lower.height);
  std::vector<float> mixed(static_cast<std::size_t>(width) * static_cast<std::size_t>(channels));
  for (int y = 0; y < lower.height; ++y) {
    const Cover& rows = down[static_cast<std::size_t>(y)];
    std::fill(mixed.begin(), mixed.end(), 0.0f);
    for (int tap = 0; tap < down_taps; ++tap) {
      const float* row = row_of(rows.first + tap);
      const float share = rows.share[static_cast<std::size_t>(tap)];
      for (std::size_t i = 0; i < mixed.size(); ++i) mixed[i] += share * row[i];
    }
    switch (channels) {
      case 1: halve_row<1>(mixed, across, across_taps, lower.row(y)); break;
      case 2: halve_row<2>(mixed, across, across_taps, lower.row(y)); break;
      default: halve_row<4>(mixed, across, across_taps, lower.row(y)); break;
    }
  }
  return lower;
}

/// Bytes of sRGB to linear light and back, rounded to the nearest byte.
class SrgbBytes {
 public:
  static const SrgbBytes& table() {
    static const SrgbBytes made;
    return made;
  }

  float linear(std::uint8_t byte) const { return linear_[byte]; }

  std::uint8_t encoded(float value) const {
    const float inside = std::clamp(value, 0.0f, 1.0f);
    std::uint8_t byte = first_[static_cast<std::size_t>(inside * (buckets - 1))];
    while (byte < 255 && inside >= threshold_[byte]) ++byte;
    return byte;
  }

 private:
  static constexpr int buckets = 4096;

  SrgbBytes() {
    for (std::size_t i = 0; i < 256; ++i) {
      linear_[i] = static_cast<float>(srgb_to_linear(static_cast<double>(i) / 255));
      threshold_[i] = static_cast<float>(srgb_to_linear((static_cast<double>(i) + 0.5) / 255));
    }
    std::uint8_t byte = 0;
    for (std::size_t i = 0; i < buckets; ++i) {
      while (byte < 255 && static_cast<float>(i) / (buckets - 1) >= threshold_[byte]) ++byte;
      first_[i] = byte;
    }
  }

  std::array<float, 256> linear_{}, threshold_{};  ///< what a byte stands for; where the next byte begins
  std::array<std::uint8_t, buckets> first_{};      ///< the byte at the bucket's lower end
};

std::uint8_t to_byte(float value) {
  return static_cast<std::uint8_t>(std::lround(std::clamp(value, 0.0f, 1.0f) * 255));
}

/// The level below a picture of bytes.
Plane halved_bytes(const Image& image, bool srgb) {
  const auto length = static_cast<std::size_t>(image.width()) * static_cast<std::size_t>(image.channels());
  const SrgbBytes& table = SrgbBytes::table();
  std::vector<float> row(length);
  return halved(image.width(), image.height(), image.channels(), [&](int y) {
    const auto* from =
        reinterpret_cast<const std::uint8_t*>(image.bytes().data()) + static_cast<std::size_t>(y) * length;
    for (std::size_t i = 0; i < length; ++i) row[i] = static_cast<float>(from[i]) / 255;
    const std::size_t step = static_cast<std::size_t>(image.channels()), colors = std::min<std::size_t>(3, step);
    for (std::size_t pixel = 0; srgb && pixel < length; pixel += step) {
      for (std::size_t k = 0; k < colors; ++k) row[pixel + k] = table.linear(from[pixel + k]);
    }
    return row.data();
  });
}

Image to_bytes(const Plane& plane, Format format, bool srgb) {
  Image image(plane.width, plane.height, format);
  auto* into = reinterpret_cast<std::uint8_t*>(image.bytes().data());
  const SrgbBytes& table = SrgbBytes::table();
  for (std::size_t i = 0; i < plane.values.size(); ++i) {
    const bool alpha = plane.channels == 4 && i % 4 == 3;
    into[i] = srgb && !alpha ? table.encoded(plane.values[i]) : to_byte(plane.values[i]);
  }
  return image;
}

Plane halved_floats(const Image& image) {
  const auto* first = reinterpret_cast<const float*>(image.bytes().data());
  const auto length = static_cast<std::size_t>(image.width()) * static_cast<std::size_t>(image.channels());
  return halved(image.width(), image.height(), image.channels(),
                [=](int y) { return first + static_cast<std::size_t>(y) * length; });
}

Image to_floats(const Plane& plane, Format format) {
  Image image(plane.width, plane.height, format);
  std::copy(plane.values.begin(), plane.values.end(), reinterpret_cast<float*>(image.bytes().data()));
  return image;
}

}  // namespace

int mip_level_count(int width, int height) {
  return static_cast<int>(std::bit_width(static_cast<unsigned>(std::max(width, height))));
}

std::vector<Image> mip_levels(const Image& image, Format stored) {
  const bool bytes = image.is_eight_bit() && !image.is_integer();
  if (image.is_outline() || (!bytes && !image.is_float())) {
    throw Mistake("image-format", {}, fmt::format("mip levels of an image of {}", to_string(image.format())),
                  "give it as rgba8, rgba8_srgb or floats, with its pixels");
  }
  const bool srgb = stored == Format::rgba8_srgb;
  std::vector<Image> levels;
  if (mip_level_count(image.width(), image.height()) < 2) return levels;
  Plane level = bytes ? halved_bytes(image, srgb) : halved_floats(image);
  while (true) {
    levels.push_back(bytes ? to_bytes(level, image.format(), srgb) : to_floats(level, image.format()));
    if (level.width == 1 && level.height == 1) return levels;
    level = halved(level.width, level.height, level.channels, [&](int y) { return level.row(y); });
  }
}

}  // namespace periscena
