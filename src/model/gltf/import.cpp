#include "model/gltf/import.h"

#include <periscena/base/error.h>
#include <periscena/base/file.h>

#include <fmt/format.h>

#include <algorithm>
#include <array>

namespace periscena {
namespace gltf {

void Importer::warn(const std::string& slug, const std::string& message, const std::string& mend) {
  result_.notes.warning(slug, Place::file(document_.name()), message, mend);
}

void Importer::check_extensions() {
  constexpr std::array supported{"KHR_lights_punctual",    "KHR_materials_unlit",   "KHR_materials_emissive_strength",
                                 "KHR_materials_variants", "KHR_texture_transform", "KHR_mesh_quantization",
                                 "EXT_mesh_gpu_instancing"};
  const auto is_supported = [&](const std::string& name) {
    return std::find(supported.begin(), supported.end(), name) != supported.end();
  };
  for (const JsonReader& required : document_.root().items("extensionsRequired")) {
    if (is_supported(required.text())) continue;
    fail("unsupported-extension", Place::file(document_.name()),
         fmt::format("{} requires {}, which is not supported", document_.name(), required.text()),
         "export the file without it");
  }
  for (const JsonReader& used : document_.root().items("extensionsUsed")) {
    if (is_supported(used.text())) continue;
    warn("unsupported-extension", fmt::format("{} uses {}, which is not supported", document_.name(), used.text()),
         "what it says is left out");
  }
}

Import Importer::run() {
  check_extensions();
  try {
    add_materials();
    add_meshes();
    add_nodes();
    add_views();
    add_own_scene();
  } catch (const Mistake& mistake) {
    fail("broken-gltf", Place::file(document_.name()), mistake.diagnostics()[0].message, mistake.diagnostics()[0].mend);
  }
  return std::move(result_);
}

}  // namespace gltf

Import read_gltf(std::string file, const std::string& name, const std::filesystem::path& folder,
                 PictureReader* pictures) {
  return gltf::Importer(gltf::memory_source(std::move(file)), name, folder, pictures).run();
}

Import read_gltf(const std::filesystem::path& path, PictureReader* pictures) {
  return gltf::Importer(gltf::file_source(path), path.lexically_normal().string(), path.parent_path(), pictures).run();
}

}  // namespace periscena
