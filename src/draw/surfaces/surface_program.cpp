#include "draw/surfaces/surface_program.h"

#include "draw/shaders.h"

#include <periscena/base/error.h>
#include <periscena/base/file.h>

#include <fmt/format.h>
#include <fmt/ranges.h>

namespace periscena::draw {

gl::ShaderText surface_text(const gl::ShaderText& source, const std::filesystem::path& folder,
                            const std::string& surface, const std::vector<std::string>& defines, TextureWay textures) {
  std::vector<std::string> lines;
  if (textures == TextureWay::handles)
    lines = {"#extension GL_ARB_bindless_texture : require", "#define TEXTURE_HANDLES"};
  for (const std::string& define : defines) lines.push_back(fmt::format("#define {}", define));
  if (surface.empty()) return source.with_lines(lines);
  lines.push_back("#define OWN_SURFACE");
  const std::string text = fmt::format("#include \"{}\"\n#include \"{}\"\n", source.source()->name,
                                       std::filesystem::absolute(folder / surface).string());
  const auto whole = gl::ShaderText::from_text(surface + " in a pass", text, source.library()).with_lines(lines);
  // A path from the folder came with a model, or may have.
  return std::filesystem::path(surface).is_absolute() ? whole : whole.confined_to(std::filesystem::absolute(folder));
}

gl::ShaderText surface_source(const std::filesystem::path& folder, const std::string& surface,
                              gl::ShaderLibrary library) {
  if (std::filesystem::path(surface).is_absolute()) return gl::ShaderText::file(surface, library);
  if (!path_within(folder, surface)) {
    throw Mistake("path-outside", Place::file(surface),
                  fmt::format("the surface \"{}\" of a material is not in \"{}\"", surface, folder.string()),
                  "name a file in that folder, or give an absolute path");
  }
  return gl::ShaderText::file(folder / surface, library).confined_to(folder);
}

SurfaceProgram::SurfaceProgram(const gl::ProgramDescription& description) : program(description), textures(program) {
  program.expect_block(CameraBlock::layout());
  program.expect_block(ObjectBlock::layout());
  program.expect_block(MaterialBlock::layout());
  for (std::size_t i = 0; i < map_count; ++i)
    map_units[i] = textures.unit(program, fmt::format("{}s", material_maps[i].name));
}

void SurfaceProgram::put_maps(const SceneBuffers& scene, const MaterialState& material) {
  const MaterialTextures& known = scene.materials().textures();
  for (std::size_t i = 0; i < map_count; ++i) {
    if (!map_units[i]) continue;
    put(*map_units[i], known.array(material.textures.arrays[i]).name(),
        known.sampler_at(material.textures.samplers[i]).name());
  }
}

SurfacePrograms::SurfacePrograms(const std::string& name, const gl::ShaderText& source,
                                 const std::filesystem::path& folder, const SceneBuffers& scene) {
  for (std::size_t i = 0; i <= scene.materials().surfaces().size(); ++i) {
    const std::string surface = i == 0 ? "" : scene.materials().surfaces()[i - 1];
    programs_.emplace_back(
        gl::ProgramDescription{name, gl::ShaderText::embedded("periscena/surface.vert", shaders()),
                               surface_text(source, folder, surface, {}, scene.materials().textures().way())});
  }
}

void SurfacePrograms::match_outputs(gl::PassSetup& setup) const {
  for (const SurfaceProgram& one : programs_) setup.match_outputs(one.program);
}

void SurfacePrograms::use(gl::PassContext& context, const SceneBuffers& scene, const MaterialState& material) {
  SurfaceProgram& surface = programs_[material.surface];
  context.state().use_program(surface.program.name());
  surface.put_maps(scene, material);
  surface.textures.bind(context.state());
}

}  // namespace periscena::draw
