#include "scratch.h"
#include "thrown.h"

#include <periscena/base/file.h>
#include <periscena/image/files.h>
#include <periscena/scene/sprite_sheet.h>

#include <random>

using namespace periscena;

namespace {

Image filled(int width, int height, double shade) {
  Image image(width, height, Format::rgba8_srgb);
  for (int y = 0; y < height; ++y)
    for (int x = 0; x < width; ++x) image.set(x, y, {shade, static_cast<double>(x), static_cast<double>(y), 255});
  return image;
}

}  // namespace

TEST_CASE("a grid's cells lie in rows from the upper left, and a grid that leaves a rest is refused") {
  const auto image = std::make_shared<Image>(filled(8, 6, 1));
  const SpriteSheet sheet = SpriteSheet::grid("birds", image, 4, 2);
  REQUIRE(sheet.cells.size() == 8);
  REQUIRE(sheet.cells[5] == SpriteCell{"5", 2, 3, 2, 3});
  REQUIRE(sheet.find("7") == 7);
  REQUIRE(sheet.find("") == 0);
  REQUIRE_FALSE(sheet.find("8"));
  REQUIRE(thrown_slug([&] { SpriteSheet::grid("birds", image, 3, 2); }) == "bad-sheet");
  REQUIRE(thrown_slug([&] { SpriteSheet::grid("birds", image, 0, 2); }) == "bad-sheet");
  REQUIRE(thrown_slug([&] { SpriteSheet::grid("birds", nullptr, 1, 1); }) == "bad-sheet");
}

TEST_CASE("packed pictures keep their pixels, do not touch, and fill most of the sheet") {
  std::mt19937 dice(4);
  std::vector<LoosePicture> pictures;
  double area = 0;
  for (int i = 0; i < 60; ++i) {
    const int width = 1 + static_cast<int>(dice() % 40), height = 1 + static_cast<int>(dice() % 40);
    pictures.push_back({"picture " + std::to_string(i), filled(width, height, i)});
    area += width * height;
  }
  const SpriteSheet sheet = pack_sheet("many", pictures);
  REQUIRE(sheet.cells.size() == pictures.size());
  for (std::size_t i = 0; i < pictures.size(); ++i) {
    const SpriteCell& cell = sheet.cells[i];
    REQUIRE(cell.name == pictures[i].name);
    REQUIRE(cell.width == pictures[i].image.width());
    for (int y = 0; y < cell.height; ++y)
      for (int x = 0; x < cell.width; ++x)
        REQUIRE(sheet.image->at(cell.x + x, cell.y + y) == pictures[i].image.at(x, y));
    for (std::size_t k = 0; k < i; ++k) {
      const SpriteCell& other = sheet.cells[k];
      const bool apart = cell.x + cell.width < other.x || other.x + other.width < cell.x ||
                         cell.y + cell.height < other.y || other.y + other.height < cell.y;
      REQUIRE(apart);
    }
  }
  REQUIRE(area / (sheet.image->width() * sheet.image->height()) > 0.6);
}

TEST_CASE("a sheet is read back as it was written") {
  const Scratch scratch("sheets");
  const std::vector<LoosePicture> pictures{{"up", filled(5, 3, 10)}, {"down \"quoted\"", filled(2, 7, 20)}};
  const SpriteSheet sheet = pack_sheet("wings", pictures);
  write_sheet(sheet, scratch / "wings.json");
  const SpriteSheet again = read_sheet(scratch / "wings.json");
  REQUIRE(again.name == "wings");
  REQUIRE(again.cells == sheet.cells);
  REQUIRE(*again.image == *sheet.image);
}

TEST_CASE("a colour that is cut out is transparent, and no other") {
  SpriteSheet sheet = SpriteSheet::grid("old", std::make_shared<Image>(filled(3, 3, 7)), 1, 1);
  sheet.cut_out({7, 1, 2});
  for (int y = 0; y < 3; ++y)
    for (int x = 0; x < 3; ++x) REQUIRE((sheet.image->at(x, y)[3] == 0) == (x == 1 && y == 2));
}

TEST_CASE("sheets that lie are refused, with what is wrong in them") {
  const Scratch scratch("sheets");
  write_png(filled(8, 8, 1), scratch / "a.png");
  const auto told = [&](const std::string& json) {
    write_file(scratch / "a.json", json);
    return thrown_text([&] { read_sheet(scratch / "a.json"); });
  };
  using Catch::Contains;
  REQUIRE(told(R"({"image": "a.png", "cells": [{"x": 0, "y": 0, "width": 8, "height": 8}]})").empty());
  REQUIRE_THAT(told(R"({"image": "a.png", "cells": [{"x": 1, "y": 0, "width": 8, "height": 8}]})"),
               Contains("bad-sheet") && Contains("outside of its 8 x 8"));
  REQUIRE_THAT(told(R"({"image": "a.png", "cells": [{"x": 16384, "y": 0, "width": 16384, "height": 8}]})"),
               Contains("bad-sheet"));
  REQUIRE_THAT(told(R"({"image": "a.png", "cells": [{"x": 0, "y": 0, "width": 0, "height": 8}]})"),
               Contains("bad-sheet"));
  REQUIRE_THAT(told(R"({"image": "a.png", "cells": []})"), Contains("no cells"));
  REQUIRE_THAT(told(R"({"image": "a.png", "cells": [{"x": -1, "y": 0, "width": 1, "height": 1}]})"),
               Contains("broken-sheet") && Contains("cells[0].x"));
  REQUIRE_THAT(told(R"({"image": "a.png", "cells": [{"x": 99999999999999999999, "y": 0, "width": 1, "height": 1}]})"),
               Contains("broken-sheet"));
  REQUIRE_THAT(told(R"({"image": "a.png", "cells": [7]})"), Contains("cells[0] is no object"));
  REQUIRE_THAT(told(R"({"image": 7, "cells": []})"), Contains("\"image\" is no text"));
  REQUIRE_THAT(told(R"({"image": "../a.png", "cells": []})"), Contains("path-outside"));
  REQUIRE_THAT(told(R"({"image": "none.png", "cells": []})"), Contains("unreadable-file"));
  REQUIRE_THAT(told(R"({"image": "a.png", "cells")"), Contains("not JSON"));
  REQUIRE_THAT(told("[1, 2]"), Contains("no object"));
  REQUIRE_THAT(told(R"({"image": "a.png", "cells": [{"name": "a", "x": 0, "y": 0, "width": 1, "height": 1},
                                           {"name": "a", "x": 2, "y": 0, "width": 1, "height": 1}]})"),
               Contains("two cells named"));
  REQUIRE(thrown_slug([] { pack_sheet("none", {}); }) == "bad-sheet");
}
