#include "passes/shading/surface_program.h"

#include <fmt/format.h>
#include <fmt/ranges.h>

namespace periscena::passes {

gl::ShaderText surface_text(const char* source, const std::filesystem::path& folder, const std::string& surface,
                            const std::vector<const char*>& defines) {
  if (surface.empty() && defines.empty()) return gl::ShaderText::embedded(source, pass_shaders());
  std::string text;
  for (const char* define : defines) text += fmt::format("#define {}\n", define);
  if (!surface.empty()) text += "#define OWN_SURFACE\n";
  text += fmt::format("#include \"{}\"\n", source);
  if (!surface.empty()) text += fmt::format("#include \"{}\"\n", std::filesystem::absolute(folder / surface).string());
  const std::string name =
      surface.empty() ? fmt::format("{} with {}", source, fmt::join(defines, ", ")) : surface + " in a pass";
  return gl::ShaderText::from_text(name, text, pass_shaders());
}

SurfaceProgram::SurfaceProgram(const gl::ProgramDescription& description) : program(description), textures(program) {
  program.expect_block(CameraBlock::layout());
  program.expect_block(ObjectBlock::layout());
  for (std::size_t i = 0; i < map_count; ++i)
    map_units[i] = textures.unit(program, fmt::format("{}s", material_maps[i].name));
}

void SurfaceProgram::put_maps(const SceneBuffers& scene, const MaterialState& material) {
  const MaterialTextures& known = scene.textures();
  for (std::size_t i = 0; i < map_count; ++i) {
    if (!map_units[i]) continue;
    put(*map_units[i], known.array(material.arrays[i]).name(), known.sampler_at(material.samplers[i]).name());
  }
}

}  // namespace periscena::passes
