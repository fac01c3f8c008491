#pragma once

#include <periscena/scene/scene.h>

#include <filesystem>
#include <string>

namespace periscena {

/// A frame file around a model, as commented text to edit further: a view that fits it, or its own first one; its
/// own lights, or a sun; a shadow map of the strongest directional light; its own sky, or a generated one; a ground
/// that receives the shadow, where `[choice] ground` says "plane"; an exposure by what is seen; four samples a pixel.
/// read_frame_file() of a model reads this text.
/// @param scene  the model as it was read; without pixels will do
/// @param file  the model's path, as the frame file names it from its own folder
/// @param command  of the comment that says how to render it
std::string frame_around(const Scene& scene, const std::filesystem::path& file, const std::string& command);

/// Checks whether a model's size is plausible: warning "odd-size", with the transform that scales it, for one that is
/// over 1 km or under 1 cm across.
/// @param name  of the model, for the message
Diagnostics check_size(const Scene& scene, const std::string& name, Place place = Place::here());

}  // namespace periscena
