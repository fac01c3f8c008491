#include "draw/scene/scene_materials.h"

#include "base/same_bytes.h"

#include <periscena/gl/bindings.h>

#include <fmt/format.h>

#include <algorithm>

namespace periscena::draw {
namespace {

MapBlock map_block(const TextureUse& use, const Scene& scene, int layer) {
  const Matrix<float, 2, 3> to_image = texture_matrix(use, scene.textures());
  MapBlock block;
  block.u = to_image.row(0).with(static_cast<float>(layer));
  block.v = to_image.row(1).with(static_cast<float>(use.uv_set));
  return block;
}

MaterialBlock material_block(std::uint32_t number, const Scene& scene, const MaterialTextures& textures, int picture) {
  const Material& material = scene.materials()[number];
  MaterialBlock block;
  block.base_color = material.base_color.with(material.alpha);
  block.emission = material.emission.with(material.alpha_mode == Material::AlphaMode::mask ? material.alpha_cutoff : 0);
  block.specular = material.specular.with(material.shininess);
  block.factors = {material.metallic, material.roughness, material.normal_scale, material.occlusion_strength};
  block.numbers[0] = static_cast<std::int32_t>(material.shading);
  block.numbers[1] = picture;
  block.numbers[2] = material.alpha_mode == Material::AlphaMode::blend;
  for (std::size_t i = 0; i < map_count; ++i) {
    const TextureUse& use = material.*material_maps[i].use;
    block.maps[i] = map_block(use, scene, textures.place(use, material_maps[i]).layer);
    const std::uint64_t handle = textures.handle(textures.set_of(number), i);
    block.maps[i].handle[0] = static_cast<std::uint32_t>(handle);
    block.maps[i].handle[1] = static_cast<std::uint32_t>(handle >> 32);
  }
  return block;
}

/// The place of a value in a list of different ones, to which it is added if need be.
template <class T>
std::uint32_t number_in(std::vector<T>& known, const T& value) {
  const auto found = std::find(known.begin(), known.end(), value);
  const auto number = static_cast<std::uint32_t>(found - known.begin());
  if (found == known.end()) known.push_back(value);
  return number;
}

}  // namespace

SceneMaterials::SceneMaterials(const Scene& scene, std::shared_ptr<TextureArrays> arrays, bool may_use_handles,
                               BlockRoom room)
    : scene_(scene), room_(room), textures_(scene, std::move(arrays), may_use_handles) {
  fill();
}

std::uint32_t SceneMaterials::materials_a_block() const {
  return room_.elements<MaterialBlock, 16>(Dress::no_receiver);
}

void SceneMaterials::fill() {
  for (const Material& material : scene_.materials()) {
    const auto block = static_cast<std::uint32_t>(blocks_.size()) / materials_a_block();
    const auto number = static_cast<std::uint32_t>(blocks_.size());
    blocks_.push_back(material_block(number, scene_, textures_, picture_number(material)));
    state_of_material_.push_back(state_number(number, block));
  }
  if (!blocks_.empty()) {
    materials_ = gl::Buffer::writable(blocks_.size() * sizeof(MaterialBlock), "scene materials");
    materials_.write(0, std::as_bytes(std::span(blocks_)));
  }
  find_kinds();
}

void SceneMaterials::follow(const gl::PassContext& context, const Scene& source) {
  textures_.follow(source);
  if (seen_ == source.versions().materials) return;
  seen_ = source.versions().materials;
  for (std::uint32_t i = 0; i < blocks_.size(); ++i) {
    const MaterialBlock now = material_block(i, source, textures_, picture_number(source.materials()[i]));
    if (same_bytes(now, blocks_[i])) continue;
    blocks_[i] = now;
    context.write(materials_, i * sizeof(MaterialBlock), std::as_bytes(std::span(&blocks_[i], 1)));
  }
}

void SceneMaterials::find_kinds() {
  SurfaceFamily of_meshes;
  for (const Mesh& mesh : scene_.meshes()) of_meshes.add(mesh);
  for (const MaterialState& state : states_) kinds_.push_back({state.surface, of_meshes});
  for (std::size_t i = 0; i < state_of_material_.size(); ++i)
    kinds_[state_of_material_[i]].family.add(scene_.materials()[i]);
}

std::uint32_t SceneMaterials::state_number(std::uint32_t number, std::uint32_t block) {
  const Material& material = scene_.materials()[number];
  MaterialState state;
  state.block = block;
  if (textures_.way() != TextureWay::handles) state.textures = textures_.sets()[textures_.set_of(number)];
  state.surface = material.surface.empty() ? 0 : number_in(surfaces_, material.surface) + 1;
  state.double_sided = material.double_sided;
  state.blended = material.alpha_mode == Material::AlphaMode::blend;
  return number_in(states_, state);
}

std::string SceneMaterials::difference(std::uint32_t before, std::uint32_t after) const {
  const MaterialState &a = states_[before], &b = states_[after];
  const auto surface = [&](std::uint32_t number) {
    return number == 0 ? std::string("no GLSL of its own") : fmt::format("GLSL of its own, {}", surfaces_[number - 1]);
  };
  if (a.surface != b.surface) return surface(b.surface);
  if (a.block != b.block) return fmt::format("a storage block of this device holds {} materials", materials_a_block());
  const TextureSet &had = a.textures, &has = b.textures;
  for (std::size_t i = 0; i < map_count; ++i) {
    if (had.arrays[i] != has.arrays[i]) {
      return fmt::format("{}: {} instead of {}", material_maps[i].name, textures_.description(has.arrays[i]),
                         textures_.description(had.arrays[i]));
    }
    if (had.samplers[i] != has.samplers[i])
      return fmt::format("{}: filtered or wrapped otherwise", material_maps[i].name);
  }
  if (a.double_sided != b.double_sided) return b.double_sided ? "both sides are drawn" : "only front faces are drawn";
  return b.blended ? "blended" : "not blended";
}

std::uint32_t SceneMaterials::shadings() const {
  std::uint32_t found = 0;
  for (const SurfaceKind& kind : kinds_) {
    // GLSL of a material's own may choose any; what has no normals is not lit.
    if (kind.surface != 0 || kind.family.bare) return all_shadings;
    found |= kind.family.shadings;
  }
  return found == 0 ? all_shadings : found;
}

int SceneMaterials::picture_number(const Material& material) {
  if (material.shows.empty()) return 0;
  const auto number = static_cast<int>(number_in(shown_, material.shows)) + 1;
  return material.shows_mirrored ? -number : number;
}

std::shared_ptr<const Dress> SceneMaterials::dress(const Variant* variant, const std::vector<bool>& receivers) {
  for (const KnownDress& known : dresses_) {
    if (known.variant == variant && known.receivers == receivers) return known.dress;
  }
  auto made = std::make_shared<Dress>();
  std::vector<std::uint32_t> numbers;
  for (const MaterialHandle material : scene_.materials_of_nodes(variant)) {
    const std::uint32_t number = material.valid() ? material.index : 0, in_block = number % materials_a_block();
    const bool receives = receivers.empty() || receivers[numbers.size()];
    numbers.push_back(receives ? in_block : in_block | Dress::no_receiver);
    const std::uint32_t state = material.valid() ? state_of_material_[number] : 0;
    // Only what is found by handle could differ within a command.
    const bool by_handle = material.valid() && textures_.way() == TextureWay::handles;
    made->traits.push_back({.state = state,
                            .blended = material.valid() && states_[state].blended,
                            .textures = by_handle ? textures_.set_of(number) : 0});
  }
  if (!numbers.empty()) {
    made->material_numbers = gl::Buffer::holding(std::as_bytes(std::span(numbers)), "material numbers");
    if (material_texels_.name() != 0)
      made->number_texels = gl::BufferTexture(made->material_numbers, Format::r32ui, "material numbers");
  }
  return dresses_.emplace_back(variant, receivers, std::move(made)).dress;
}

bool SceneMaterials::make_texels(std::size_t most) {
  const std::size_t count = scene_.materials().size();
  if (count == 0 || count > materials_a_block() || materials_.size() / texel_bytes > most) return false;
  material_texels_ = gl::BufferTexture(materials_, Format::rgba32ui, "scene materials");
  return true;
}

void SceneMaterials::bind(gl::State& state, const MaterialState& material) const {
  bind_block(state, gl::binding::material_storage, materials_, materials_a_block() * sizeof(MaterialBlock),
             material.block);
}

}  // namespace periscena::draw
