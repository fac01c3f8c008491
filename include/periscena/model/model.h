#pragma once

#include <periscena/image/picture_reader.h>
#include <periscena/scene/scene.h>

#include <filesystem>
#include <span>
#include <string>
#include <string_view>

namespace periscena {

/// A scene that was read, and what of its file was left out.
struct Import {
  Scene scene;
  Diagnostics notes;  ///< warnings: extensions, skins and the like that are not supported
};

/// A kind of files that hold a scene.
struct ModelKind {
  std::string_view extension;  ///< ".gltf", in lower case
  std::string_view name;       ///< "glTF 2.0"
  Import (*read)(const std::filesystem::path& path, PictureReader* pictures);
  void (*write)(const Scene& scene, const std::filesystem::path& path) = nullptr;  ///< null: it is only read
};

/// All that there are.
std::span<const ModelKind> model_kinds();

/// Does the file's name say that it is a model? Capitals do not matter.
bool is_model(const std::filesystem::path& path);

/// Reads a model of the kind that its name says.
/// @param pictures  as of read_gltf
/// @throws Error "unknown-model" for a name that is of no kind; else what read_gltf and read_obj throw
Import read_model(const std::filesystem::path& path, PictureReader* pictures = nullptr);

/// Writes a scene as a file of the kind that its name says.
/// @throws Error "unknown-model" for a name that is of no kind that is written; else what write_glb throws
void write_model(const Scene& scene, const std::filesystem::path& path);

}  // namespace periscena
