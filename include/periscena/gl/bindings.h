#pragma once

#include <cstdint>
#include <span>
#include <string_view>

namespace periscena::gl {

/// Where blocks and attributes are bound: the one table. GLSL gets it by `#include "periscena/bindings.glsl"`, which is
/// written from it.
namespace binding {
inline constexpr std::uint32_t frame_block = 0;
inline constexpr std::uint32_t camera_block = 1;
inline constexpr std::uint32_t light_block = 2;
inline constexpr std::uint32_t cloud_block = 3;
inline constexpr std::uint32_t few_lights_block = 4;
inline constexpr std::uint32_t few_shadows_block = 5;
inline constexpr std::uint32_t few_shadow_parts_block = 6;

inline constexpr std::uint32_t object_storage = 0;
inline constexpr std::uint32_t material_number_storage = 1;
inline constexpr std::uint32_t material_storage = 2;
inline constexpr std::uint32_t light_storage = 3;
inline constexpr std::uint32_t mesh_color_storage = 4;
inline constexpr std::uint32_t second_uv_storage = 5;
inline constexpr std::uint32_t shadow_storage = 6;
inline constexpr std::uint32_t shadow_part_storage = 7;

// OpenGL 4.5 guarantees eight, so blocks that never meet in a program share a place.
inline constexpr std::uint32_t marker_storage = 6;
inline constexpr std::uint32_t sprite_storage = 6;
inline constexpr std::uint32_t objects_before_storage = 6;
inline constexpr std::uint32_t cell_storage = 7;
inline constexpr std::uint32_t mover_storage = 7;
inline constexpr std::uint32_t particle_storage = 6;
inline constexpr std::uint32_t birth_storage = 7;
inline constexpr std::uint32_t glyph_storage = 4;
inline constexpr std::uint32_t text_plane_storage = 5;
inline constexpr std::uint32_t reach_storage = 0;
inline constexpr std::uint32_t finite_storage = 0;
inline constexpr std::uint32_t histogram_storage = 1;

// Of the compute programs that cull.
inline constexpr std::uint32_t bounds_storage = 0;
inline constexpr std::uint32_t entry_storage = 1;
inline constexpr std::uint32_t rank_storage = 2;
inline constexpr std::uint32_t total_storage = 3;
inline constexpr std::uint32_t seen_storage = 4;
inline constexpr std::uint32_t node_list_storage = 5;
inline constexpr std::uint32_t plan_storage = 6;
inline constexpr std::uint32_t command_storage = 7;
inline constexpr std::uint32_t run_storage = 0;
inline constexpr std::uint32_t drawn_storage = 4;

// Of the compute program that scatters.
inline constexpr std::uint32_t scattered_storage = 0;
inline constexpr std::uint32_t sent_storage = 1;
inline constexpr std::uint32_t sent_number_storage = 2;

inline constexpr std::uint32_t position_attribute = 0;
inline constexpr std::uint32_t normal_attribute = 1;
inline constexpr std::uint32_t tangent_attribute = 2;
inline constexpr std::uint32_t uv_attribute = 3;
/// Once per instance, so that a draw's base instance picks it
inline constexpr std::uint32_t object_index_attribute = 4;
}  // namespace binding

struct NamedBinding {
  std::string_view name;  ///< "FRAME_BLOCK", as in GLSL
  std::uint32_t value;
};
std::span<const NamedBinding> named_bindings();

}  // namespace periscena::gl
