#include <periscena/frame/frame_file.h>

#include "frame/curves.h"
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

Scene read_whole_scene(const SceneSource& source, const std::filesystem::path& path, std::vector<TimedSection>* timed) {
  if (is_model(path)) return read_model(path, &source.pictures).scene;
  const auto text = read_scene_text(path);
  Diagnostics diagnostics;
  Scene scene;
  if (std::optional<Value> root = parse_toml(text, diagnostics)) {
    report_unknown_keys(*root, "a scene file", scene_section_names(), diagnostics);
    Models models = read_models(
        *root, source.folder, [&](const auto& model) { return read_model(model, &source.pictures); }, scene,
        diagnostics);
    if (timed) *timed = take_curves(*root, {}, diagnostics);
    read_scene_sections(*root, source, models, scene, diagnostics);
  }
  if (diagnostics.has_errors()) throw Mistake(std::move(diagnostics));
  return scene;
}

Scene read_scene_file(const std::filesystem::path& path) {
  PictureReader pictures;
  return read_whole_scene({path.parent_path(), pictures}, path);
}

}  // namespace periscena
