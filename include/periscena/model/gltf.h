#pragma once

#include <periscena/model/model.h>

#include <string>

namespace periscena {

/// Reads a glTF 2.0 file, .gltf or .glb, with its external files, which must lie in its folder or below.
///
/// All primitive modes, index and vertex types, sparse and normalised accessors; two sets of texture coordinates;
/// missing normals are those of the faces, missing tangents are made where a normal map wants them (3.7.2.1). Materials
/// of metallic roughness with all their maps; KHR_lights_punctual, KHR_materials_unlit,
/// KHR_materials_emissive_strength, KHR_materials_variants, KHR_texture_transform, KHR_mesh_quantization,
/// EXT_mesh_gpu_instancing. Animations of translation, rotation and scale all run at once, from time 0. Cameras become
/// views. Vertices are not copied where they lie in the file as they are wanted.
///
/// @throws Error "unreadable-file"; "broken-gltf", which names the place in the file: `meshes[3].primitives[0]`;
/// "unsupported-extension" for one that the file requires; "path-outside" for files out of its folder; "broken-image"
/// @param pictures  reads the images, and keeps to its budget; null: one of its own. With outlines in place of pixels,
/// the scene can be checked but not drawn
Import read_gltf(const std::filesystem::path& path, PictureReader* pictures = nullptr);

/// The same from memory. @param name  for messages; @param folder  of external files
Import read_gltf(std::string file, const std::string& name, const std::filesystem::path& folder,
                 PictureReader* pictures = nullptr);

/// Writes a scene as one .glb: read back, it is equal. What glTF has no place for (tags, motions, ambient light, fog,
/// environments, textures of floats, what materials and variants have beyond it) lies in "extras" that other readers
/// pass over. GLSL of materials stays a file of its own, named by its path from the model's folder.
/// @throws Error "unwritable-file"; Mistake "path-outside" for materials whose GLSL has an absolute path
void write_glb(const Scene& scene, const std::filesystem::path& path);

/// The file in memory.
std::string encode_glb(const Scene& scene);

}  // namespace periscena
