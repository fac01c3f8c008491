#include "draw/scene/material_textures.h"

#include "base/parallel.h"

#include <periscena/base/names.h>
#include <periscena/image/mip_levels.h>

#include <fmt/format.h>

#include <algorithm>
#include <cstring>
#include <utility>

namespace periscena::draw {
namespace {

Format stored_format(const Texture& texture) {
  if (!texture.image->is_eight_bit()) return Format::rgba16f;
  return texture.holds == TextureHolds::color ? Format::rgba8_srgb : Format::rgba8;
}

bool has_levels(Filter filter) {
  return filter == Filter::linear_levels || filter == Filter::nearest_levels;
}

gl::Texture single_pixel(const std::array<double, 4>& value, const char* label) {
  Image image(1, 1, Format::rgba32f);
  image.set(0, 0, value);
  gl::Texture texture({.width = 1, .height = 1, .format = Format::rgba16f, .shape = TargetShape::array}, label);
  texture.upload(image);
  return texture;
}

/// The least that holds all pixels that two images of one size and format do not share.
TextureArrays::PixelBox difference(const Image& a, const Image& b) {
  if (a.format() != b.format()) return {0, 0, b.width(), b.height()};
  const std::size_t length = a.row_bytes(), pixel = length / static_cast<std::size_t>(a.width());
  std::size_t left = length, right = 0;
  int top = a.height(), bottom = -1;
  for (int y = 0; y < a.height(); ++y) {
    const std::byte *x = a.bytes().data() + static_cast<std::size_t>(y) * length,
                    *z = b.bytes().data() + static_cast<std::size_t>(y) * length;
    if (std::memcmp(x, z, length) == 0) continue;
    top = std::min(top, y);
    bottom = y;
    left = std::min(left, static_cast<std::size_t>(std::mismatch(x, x + length, z).first - x));
    std::size_t end = length;
    while (x[end - 1] == z[end - 1]) --end;
    right = std::max(right, end);
  }
  const auto first = static_cast<int>(left / pixel), last = static_cast<int>((right + pixel - 1) / pixel);
  return {first, top, last - first, bottom + 1 - top};
}

Image part_of(const Image& image, const TextureArrays::PixelBox& box) {
  Image part(box.width, box.height, image.format());
  const std::size_t pixel = image.row_bytes() / static_cast<std::size_t>(image.width());
  for (int y = 0; y < box.height; ++y) {
    const std::size_t from =
        static_cast<std::size_t>(box.top + y) * image.row_bytes() + static_cast<std::size_t>(box.left) * pixel;
    std::copy_n(image.bytes().data() + from, part.row_bytes(),
                part.bytes().data() + static_cast<std::size_t>(y) * part.row_bytes());
  }
  return part;
}

constexpr std::size_t most_layers = 2048;  // that every OpenGL 4.5 has (table 23.54)

}  // namespace

TextureArrays::TextureArrays(const Scene& scene) : textures(scene.textures()), seen_(scene.versions().textures) {
  arrays.push_back(single_pixel({1, 1, 1, 1}, "no map"));
  arrays.push_back(single_pixel({0.5, 0.5, 1, 1}, "no normal map"));
  samplers.emplace_back(Filter::nearest, Wrap::clamp, "no map");
  make_arrays();
  make_samplers();
}

MaterialTextures::MaterialTextures(const Scene& scene, std::shared_ptr<TextureArrays> arrays, bool may_use_handles)
    : arrays_(std::move(arrays)) {
  find_sets(scene);
  if (sets_.size() > 1) way_ = may_use_handles ? TextureWay::handles : TextureWay::binding;
  if (way_ == TextureWay::handles) make_handles();
}

bool TextureArrays::fits(const Scene& scene) const {
  const auto same = [](const Texture& a, const Texture& b) { return a.name == b.name && a.has_shape_of(b); };
  return std::equal(textures.begin(), textures.end(), scene.textures().begin(), scene.textures().end(), same);
}

void TextureArrays::follow(const Scene& scene) {
  if (seen_ != scene.versions().textures) take(scene);
}

void TextureArrays::take(const Scene& scene) {
  seen_ = scene.versions().textures;
  for (std::size_t i = 0; i < textures.size(); ++i) {
    const std::shared_ptr<const Image>& now = scene.textures()[i].image;
    if (now == textures[i].image) continue;
    const std::shared_ptr<const Image> before = std::exchange(textures[i].image, now);
    send(i, difference(*before, *now));
  }
}

void TextureArrays::send(std::size_t number, const PixelBox& changed) {
  if (changed.empty()) return;
  const Texture& texture = textures[number];
  const gl::Texture& array = arrays[places[number].array];
  gl::UploadPart part{.layer = places[number].layer, .top_first = true};
  if (has_levels(texture.sampling.filter))
    array.upload_levels(mip_levels(*texture.image, stored_format(texture)), part);
  part.at = {changed.left, changed.top};
  array.upload(part_of(*texture.image, changed), part);
}

void TextureArrays::make_arrays() {
  struct Group {
    gl::TextureDescription description;
    std::vector<std::size_t> textures;
  };
  std::vector<Group> groups;
  for (std::size_t i = 0; i < textures.size(); ++i) {
    const Texture& texture = textures[i];
    const int w = texture.image->width(), h = texture.image->height();
    gl::TextureDescription wanted{
        .width = w, .height = h, .format = stored_format(texture), .shape = TargetShape::array};
    if (has_levels(texture.sampling.filter)) wanted.levels = mip_level_count(w, h);
    auto group = std::find_if(groups.begin(), groups.end(), [&](const Group& known) {
      const auto& d = known.description;
      return d.width == w && d.height == h && d.format == wanted.format && d.levels == wanted.levels &&
             known.textures.size() < most_layers;
    });
    if (group == groups.end()) group = groups.insert(groups.end(), {wanted, {}});
    group->textures.push_back(i);
  }
  // Computed here, not by the driver: the same on every device, and ready before drivers have compiled programs for it.
  std::vector<std::vector<Image>> levels(textures.size());
  parallel_for(levels.size(), [&](std::size_t i) {
    const Texture& texture = textures[i];
    if (has_levels(texture.sampling.filter)) levels[i] = mip_levels(*texture.image, stored_format(texture));
  });
  places.resize(textures.size());
  for (Group& group : groups) {
    group.description.layers = static_cast<int>(group.textures.size());
    const auto number = static_cast<std::uint32_t>(arrays.size());
    const std::string& first = textures[group.textures[0]].name;
    const std::string label =
        group.textures.size() == 1 ? first : fmt::format("{} and {} more", first, group.textures.size() - 1);
    const gl::Texture& array = arrays.emplace_back(group.description, label);
    for (std::size_t layer = 0; layer < group.textures.size(); ++layer) {
      const std::size_t texture = group.textures[layer];
      places[texture] = {number, static_cast<int>(layer)};
      const gl::UploadPart whole{.layer = static_cast<int>(layer), .top_first = true};
      array.upload(*textures[texture].image, whole);
      array.upload_levels(levels[texture], whole);
    }
  }
}

void TextureArrays::make_samplers() {
  std::vector<Sampling> known;
  for (const Texture& texture : textures) {
    auto found = std::find(known.begin(), known.end(), texture.sampling);
    if (found == known.end()) {
      found = known.insert(known.end(), texture.sampling);
      samplers.emplace_back(texture.sampling, fmt::format("like {}", texture.name));
    }
    sampler_of.push_back(static_cast<std::uint32_t>(found - known.begin()) + 1);
  }
}

std::string MaterialTextures::description(std::uint32_t index) const {
  if (index < 2) return "no map";
  const gl::TextureDescription& array = arrays_->arrays[index].description();
  return fmt::format("{} x {} {}{}", array.width, array.height, to_string(array.format),
                     array.levels > 1 ? "" : " without mip levels");
}

MaterialTextures::Place MaterialTextures::place(const TextureUse& use, const MapInfo& map) const {
  if (!use.valid()) return {map.use == &Material::normal_map ? 1u : 0u, 0};
  return arrays_->places[use.texture.index];
}

void MaterialTextures::find_sets(const Scene& scene) {
  for (const Material& material : scene.materials()) {
    TextureSet set;
    for (std::size_t i = 0; i < map_count; ++i) {
      const TextureUse& use = material.*material_maps[i].use;
      set.arrays[i] = place(use, material_maps[i]).array;
      set.samplers[i] = use.valid() ? arrays_->sampler_of[use.texture.index] : 0;
    }
    const auto known = std::find(sets_.begin(), sets_.end(), set);
    set_of_.push_back(static_cast<std::uint32_t>(known - sets_.begin()));
    if (known == sets_.end()) sets_.push_back(set);
  }
}

void MaterialTextures::make_handles() {
  for (const TextureSet& set : sets_) {
    auto& places = handle_places_.emplace_back();
    for (std::size_t i = 0; i < map_count; ++i)
      places[i] = handles_.add(arrays_->arrays[set.arrays[i]], arrays_->samplers[set.samplers[i]]);
  }
}

std::uint64_t MaterialTextures::handle(std::uint32_t set, std::size_t map) const {
  return way_ == TextureWay::handles ? handles_.handle(handle_places_[set][map]) : 0;
}

void MaterialTextures::need(std::span<const std::uint32_t> sets, std::uint64_t frame) {
  if (way_ != TextureWay::handles) return;
  for (const std::uint32_t set : sets) {
    for (const std::uint32_t place : handle_places_[set]) handles_.need(place, frame);
  }
}

std::string MaterialTextures::way_sentence() const {
  const std::size_t textures = arrays_->places.size(), arrays = arrays_->arrays.size() - 2;
  const std::string what =
      fmt::format("{} in {} of one size and format each", counted(textures, "texture"), counted(arrays, "array"));
  switch (way_) {
    case TextureWay::arrays: return textures == 0 ? "no textures" : what + ", bound once: all materials take the same";
    case TextureWay::handles:
      return fmt::format("{}, found by handle, with nothing bound between draws: materials take {} sets of them", what,
                         sets_.size());
    case TextureWay::binding: break;
  }
  return fmt::format(
      "{}, draws sorted by the {} sets of them that materials take, each bound once: this device has no "
      "bindless textures",
      what, sets_.size());
}

}  // namespace periscena::draw
