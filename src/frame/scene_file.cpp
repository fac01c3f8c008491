#include <periscena/frame/frame_file.h>

#include "frame/sections.h"
#include "frame/toml_value.h"

#include <periscena/base/file.h>

namespace periscena {

std::shared_ptr<const SourceText> read_scene_text(const std::filesystem::path& path) {
  const std::string extension = path.extension().string();
  if (extension != ".toml" && extension != ".TOML") {
    throw Mistake("unknown-model", Place::file(path.string()),
                  fmt::format("\"{}\" is no scene that can be read", path.filename().string()),
                  "give a scene file (.toml) or a model (.glb, .gltf, .obj)");
  }
  return read_text(path);
}

Scene read_whole_scene(const std::filesystem::path& path, PictureReader& pictures) {
  if (is_model(path)) return read_model(path, &pictures).scene;
  const auto source = read_scene_text(path);
  Diagnostics diagnostics;
  Scene scene;
  if (const std::optional<Value> root = parse_toml(source, diagnostics)) {
    report_unknown_keys(*root, "a scene file", scene_section_names(), diagnostics);
    Models models = read_models(
        *root, path.parent_path(), [&](const auto& model) { return read_model(model, &pictures); }, scene, diagnostics);
    read_scene_sections(*root, {path.parent_path(), pictures}, models, scene, diagnostics);
  }
  if (diagnostics.has_errors()) throw Mistake(std::move(diagnostics));
  return scene;
}

Scene read_scene_file(const std::filesystem::path& path) {
  PictureReader pictures;
  return read_whole_scene(path, pictures);
}

}  // namespace periscena
