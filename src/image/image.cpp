#include <periscena/base/error.h>
#include <periscena/image/image.h>

#include <fmt/format.h>

#include <cmath>
#include <cstring>
#include <limits>
#include <type_traits>

namespace periscena {
namespace {

bool is_rgba_bytes(Format format) {
  return format == Format::rgba8 || format == Format::rgba8_srgb;
}

bool holds_wide_numbers(Format format) {
  const FormatInfo& known = info(format);
  return known.color() && known.channel_bits() == 32 && known.numbers != NumberKind::normalized;
}

/// To the nearest that the type holds; NaN becomes 0 in integers.
template <class Number>
Number clamped(double value) {
  if constexpr (std::is_floating_point_v<Number>) return static_cast<Number>(value);
  if (!(value > static_cast<double>(std::numeric_limits<Number>::lowest())))
    return std::isnan(value) ? Number{0} : std::numeric_limits<Number>::lowest();
  if (value >= static_cast<double>(std::numeric_limits<Number>::max())) return std::numeric_limits<Number>::max();
  return static_cast<Number>(std::nearbyint(value));
}

/// Calls `action` with a null pointer of the type that the format's channels have in memory.
template <class Action>
void with_channel_type(Format format, Action action) {
  const FormatInfo& known = info(format);
  if (known.bytes == known.channels) return action(static_cast<std::uint8_t*>(nullptr));
  switch (known.numbers) {
    case NumberKind::signed_integer: return action(static_cast<std::int32_t*>(nullptr));
    case NumberKind::unsigned_integer: return action(static_cast<std::uint32_t*>(nullptr));
    default: return action(static_cast<float*>(nullptr));
  }
}

}  // namespace

Image::Image(int width, int height, Format format) : width_(width), height_(height), format_(format) {
  expect_sound();
  bytes_.resize(row_bytes() * static_cast<std::size_t>(height));
}

Image Image::outline(int width, int height, Format format) {
  Image image;
  image.width_ = width;
  image.height_ = height;
  image.format_ = format;
  image.expect_sound();
  return image;
}

void Image::expect_sound() const {
  constexpr int largest = 65536;
  if (width_ < 1 || height_ < 1 || width_ > largest || height_ > largest) {
    throw Mistake("bad-size", {}, fmt::format("an image of {} x {} pixels", width_, height_),
                  fmt::format("both must be in 1..{}", largest));
  }
  if (!is_rgba_bytes(format_) && format_ != Format::r8ui && !holds_wide_numbers(format_)) {
    throw Mistake("image-format", {}, fmt::format("an image can't hold {}", to_string(format_)),
                  "use rgba8, rgba8_srgb, r8ui, or 1, 2 or 4 channels of 32 bits");
  }
}

std::size_t Image::offset_of(int x, int y) const {
  if (x < 0 || y < 0 || x >= width_ || y >= height_) {
    throw Mistake("pixel-outside", {}, fmt::format("pixel {},{} is outside of {} x {}", x, y, width_, height_),
                  fmt::format("pixels count from 0,0 at the upper left to {},{}", width_ - 1, height_ - 1));
  }
  if (is_outline()) throw Mistake("no-pixels", {}, "this picture was read without its pixels", "read it with them");
  return static_cast<std::size_t>(y) * row_bytes() +
         static_cast<std::size_t>(x) * static_cast<std::size_t>(info(format_).bytes);
}

std::array<double, 4> Image::at(int x, int y) const {
  const std::byte* pixel = bytes_.data() + offset_of(x, y);
  std::array<double, 4> values{};
  with_channel_type(format_, [&]<class Number>(Number*) {
    for (int i = 0; i < channels(); ++i) {
      Number number{};
      std::memcpy(&number, pixel + static_cast<std::size_t>(i) * sizeof number, sizeof number);
      values[static_cast<std::size_t>(i)] = static_cast<double>(number);
    }
  });
  return values;
}

void Image::set(int x, int y, const std::array<double, 4>& values) {
  std::byte* pixel = bytes_.data() + offset_of(x, y);
  with_channel_type(format_, [&]<class Number>(Number*) {
    for (int i = 0; i < channels(); ++i) {
      const Number number = clamped<Number>(values[static_cast<std::size_t>(i)]);
      std::memcpy(pixel + static_cast<std::size_t>(i) * sizeof number, &number, sizeof number);
    }
  });
}

}  // namespace periscena
