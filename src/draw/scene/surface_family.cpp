#include "draw/scene/surface_family.h"

#include <fmt/format.h>

#include <algorithm>
#include <cctype>

namespace periscena::draw {
namespace {

/// "base_color_map" as GLSL's defines say it.
std::string in_capitals(std::string name) {
  std::transform(name.begin(), name.end(), name.begin(),
                 [](unsigned char letter) { return static_cast<char>(std::toupper(letter)); });
  return name;
}

/// Of programs that a pass makes unasked: each takes time to compile, and memory.
constexpr std::size_t most_families = 12;

/// The places of outputs that all vertex programs of surfaces have, see surface.vert.
constexpr int common_outputs = 7;

}  // namespace

void SurfaceFamily::add(const Material& material) {
  for (std::size_t i = 0; i < map_count; ++i) {
    if ((material.*material_maps[i].use).valid()) maps |= 1u << i;
  }
  shadings |= 1u << static_cast<std::uint32_t>(material.shading);
  metals = metals || material.metallic > 0;
  emits = emits || !material.emission.is_zero(0);
  masks = masks || material.alpha_mode == Material::AlphaMode::mask;
  blends = blends || material.alpha_mode == Material::AlphaMode::blend;
  shows = shows || !material.shows.empty();
}

void SurfaceFamily::add(const Mesh& mesh) {
  mesh_colors = mesh_colors || !mesh.colors.empty();
  second_uv = second_uv || !mesh.second_uv.empty();
  bare = bare || mesh.normals.empty();
}

std::vector<std::string> SurfaceFamily::defines(TextureWay way, int outputs) const {
  std::vector<std::string> lines{"FAMILY", fmt::format("SHADINGS {}", shadings)};
  const auto flag = [&](bool has, const char* name) {
    if (has) lines.emplace_back(name);
  };
  flag(metals, "METALS");
  flag(emits, "EMITS");
  flag(masks, "MASKS");
  flag(blends, "BLENDS");
  flag(shows, "SHOWS");
  flag(mesh_colors, "MESH_COLORS");
  flag(second_uv, "SECOND_UV");
  flag(bare, "BARE");
  int next = common_outputs;
  const auto place = [&](bool has, const std::string& name) {
    if (has) lines.push_back(fmt::format("{} {}", name, next++));
  };
  const auto has_map = [&](std::string_view name) {
    for (std::size_t i = 0; i < map_count; ++i) {
      if (material_maps[i].name == name) return (maps >> i & 1u) != 0;
    }
    return false;
  };
  place(true, "BASE_COLOR_AT");
  place(has_map("normal_map") || has_map("occlusion_map"), "FACTORS_AT");
  place(emits || masks, "EMISSION_AT");
  place((shadings & (1u << static_cast<std::uint32_t>(Material::Shading::blinn_phong))) != 0, "SPECULAR_AT");
  place((shadings & (shadings - 1)) != 0 || shows || blends, "NUMBERS_AT");
  for (std::size_t i = 0; i < map_count; ++i) place((maps >> i & 1u) != 0, in_capitals(material_maps[i].name));
  if (way != TextureWay::handles && next <= outputs) lines.emplace_back("MATERIAL_BY_VERTEX");
  return lines;
}

SurfaceFamily SurfaceFamily::general() {
  return {.maps = (1u << map_count) - 1,
          .shadings = all_shadings,
          .metals = true,
          .emits = true,
          .masks = true,
          .blends = true,
          .shows = true,
          .mesh_colors = true,
          .second_uv = true,
          .bare = true};
}

SurfaceKinds::SurfaceKinds(std::span<const SurfaceKind> by_state, const std::vector<bool>& used,
                           batch::Programs programs)
    : of_state(by_state.size(), 0) {
  // The family of each state, or one for all that have GLSL of one file.
  const auto fill = [&](bool apart) {
    kinds.clear();
    for (std::size_t i = 0; i < by_state.size(); ++i) {
      if (!used[i]) continue;
      SurfaceKind wanted = by_state[i];
      if (!apart) wanted.family = SurfaceFamily::general();
      const auto found = std::find(kinds.begin(), kinds.end(), wanted);
      of_state[i] = static_cast<std::uint32_t>(found - kinds.begin());
      if (found == kinds.end()) kinds.push_back(wanted);
    }
  };
  fill(programs != batch::Programs::general);
  const std::size_t families = kinds.size();
  if (programs == batch::Programs::automatic && families > most_families) fill(false);
  const char* plural = kinds.size() == 1 ? "" : "s";
  if (programs == batch::Programs::general)
    way = fmt::format("{} general program{}", kinds.size(), plural);
  else if (kinds.size() < families)
    way = fmt::format("{} general program{}: {} families would exceed the limit of {}", kinds.size(), plural, families,
                      most_families);
  else
    way = fmt::format("{} program{}, one per family of materials", kinds.size(), plural);
}

}  // namespace periscena::draw
