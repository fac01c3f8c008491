#include <periscena/gl/bindings.h>
#include <periscena/gl/block_layout.h>

#include <array>

namespace periscena::gl {

std::string_view to_string(ValueType type) {
  switch (type) {
    case ValueType::boolean: return "bool";
    case ValueType::integer: return "int";
    case ValueType::unsigned_integer: return "uint";
    case ValueType::number: return "float";
    case ValueType::vec2: return "vec2";
    case ValueType::vec3: return "vec3";
    case ValueType::vec4: return "vec4";
    case ValueType::ivec2: return "ivec2";
    case ValueType::ivec3: return "ivec3";
    case ValueType::ivec4: return "ivec4";
    case ValueType::uvec2: return "uvec2";
    case ValueType::uvec3: return "uvec3";
    case ValueType::uvec4: return "uvec4";
    case ValueType::mat3: return "mat3";
    case ValueType::mat4: return "mat4";
    case ValueType::mat3x4: return "mat3x4";
    case ValueType::sampler: return "sampler";
    case ValueType::other: break;
  }
  return "another type";
}

std::span<const NamedBinding> named_bindings() {
  static constexpr std::array table{
      NamedBinding{"FRAME_BLOCK", binding::frame_block},
      NamedBinding{"CAMERA_BLOCK", binding::camera_block},
      NamedBinding{"LIGHT_BLOCK", binding::light_block},
      NamedBinding{"CLOUD_BLOCK", binding::cloud_block},
      NamedBinding{"FEW_LIGHTS_BLOCK", binding::few_lights_block},
      NamedBinding{"FEW_SHADOWS_BLOCK", binding::few_shadows_block},
      NamedBinding{"FEW_SHADOW_PARTS_BLOCK", binding::few_shadow_parts_block},
      NamedBinding{"OBJECT_STORAGE", binding::object_storage},
      NamedBinding{"MATERIAL_NUMBER_STORAGE", binding::material_number_storage},
      NamedBinding{"MATERIAL_STORAGE", binding::material_storage},
      NamedBinding{"LIGHT_STORAGE", binding::light_storage},
      NamedBinding{"MESH_COLOR_STORAGE", binding::mesh_color_storage},
      NamedBinding{"SECOND_UV_STORAGE", binding::second_uv_storage},
      NamedBinding{"MARKER_STORAGE", binding::marker_storage},
      NamedBinding{"SHADOW_STORAGE", binding::shadow_storage},
      NamedBinding{"SHADOW_PART_STORAGE", binding::shadow_part_storage},
      NamedBinding{"MOVER_STORAGE", binding::mover_storage},
      NamedBinding{"SPRITE_STORAGE", binding::sprite_storage},
      NamedBinding{"OBJECTS_BEFORE_STORAGE", binding::objects_before_storage},
      NamedBinding{"CELL_STORAGE", binding::cell_storage},
      NamedBinding{"PARTICLE_STORAGE", binding::particle_storage},
      NamedBinding{"BIRTH_STORAGE", binding::birth_storage},
      NamedBinding{"GLYPH_STORAGE", binding::glyph_storage},
      NamedBinding{"TEXT_PLANE_STORAGE", binding::text_plane_storage},
      NamedBinding{"REACH_STORAGE", binding::reach_storage},
      NamedBinding{"FINITE_STORAGE", binding::finite_storage},
      NamedBinding{"HISTOGRAM_STORAGE", binding::histogram_storage},
      NamedBinding{"BOUNDS_STORAGE", binding::bounds_storage},
      NamedBinding{"ENTRY_STORAGE", binding::entry_storage},
      NamedBinding{"RANK_STORAGE", binding::rank_storage},
      NamedBinding{"TOTAL_STORAGE", binding::total_storage},
      NamedBinding{"SEEN_STORAGE", binding::seen_storage},
      NamedBinding{"NODE_LIST_STORAGE", binding::node_list_storage},
      NamedBinding{"PLAN_STORAGE", binding::plan_storage},
      NamedBinding{"COMMAND_STORAGE", binding::command_storage},
      NamedBinding{"RUN_STORAGE", binding::run_storage},
      NamedBinding{"DRAWN_STORAGE", binding::drawn_storage},
      NamedBinding{"SCATTERED_STORAGE", binding::scattered_storage},
      NamedBinding{"SENT_STORAGE", binding::sent_storage},
      NamedBinding{"SENT_NUMBER_STORAGE", binding::sent_number_storage},
      NamedBinding{"POSITION_ATTRIBUTE", binding::position_attribute},
      NamedBinding{"NORMAL_ATTRIBUTE", binding::normal_attribute},
      NamedBinding{"TANGENT_ATTRIBUTE", binding::tangent_attribute},
      NamedBinding{"UV_ATTRIBUTE", binding::uv_attribute},
      NamedBinding{"OBJECT_INDEX_ATTRIBUTE", binding::object_index_attribute},
  };
  return table;
}

}  // namespace periscena::gl
