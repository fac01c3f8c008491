#pragma once

#include <periscena/model/model.h>

namespace periscena {

/// Reads a Wavefront OBJ file with its materials (MTL): triangles and other polygons, lines, points; colours, roughness
/// and metallic as MTL files have them, Blinn's highlight where there are none; maps of colour, roughness, metallic,
/// normals and emission. Files that are no UTF-8 are read as Latin-1, with a note.
/// @param pictures  as of read_gltf
/// @throws Error "unreadable-file", "broken-obj"
Import read_obj(const std::filesystem::path& path, PictureReader* pictures = nullptr);

}  // namespace periscena
