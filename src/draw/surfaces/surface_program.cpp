#include "draw/surfaces/surface_program.h"

#include "draw/shaders.h"

#include <periscena/base/error.h>
#include <periscena/base/file.h>

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>

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

SurfaceProgram::SurfaceProgram(gl::Device& device, const gl::ProgramDescription& description)
    : program(device, description), textures(program) {
  program.expect_block(CameraBlock::layout());
  for (const gl::BlockLayout& layout : {ObjectBlock::layout(), MaterialBlock::layout()}) {
    if (program.interface().find_block(layout.name)) program.expect_block(layout);
  }
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

SurfaceTexts::SurfaceTexts(const SceneBuffers& scene, const gl::Device& device, std::filesystem::path folder)
    : materials_(scene.materials()), texel_lines_(scene.texel_lines()), folder_(std::move(folder)) {
  const gl::Capabilities& can = device.capabilities();
  const auto components =
      std::min(can.limit("MAX_VERTEX_OUTPUT_COMPONENTS"), can.limit("MAX_FRAGMENT_INPUT_COMPONENTS"));
  outputs_ = static_cast<int>(components / 4) - 1;  // some count the position among them
}

gl::ProgramDescription SurfaceTexts::of(const SurfaceKind& kind, const std::string& name, const gl::ShaderText& vertex,
                                        const gl::ShaderText& fragment, std::vector<std::string> defines) const {
  const TextureWay way = materials_.textures().way();
  const std::vector<std::string> family = kind.family.defines(way, outputs_);
  std::vector<std::string> vertex_lines = texel_lines_;
  for (const std::string& define : family) vertex_lines.push_back("#define " + define);
  defines.insert(defines.end(), family.begin(), family.end());
  const std::string surface = kind.surface == 0 ? "" : materials_.surfaces()[kind.surface - 1];
  return {surface.empty() ? name : fmt::format("{}, {}", name, surface), vertex.with_lines(vertex_lines),
          surface_text(fragment, folder_, surface, defines, way)};
}

SurfacePrograms::SurfacePrograms(const std::string& name, const gl::ShaderText& source,
                                 const std::filesystem::path& folder, const SurfaceDraws& draws, gl::Device& device)
    : kinds_(draws.kinds(batch::Programs::automatic)) {
  const SurfaceTexts texts(*draws.buffers(), device, folder);
  std::vector<gl::ProgramDescription> descriptions;
  for (const SurfaceKind& kind : kinds_.kinds)
    descriptions.push_back(texts.of(kind, name, gl::ShaderText::embedded("periscena/surface.vert", shaders()), source));
  device.programs().prepare(descriptions);
  for (const gl::ProgramDescription& description : descriptions) {
    SurfaceProgram& made = programs_.emplace_back(device, description);
    draws.put_texels(made.program, made.textures);
  }
}

void SurfacePrograms::match_outputs(gl::PassSetup& setup) const {
  for (const SurfaceProgram& one : programs_) setup.match_outputs(one.program);
}

void SurfacePrograms::use(gl::PassContext& context, const SceneBuffers& scene, std::uint32_t state) {
  SurfaceProgram& surface = programs_[kinds_.of_state[state]];
  surface.program.use(context.state());
  surface.put_maps(scene, scene.materials().states()[state]);
  surface.textures.bind(context.state());
}

}  // namespace periscena::draw
