#include "frame/sections.h"

namespace periscena {
namespace {

struct ModelKeys {
  Reference file;
};

const Keys<ModelKeys>& model_keys() {
  static const auto keys = [] {
    Keys<ModelKeys> k;
    k.key("file", &ModelKeys::file, {.required = true}, "A model (.glb, .gltf, .obj): a path from this file's folder");
    return k;
  }();
  return keys;
}

}  // namespace

Models read_models(const Value& root, const std::filesystem::path& folder,
                   const std::function<Import(const std::filesystem::path&)>& import, Scene& scene,
                   Diagnostics& diagnostics) {
  Models models;
  for (const ValueMember* section : named_tables(root, "model", diagnostics)) {
    const std::string what = fmt::format("model \"{}\"", section->name);
    ModelKeys given;
    model_keys().read(section->value, what, given, diagnostics);
    report_unknown_keys(section->value, what, model_keys().names(), diagnostics);
    Import read;
    if (!given.file.empty())
      collect_mistakes(given.file.place, diagnostics, [&] { read = import(path_beside(given.file, folder)); });
    diagnostics.append(read.notes, [&](Diagnostic& note) { note.place = given.file.place; });
    collect_mistakes(section->place, diagnostics,
                     [&] { models.try_emplace(section->name, scene, section->name, std::move(read.scene)); });
    // Objects that carry it should not be told off as well.
    models.try_emplace(section->name, scene, section->name, Scene());
  }
  return models;
}

SectionInfo model_section() {
  return {"[model.NAME]",
          "A model, for any number of objects to carry. Its meshes, textures and materials are there once; they are "
          "called \"NAME/theirs\", and so are its variants, environments and fogs.",
          model_keys().infos(),
          "[model.boat]\nfile = \"boat.glb\"\n\n[[object]]\nname      = \"left\"\nmodel     = "
          "\"boat\"\ntransform = [{ translate = [-2, 0, 0] }]\n"};
}

}  // namespace periscena
