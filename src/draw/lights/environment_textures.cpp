#include "draw/lights/environment_textures.h"

#include <algorithm>
#include <cstring>

namespace periscena::draw {
namespace {

#include "tables/split_sum.inc"  // made when the library is built

Image to_image(const std::vector<Vec3>& pixels, int size) {
  Image image(size, size, Format::rgba32f);
  auto* into = reinterpret_cast<float*>(image.bytes().data());
  constexpr float largest_half = 65504;
  for (const Vec3& pixel : pixels) {
    for (int k = 0; k < 3; ++k) *into++ = std::min(pixel[k], largest_half);
    *into++ = 1;
  }
  return image;
}

gl::Texture upload_cube(const CubeImage& cube, const std::string& label) {
  gl::Texture texture({.width = cube.size,
                       .height = cube.size,
                       .format = Format::rgba16f,
                       .shape = TargetShape::cube,
                       .levels = static_cast<int>(cube.levels.size())},
                      label);
  for (int level = 0; level < static_cast<int>(cube.levels.size()); ++level) {
    for (int face = 0; face < 6; ++face) {
      const auto& pixels = cube.levels[static_cast<std::size_t>(level)][static_cast<std::size_t>(face)];
      texture.upload(to_image(pixels, cube.level_size(level)), {.level = level, .layer = face, .top_first = true});
    }
  }
  return texture;
}

gl::Texture upload_split_sum() {
  Image image(split_sum_size, split_sum_size, Format::rg32f);
  std::memcpy(image.bytes().data(), split_sum_entries, sizeof(split_sum_entries));
  gl::Texture texture(split_sum_size, split_sum_size, Format::rg32f, "split sum");
  texture.upload(image, {.top_first = true});
  return texture;
}

CubeImage black_cube() {
  CubeImage cube;
  cube.size = 1;
  cube.levels.emplace_back();
  for (auto& face : cube.levels[0]) face.push_back(Vec3::zero());
  return cube;
}

}  // namespace

std::shared_ptr<EnvironmentTextures> EnvironmentTextures::shared(gl::PassSetup& setup,
                                                                 const std::shared_ptr<const Scene>& scene,
                                                                 const Environment* environment,
                                                                 const std::filesystem::path& cache) {
  // An environment is a part of its scene; none is the same for all.
  const auto owner = environment ? std::shared_ptr<const Environment>(scene, environment) : nullptr;
  const auto fits = [&](const EnvironmentTextures& known) {
    return !environment || known.images == environment->images;
  };
  return setup.shared().get_fitting<EnvironmentTextures>(owner, fits, [&] {
    auto made = std::make_shared<EnvironmentTextures>();
    if (environment) made->images = environment->images;
    if (environment)
      made->light = light_of(*environment, cache);
    else
      made->light.specular = black_cube();
    made->sky = upload_cube(made->light.specular, environment ? environment->name : "no environment");
    made->light.specular = {};
    return made;
  });
}

std::shared_ptr<const SplitSum> split_sum_texture(gl::PassSetup& setup) {
  const auto fits = [](const SplitSum&) { return true; };
  return setup.shared().get_fitting<SplitSum>(nullptr, fits,
                                              [] { return std::make_shared<SplitSum>(SplitSum{upload_split_sum()}); });
}

}  // namespace periscena::draw
