#include <periscena/inspect/variation.h>

#include "inspect/json.h"
#include "inspect/paper.h"

#include <periscena/base/error.h>
#include <periscena/inspect/sheet.h>

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace periscena::inspect {
namespace {

constexpr int line_height = 17, heading_height = 70;

/// Those that there is something to say of, of one at least.
std::vector<std::size_t> told_measures(const Variations& variations) {
  std::vector<std::size_t> told;
  for (std::size_t m = 0; m < measures().size(); ++m) {
    const bool says = std::any_of(variations.all.begin(), variations.all.end(),
                                  [&](const Variation& one) { return !std::isnan(one.measures[m]); });
    if (says) told.push_back(m);
  }
  return told;
}

std::string shown(const Variation& variation, std::size_t measure) {
  const Measure& how = measures()[measure];
  if (std::isnan(variation.measures[measure])) return "-";
  return fmt::format("{:.{}f}", variation.measures[measure] * how.scale, how.digits);
}

/// "leaks 0.012 %".
std::string told_text(const Variation& variation, std::size_t measure) {
  const Measure& how = measures()[measure];
  return fmt::format("{} {}{}{}", how.name, shown(variation, measure), *how.unit ? " " : "", how.unit);
}

/// Made larger, pixel by pixel.
Image stretched(const Image& picture, int width) {
  if (picture.width() >= width) return picture;
  const int height = picture.height() * width / picture.width();
  Image large(width, height, picture.format());
  for (int y = 0; y < height; ++y) {
    for (int x = 0; x < width; ++x)
      large.set(x, y, picture.at(x * picture.width() / width, y * picture.height() / height));
  }
  return large;
}

/// "radius": the last part of a key, and its value.
std::string short_name(const std::string& key) {
  const std::size_t dot = key.rfind('.');
  return dot == key.npos ? key : key.substr(dot + 1);
}

/// One for each key.
std::vector<std::string> values_lines(const Variations& variations, const Variation& one) {
  std::vector<std::string> lines;
  for (std::size_t k = 0; k < variations.keys.size(); ++k)
    lines.push_back(fmt::format("{} = {}", short_name(variations.keys[k].key), one.values[k]));
  if (lines.empty()) lines.push_back("as the file says");
  return lines;
}

Image cut(const Image& picture, const PixelRect& part) {
  if (part.whole()) return picture;
  const bool inside = part.x >= 0 && part.y >= 0 && part.width > 0 && part.height > 0 &&
                      part.x + part.width <= picture.width() && part.y + part.height <= picture.height();
  if (!inside) {
    throw Mistake("bad-size", {},
                  fmt::format("a part of {} x {} pixels at ({}, {}), of pictures of {} x {}", part.width, part.height,
                              part.x, part.y, picture.width(), picture.height()),
                  "choose a part that lies in them");
  }
  Image small(part.width, part.height, picture.format());
  for (int y = 0; y < part.height; ++y) {
    for (int x = 0; x < part.width; ++x) small.set(x, y, picture.at(part.x + x, part.y + y));
  }
  return small;
}

}  // namespace

std::string to_text(const Variations& variations) {
  const std::vector<std::size_t> told = told_measures(variations);
  std::vector<std::vector<std::string>> rows(1);
  for (const VariedKey& key : variations.keys) rows[0].push_back(short_name(key.key));
  for (const std::size_t m : told) {
    const Measure& how = measures()[m];
    rows[0].push_back(*how.unit ? fmt::format("{}, {}", how.name, how.unit) : how.name);
  }
  for (const Variation& one : variations.all) {
    rows.push_back(one.values);
    for (const std::size_t m : told) rows.back().push_back(shown(one, m));
  }
  std::string text;
  for (std::size_t i = 0; i < rows.size(); ++i) {
    text += i == variations.best + 1 ? "> " : "  ";
    for (std::size_t column = 0; column < rows[i].size(); ++column) {
      std::size_t width = 0;
      for (const auto& row : rows) width = std::max(width, row[column].size());
      text += fmt::format("{}{:>{}}", column ? "  " : "", rows[i][column], width);
    }
    text += "\n";
  }
  return text + fmt::format("\n> best: {}\n", variations.rule);
}

std::string to_json(const Variations& variations) {
  Json list = Json::array();
  for (const Variation& one : variations.all) {
    Json entry{{"set", Json::object()}};
    for (std::size_t k = 0; k < variations.keys.size(); ++k) entry["set"][variations.keys[k].key] = one.values[k];
    for (const std::size_t m : told_measures(variations)) entry[measures()[m].name] = one.measures[m];
    Json shadows = Json::array();
    for (const MeasuredShadows& light : one.shadows) {
      const ShadowErrors& errors = light.errors;
      shadows.push_back({{"pass", light.pass},
                         {"light", light.light},
                         {"map", light.map},
                         {"edges_within_texels", light.away},
                         {"lit", errors.lit},
                         {"dark", errors.dark},
                         {"leaks", errors.leaks},
                         {"stripes", errors.stripes},
                         {"detachment_metres", errors.detachment},
                         {"detachment_texels", errors.detachment_texels},
                         {"edges", errors.edges},
                         {"jaggedness", errors.jaggedness}});
    }
    if (!shadows.empty()) entry["shadows"] = shadows;
    list.push_back(entry);
  }
  return dump({{"variations", list}, {"best", variations.best}, {"rule", variations.rule}});
}

Image make_picture(const Variations& variations, const VariationPictureOptions& options) {
  if (options.width < 320 || options.width > 16384) {
    throw Mistake("bad-size", {}, fmt::format("a picture of {} pixels", options.width),
                  "choose a width of 320 to 16384");
  }
  const std::vector<std::size_t> told = told_measures(variations);
  const auto count = static_cast<int>(variations.all.size());
  // As many side by side as the last key has values, or two have: rows then differ in one key.
  const auto last = variations.keys.empty() ? 1 : static_cast<int>(variations.keys.back().values.size());
  const int columns = last >= 2 && last <= 6 ? last : std::min(count, 4);
  const int cell_width = (options.width - 2 * paper_margin - (columns - 1) * picture_gap) / columns;
  std::vector<Image> pictures;
  for (const Variation& one : variations.all) {
    CapturedTarget target;
    target.image = cut(one.picture, options.part);
    target.format = one.picture.format();
    pictures.push_back(stretched(fitting_view(target, cell_width, 8 * cell_width).picture, cell_width));
  }
  const int rows = (count + columns - 1) / columns, picture_height = pictures[0].height();
  const int words_height =
      line_height * static_cast<int>(1 + std::max<std::size_t>(1, variations.keys.size()) + (told.size() + 1) / 2) + 6;
  const int row_height = picture_height + words_height + picture_gap;
  Image sheet = empty_paper(options.width, heading_height + rows * row_height + paper_margin);
  const Lettering letters;
  std::string keys;
  for (const VariedKey& key : variations.keys) keys += fmt::format("{}{}", keys.empty() ? "" : ",  ", key.key);
  letters.write(sheet, keys.empty() ? "the frame as it is" : keys, paper_margin, 30, 17, bright,
                options.width - 2 * paper_margin);
  letters.write(sheet, "framed: " + variations.rule, paper_margin, 54, 12, golden, options.width - 2 * paper_margin);
  for (int i = 0; i < count; ++i) {
    const auto at = static_cast<std::size_t>(i);
    const Variation& one = variations.all[at];
    const int left = paper_margin + i % columns * (cell_width + picture_gap),
              top = heading_height + i / columns * row_height;
    const Image& picture = pictures[at];
    if (at == variations.best) fill(sheet, left - 4, top - 4, picture.width() + 8, picture.height() + 8, golden);
    put(picture, sheet, left, top);
    int baseline = top + picture_height + 3;
    for (const std::string& line : values_lines(variations, one))
      letters.write(sheet, line, left, baseline += line_height, 13, at == variations.best ? golden : bright,
                    cell_width);
    for (std::size_t m = 0; m < told.size(); m += 2) {
      std::string text = told_text(one, told[m]);
      if (m + 1 < told.size()) text += ",  " + told_text(one, told[m + 1]);
      letters.write(sheet, text, left, baseline += line_height, 11, dim, cell_width);
    }
  }
  return sheet;
}

}  // namespace periscena::inspect
