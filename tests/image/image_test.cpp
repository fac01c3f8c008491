#include "scratch.h"
#include "thrown.h"

#include <periscena/base/file.h>
#include <periscena/image/files.h>

using namespace periscena;

namespace {

Image gradient(int width, int height) {
  Image image(width, height, Format::rgba8_srgb);
  for (std::size_t i = 0; i < image.bytes().size(); ++i) image.bytes()[i] = static_cast<std::byte>(i * 7 % 256);
  return image;
}

}  // namespace

TEST_CASE("a PNG gives back every byte, alpha included, for odd sizes too") {
  const Scratch scratch("png");
  for (const auto& [width, height] : {std::pair{1, 1}, std::pair{3, 5}, std::pair{64, 17}}) {
    const Image image = gradient(width, height);
    write_png(image, scratch / "a.png");
    REQUIRE(read_png(scratch / "a.png") == image);
  }
  REQUIRE(scratch.file_count() == 1);
}

TEST_CASE("pixels count from the upper left, and those outside are refused") {
  const Image image = gradient(4, 2);
  REQUIRE(image.at(0, 0)[1] == 7);
  REQUIRE(image.at(1, 1)[0] == static_cast<float>((4 * 4 + 4) * 7 % 256));
  for (const auto& [x, y] : {std::pair{-1, 0}, std::pair{4, 0}, std::pair{0, 2}, std::pair{0, -1}}) {
    REQUIRE(thrown_slug([&, px = x, py = y] { image.at(px, py); }) == "pixel-outside");
  }
}

TEST_CASE("impossible images are refused") {
  REQUIRE(thrown_slug([] { Image(0, 5, Format::rgba8); }) == "bad-size");
  REQUIRE(thrown_slug([] { Image(5, -1, Format::rgba8); }) == "bad-size");
  REQUIRE(thrown_slug([] { Image(100000, 1, Format::rgba8); }) == "bad-size");
  REQUIRE(thrown_slug([] { Image(5, 5, Format::rgba16f); }) == "image-format");
  const Scratch scratch("png-format");
  REQUIRE(thrown_slug([&] { write_png(Image(2, 2, Format::rgba32f), scratch / "a.png"); }) == "image-format");
  REQUIRE(scratch.file_count() == 0);
}

TEST_CASE("a PNG cut short, or none at all, is told apart from a good one") {
  const Scratch scratch("png-broken");
  write_png(gradient(50, 50), scratch / "good.png");
  const std::string bytes = read_bytes(scratch / "good.png");
  for (const std::size_t size :
       {std::size_t{0}, std::size_t{7}, std::size_t{30}, bytes.size() / 2, bytes.size() - 20}) {
    write_file(scratch / "cut.png", std::string_view(bytes).substr(0, size));
    REQUIRE(thrown_slug([&] { read_png(scratch / "cut.png"); }) == "broken-image");
  }
  write_file(scratch / "text.png", "this is no picture");
  REQUIRE_THAT(thrown_text([&] { read_png(scratch / "text.png"); }), Catch::Contains("text.png"));
  REQUIRE(thrown_slug([&] { read_png(scratch / "none.png"); }) == "unreadable-file");
}

TEST_CASE("every format has a name that leads back to it") {
  for (const FormatInfo& known : all_formats()) {
    Format format = Format::r8;
    REQUIRE(parse_format(known.name, format));
    REQUIRE(format == known.format);
    REQUIRE(info(known.format).name == known.name);
    REQUIRE(known.depth == known.name.starts_with("depth"));
  }
  Format untouched = Format::rg8;
  REQUIRE_FALSE(parse_format("rgba9", untouched));
  REQUIRE(untouched == Format::rg8);
}
