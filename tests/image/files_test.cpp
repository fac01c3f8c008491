#include "scratch.h"
#include "thrown.h"

#include <periscena/base/file.h>
#include <periscena/image/picture_reader.h>

#include <fmt/format.h>
#include <png.h>
#include <turbojpeg.h>

#include <cmath>
#include <vector>

using namespace periscena;

namespace {

std::string jpeg_of(int width, int height, const std::vector<unsigned char>& rgb, int flags = 0) {
  const tjhandle handle = tjInitCompress();
  unsigned char* bytes = nullptr;
  unsigned long count = 0;
  REQUIRE(tjCompress2(handle, rgb.data(), width, 0, height, TJPF_RGB, &bytes, &count, TJSAMP_444, 95, flags) == 0);
  std::string file(reinterpret_cast<char*>(bytes), count);
  tjFree(bytes);
  tjDestroy(handle);
  return file;
}

/// @param samples  big end first, as many bits as said
std::string png_of(int width, int height, int color_type, int bits, const std::vector<unsigned char>& samples,
                   bool bright_gamma = false) {
  std::string file;
  png_structp png = png_create_write_struct(PNG_LIBPNG_VER_STRING, nullptr, nullptr, nullptr);
  png_infop info = png_create_info_struct(png);
  png_set_write_fn(
      png, &file,
      [](png_structp p, png_bytep bytes, std::size_t count) {
        static_cast<std::string*>(png_get_io_ptr(p))->append(reinterpret_cast<char*>(bytes), count);
      },
      nullptr);
  png_set_IHDR(png, info, static_cast<png_uint_32>(width), static_cast<png_uint_32>(height), bits, color_type,
               PNG_INTERLACE_NONE, PNG_COMPRESSION_TYPE_DEFAULT, PNG_FILTER_TYPE_DEFAULT);
  if (bright_gamma) png_set_gAMA(png, info, 1.0);
  const png_color palette[] = {{10, 20, 30}, {200, 100, 50}};
  if (color_type == PNG_COLOR_TYPE_PALETTE) png_set_PLTE(png, info, palette, 2);
  png_write_info(png, info);
  const std::size_t row = samples.size() / static_cast<std::size_t>(height);
  for (std::size_t y = 0; y < static_cast<std::size_t>(height); ++y) png_write_row(png, samples.data() + y * row);
  png_write_end(png, nullptr);
  png_destroy_write_struct(&png, &info);
  return file;
}

using Pixel = std::array<double, 4>;

}  // namespace

TEST_CASE("a PNG's numbers are taken as they stand, whatever it says of gamma, depth or palettes") {
  const Image gray = decode_image(png_of(2, 1, PNG_COLOR_TYPE_GRAY, 8, {7, 250}, true), "t");
  REQUIRE(gray.at(0, 0) == Pixel{7, 7, 7, 255});
  REQUIRE(gray.at(1, 0) == Pixel{250, 250, 250, 255});
  // 16 bits without gamma are no more linear than 8.
  const Image deep =
      decode_image(png_of(2, 1, PNG_COLOR_TYPE_RGB, 16, {128, 128, 64, 64, 1, 1, 255, 255, 0, 0, 3, 3}), "t");
  REQUIRE(deep.at(0, 0) == Pixel{128, 64, 1, 255});
  REQUIRE(deep.at(1, 0) == Pixel{255, 0, 3, 255});
  const Image palette = decode_image(png_of(8, 1, PNG_COLOR_TYPE_PALETTE, 1, {0b01000001}), "t");
  REQUIRE(palette.at(0, 0) == Pixel{10, 20, 30, 255});
  REQUIRE(palette.at(1, 0) == Pixel{200, 100, 50, 255});
  REQUIRE(palette.at(7, 0) == Pixel{200, 100, 50, 255});
  const Image with_alpha = decode_image(png_of(1, 1, PNG_COLOR_TYPE_GRAY_ALPHA, 8, {90, 33}), "t");
  REQUIRE(with_alpha.at(0, 0) == Pixel{90, 90, 90, 33});
}

TEST_CASE("a JPEG comes in upright and nearly as it was, a cut or spoilt one is told, or read, but nothing else") {
  constexpr int width = 24, height = 16;
  std::vector<unsigned char> rgb;
  for (int y = 0; y < height; ++y) {
    for (int x = 0; x < width; ++x) {
      for (const int value : {y < 8 ? 220 : 30, x * 10, 90}) rgb.push_back(static_cast<unsigned char>(value));
    }
  }
  for (const int flags : {0, TJFLAG_PROGRESSIVE}) {
    const std::string file = jpeg_of(width, height, rgb, flags);
    const Image outline = decode_image(file, "t", Pixels::left_out);
    REQUIRE(outline.is_outline());
    REQUIRE(outline.width() == width);
    REQUIRE(outline.height() == height);
    const Image image = decode_image(file, "t");
    for (int y = 0; y < height; ++y) {
      for (int x = 0; x < width; ++x) {
        const Pixel pixel = image.at(x, y);
        REQUIRE(std::abs(pixel[0] - (y < 8 ? 220 : 30)) < 8);
        REQUIRE(std::abs(pixel[1] - x * 10) < 8);
        REQUIRE(pixel[3] == 255);
      }
    }
    for (std::size_t length = 3; length < file.size(); length += 7)
      REQUIRE(thrown_slug([&] { decode_image(file.substr(0, length), "t"); }) == "broken-image");
    for (std::size_t i = 3; i < file.size(); ++i) {
      std::string spoilt = file;
      spoilt[i] = static_cast<char>(spoilt[i] ^ 0x55);
      const std::string slug = thrown_slug([&] { decode_image(spoilt, "t"); });
      REQUIRE((slug == "nothing" || slug == "broken-image"));
    }
  }
}

TEST_CASE("light survives a Radiance file to within its shared exponent, packed and plain") {
  const Scratch scratch("hdr");
  for (const int width : {1, 7, 8, 200}) {
    Image image(width, 3, Format::rgba32f);
    for (int y = 0; y < 3; ++y) {
      for (int x = 0; x < width; ++x) image.set(x, y, {x * 0.37, 0.001 * x * y, y == 1 ? 40000.0 : 0.02, 1});
    }
    write_hdr(image, scratch / "a.hdr");
    const Image back = read_image(scratch / "a.hdr");
    for (int y = 0; y < 3; ++y) {
      for (int x = 0; x < width; ++x) {
        const Pixel a = image.at(x, y), b = back.at(x, y);
        const double most = std::max({a[0], a[1], a[2]});
        for (std::size_t k = 0; k < 3; ++k) REQUIRE(std::abs(a[k] - b[k]) <= most / 128);
      }
    }
  }
}

TEST_CASE("a Radiance file with bad run lengths, sizes or ends is told") {
  const std::string head = "#?RADIANCE\nFORMAT=32-bit_rle_rgbe\n\n";
  const std::string packed_row("\x02\x02\x00\x08", 4);
  const auto slug = [&](const std::string& rest) { return thrown_slug([&] { decode_image(head + rest, "t"); }); };
  const auto run = [](int channels) {
    std::string runs;
    for (int i = 0; i < channels; ++i) runs += std::string("\x88\x40", 2);  // 8 times 0x40
    return runs;
  };
  REQUIRE(slug("-Y 1 +X 8\n" + packed_row + run(4)) == "nothing");
  REQUIRE(slug("-Y 1 +X 8\n" + packed_row + run(3)) == "broken-image");
  REQUIRE(slug("-Y 1 +X 8\n" + packed_row + std::string("\x89\x40", 2)) == "broken-image");      // beyond the row
  REQUIRE(slug("-Y 1 +X 8\n" + packed_row + std::string("\x00\x40", 2)) == "broken-image");      // a run of 0
  REQUIRE(slug("-Y 1 +X 8\n" + packed_row + std::string("\x08\x01\x02", 3)) == "broken-image");  // cut in its numbers
  REQUIRE(slug("-Y 2 +X 8\n" + packed_row + run(4)) == "broken-image");
  for (const char* size : {"-Y 0 +X 8\n", "-Y 8 +X 0\n", "-Y -1 +X 8\n", "-Y 1 +X\n", "+X 8 -Y 1\n", "-Y 1e9 +X 8\n",
                           "-Y 100000 +X 100000\n", "-Y 99999999999 +X 1\n", ""}) {
    CAPTURE(size);
    REQUIRE(slug(size) == "broken-image");
  }
  REQUIRE(thrown_slug([&] { decode_image("#?RADIANCE", "t"); }) == "broken-image");
}

TEST_CASE("an OpenEXR picture that lies far from the origin comes in as it is") {
  const Scratch scratch("exr-far");
  Image image(3, 2, Format::rgba32f);
  for (int i = 0; i < 6; ++i) image.set(i % 3, i / 3, {0.5 * i, 2, 3, 1});
  write_exr(image, scratch / "a.exr");
  std::string file = read_bytes(scratch / "a.exr");
  const std::string window("dataWindow\0box2i\0", 17);
  const auto number = [](std::int32_t value) { return std::string(reinterpret_cast<const char*>(&value), 4); };
  for (const std::int32_t at : {-1000, 70000, 1000000000}) {
    file.replace(file.find(window) + window.size() + 4, 16, number(at) + number(at) + number(at + 2) + number(at + 1));
    // Each block of rows begins with the number of its first: right behind the table, which ends the header.
    const std::size_t header_end = file.rfind(std::string("float\0\4\0\0\0", 10)) + 10 + 4 + 1;
    file.replace(header_end + 8, 4, number(at));
    REQUIRE(decode_image(file, "far.exr") == image);
  }
}

TEST_CASE("an OpenEXR header that lies is told before room is made for what it claims") {
  const Scratch scratch("exr-lies");
  write_exr(Image(4, 4, Format::rgba32f), scratch / "a.exr");
  const std::string whole = read_bytes(scratch / "a.exr");
  const auto spoilt = [&](const std::string& after, std::size_t offset, const std::string& bytes) {
    std::string file = whole;
    file.replace(whole.find(after) + after.size() + offset, bytes.size(), bytes);
    return thrown_text([&] { decode_image(file, "a.exr"); });
  };
  using Catch::Contains;
  const std::string huge = "\x7f\xff\xff\x70";
  REQUIRE_THAT(spoilt(std::string("channels\0chlist\0", 16), 0, huge), Contains("claims more than the file holds"));
  REQUIRE_THAT(spoilt(std::string("channels\0chlist\0", 16), 0, std::string("\x41\0\0\0", 4)),
               Contains("list of channels has a wrong length"));
  REQUIRE_THAT(spoilt(std::string("dataWindow\0box2i\0", 17), 12, huge), Contains("pixels"));
  REQUIRE_THAT(spoilt(std::string("lineOrder\0lineOrder\0", 20), 0, std::string("\2\0\0\0", 4)),
               Contains("a lineOrder of its header has 2 bytes"));
}

TEST_CASE("an outline has the size and the format that the decoded picture has, and no pixels") {
  const Scratch scratch("outline");
  write_png(Image(5, 3, Format::rgba8_srgb), scratch / "a.png");
  write_hdr(Image(6, 2, Format::rgba32f), scratch / "a.hdr");
  write_exr(Image(7, 4, Format::rg32f), scratch / "a.exr", "RG");
  write_exr(Image(2, 9, Format::r32i), scratch / "b.exr", "R");
  for (const char* name : {"a.png", "a.hdr", "a.exr", "b.exr"}) {
    const std::string file = read_bytes(scratch / name);
    const Image whole = decode_image(file, name), outline = decode_image(file, name, Pixels::left_out);
    REQUIRE(outline.is_outline());
    REQUIRE(outline.bytes().empty());
    REQUIRE(outline.width() == whole.width());
    REQUIRE(outline.height() == whole.height());
    REQUIRE(outline.format() == whole.format());
    REQUIRE(thrown_slug([&] { outline.at(0, 0); }) == "no-pixels");
    REQUIRE_FALSE(whole.is_outline());
  }
}

TEST_CASE("pictures are read once each, however they are spelt, and together within a budget by the files' size") {
  const Scratch scratch("reader");
  write_png(Image(8, 8, Format::rgba8_srgb), scratch / "a.png");
  std::filesystem::create_symlink("a.png", scratch / "link.png");
  PictureReader pictures;
  const auto first = pictures.read(scratch / "a.png");
  REQUIRE(pictures.read(scratch / "../" / scratch.path().filename() / "link.png") == first);
  // 8192 x 8192 take 256 MiB of the 512 that any files may ask for.
  const std::string large = encode_png(Image(8192, 8192, Format::rgba8_srgb));
  PictureReader outlines(Pixels::left_out);
  outlines.decode(large, "one");
  outlines.decode(large, "two");
  REQUIRE_THAT(thrown_text([&] { outlines.decode(large, "three"); }),
               Catch::Contains("pictures-too-large") && Catch::Contains("\"three\" has 8192 x 8192 pixels"));
  REQUIRE(outlines.large_textures().empty());
  const std::string wide = encode_png(Image(20000, 1, Format::rgba8_srgb));
  outlines.decode(wide, "data", PictureReader::Use::data);
  REQUIRE(outlines.large_textures().empty());
  outlines.decode(wide, "wide");
  REQUIRE(outlines.large_textures().size() == 1);
  REQUIRE(outlines.large_textures()[0].width == 20000);
}
