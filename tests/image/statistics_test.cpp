#include "scratch.h"
#include "thrown.h"

#include <periscena/base/file.h>
#include <periscena/image/files.h>
#include <periscena/image/statistics.h>

#include <cmath>
#include <fstream>
#include <limits>
#include <random>

using namespace periscena;

namespace {

const double not_a_number = std::nan(""), infinity = std::numeric_limits<double>::infinity();

Image noise(int width, int height, Format format, unsigned seed, double scale = 1) {
  std::mt19937 random(seed);
  Image image(width, height, format);
  for (int y = 0; y < height; ++y) {
    for (int x = 0; x < width; ++x) {
      const auto number = [&] { return scale * (static_cast<double>(random() % 100001) / 50000 - 1); };
      image.set(x, y, {number(), number(), number(), number()});
    }
  }
  return image;
}

}  // namespace

TEST_CASE("numbers of every kind go into an OpenEXR file and come back bit by bit") {
  const Scratch scratch("exr");
  for (const Format format : {Format::r32f, Format::rg32f, Format::rgba32f, Format::r32i, Format::rg32i,
                              Format::rgba32i, Format::r32ui, Format::rg32ui, Format::rgba32ui}) {
    INFO(to_string(format));
    Image image = noise(7, 5, format, 1, 1e9);
    image.set(3, 2, {2147483647.0, -2147483648.0, 4294967295.0, 0});
    if (image.is_float()) image.set(0, 0, {not_a_number, infinity, -infinity, 1e-40});
    write_exr(image, scratch / "a.exr");
    const Image back = read_exr(scratch / "a.exr");
    REQUIRE(back.format() == format);
    REQUIRE(back.bytes() == image.bytes());
    REQUIRE(read_image(scratch / "a.exr").bytes() == image.bytes());
  }
  write_exr(noise(3, 3, Format::r32f, 2), scratch / "depth.exr", "Z");
  REQUIRE(read_exr(scratch / "depth.exr").format() == Format::r32f);
  REQUIRE(thrown_slug([&] { write_exr(Image(2, 2, Format::rgba8), scratch / "x.exr"); }) == "image-format");
  REQUIRE(thrown_slug([&] { write_exr(Image(2, 2, Format::r32f), scratch / "no/where.exr"); }) == "unwritable-file");
}

TEST_CASE("an OpenEXR file that is cut, spoilt or none is told, wherever the cut is") {
  const Scratch scratch("exr-cut");
  write_exr(noise(40, 30, Format::rgba32f, 3), scratch / "whole.exr");
  const std::string whole = read_bytes(scratch / "whole.exr");
  for (std::size_t length = 0; length < whole.size(); length += 1 + whole.size() / 97) {
    write_file(scratch / "cut.exr", std::string_view(whole).substr(0, length));
    REQUIRE(thrown_slug([&] { read_exr(scratch / "cut.exr"); }) == "broken-image");
  }
  std::mt19937 random(5);
  for (int i = 0; i < 200; ++i) {
    std::string spoilt = whole;
    for (int k = 0; k < 4; ++k) spoilt[random() % 400] = static_cast<char>(random());
    write_file(scratch / "spoilt.exr", spoilt);
    const std::string slug = thrown_slug([&] { read_exr(scratch / "spoilt.exr"); });
    REQUIRE((slug == "nothing" || slug == "broken-image"));
  }
}

TEST_CASE("pixels are set to the nearest that the format holds") {
  Image bytes(1, 1, Format::rgba8);
  bytes.set(0, 0, {-3, 12.6, 999, not_a_number});
  REQUIRE(bytes.at(0, 0) == std::array<double, 4>{0, 13, 255, 0});
  Image integers(1, 1, Format::rg32i);
  integers.set(0, 0, {-1e20, 1e20, 0, 0});
  REQUIRE(integers.at(0, 0) == std::array<double, 4>{-2147483648.0, 2147483647.0, 0, 0});
  REQUIRE(thrown_slug([&] { bytes.set(1, 0, {}); }) == "pixel-outside");
}

TEST_CASE("statistics count what is not finite and leave it out of the rest") {
  Image image(2, 2, Format::rg32f);
  image.set(0, 0, {1, not_a_number, 0, 0});
  image.set(1, 0, {-3, infinity, 0, 0});
  image.set(0, 1, {5, 2, 0, 0});
  image.set(1, 1, {1, -infinity, 0, 0});
  const auto found = statistics(image);
  REQUIRE(found.size() == 2);
  REQUIRE(found[0].least == -3);
  REQUIRE(found[0].most == 5);
  REQUIRE(found[0].mean == 1);
  REQUIRE(found[1].nan == 1);
  REQUIRE(found[1].infinite == 2);
  REQUIRE(found[1].finite == 1);
  REQUIRE(found[1].mean == 2);
}

TEST_CASE("the measures of difference follow their formulas") {
  Image a(16, 16, Format::rgba8), b(16, 16, Format::rgba8);
  for (int y = 0; y < 16; ++y) {
    for (int x = 0; x < 16; ++x) {
      a.set(x, y, {100, 100, 100, 255});
      b.set(x, y, {100, 100, 100, 255});
    }
  }
  REQUIRE(compare(a, b).pixels == 0);
  REQUIRE(std::isinf(compare(a, b).psnr));
  REQUIRE(compare(a, b).ssim == 1);
  b.set(5, 9, {100, 151, 100, 255});
  const PictureDifference one = compare(a, b);
  REQUIRE(one.pixels == 1);
  REQUIRE(one.greatest == Approx(0.2));  // 51 / 255
  REQUIRE((one.x == 5 && one.y == 9 && one.channel == 1));
  REQUIRE(one.rmse == Approx(std::sqrt(0.04 / 1024)));
  REQUIRE(one.psnr == Approx(20 * std::log10(1 / std::sqrt(0.04 / 1024))));
  // Flat pictures of two greys: no structure, only the term of the means remains.
  for (int y = 0; y < 16; ++y) {
    for (int x = 0; x < 16; ++x) b.set(x, y, {200, 200, 200, 255});
  }
  const double m1 = 100 / 255.0, m2 = 200 / 255.0, c1 = 1e-4;
  const double flat = (2 * m1 * m2 + c1) / (m1 * m1 + m2 * m2 + c1);
  REQUIRE(compare(a, b).ssim == Approx((3 * flat + 1) / 4));
  // A picture and its negative about the mean are as unlike as can be.
  Image wave = noise(32, 32, Format::r32f, 7), negative = wave;
  for (int y = 0; y < 32; ++y) {
    for (int x = 0; x < 32; ++x) {
      const double around_three = wave.at(x, y)[0];
      wave.set(x, y, {3 + around_three, 0, 0, 0});
      negative.set(x, y, {3 - around_three, 0, 0, 0});
    }
  }
  REQUIRE(compare(wave, negative).ssim < -0.5);
}

TEST_CASE("NaN equals NaN, and what is finite in one picture alone is as far away as can be") {
  Image a(3, 1, Format::r32f), b(3, 1, Format::r32f);
  a.set(0, 0, {not_a_number, 0, 0, 0});
  b.set(0, 0, {not_a_number, 0, 0, 0});
  REQUIRE(compare(a, b).pixels == 0);
  b.set(2, 0, {infinity, 0, 0, 0});
  const PictureDifference found = compare(a, b);
  REQUIRE(found.pixels == 1);
  REQUIRE(std::isinf(found.greatest));
  REQUIRE(found.x == 2);
  const Image heat = difference_heat(a, b, 1);
  REQUIRE(heat.at(0, 0) == std::array<double, 4>{0, 0, 0, 255});
  REQUIRE(heat.at(2, 0) == std::array<double, 4>{255, 0, 255, 255});
  REQUIRE(thrown_slug([&] { compare(a, Image(2, 1, Format::r32f)); }) == "size-mismatch");
  REQUIRE(thrown_slug([&] { compare(a, Image(3, 1, Format::rgba8)); }) == "image-format");
}
