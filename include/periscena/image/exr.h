#pragma once

#include <periscena/image/image.h>

#include <string>

namespace periscena {

/// Writes floats as 32-bit float channels, and integers, bit by bit, as 32-bit unsigned ones, with the text attribute
/// "integers" = "signed" where they are signed. Compressed without loss; beside its target and then renamed.
/// @param channels  a name of one letter for each channel, such as "Z" for depth
/// @throws Error "unwritable-file"; Mistake "image-format" for 8-bit images
void write_exr(const Image& image, const std::filesystem::path& path, const std::string& channels = "RGBA");

/// Reads an OpenEXR file of 1 to 4 channels: those of R, G, B, A that it has, else its channels in the order of their
/// names. Half floats are widened; three channels come as four, with alpha 1.
/// @throws Error "unreadable-file" or "broken-image"
Image read_exr(const std::filesystem::path& path);

/// Reads a PNG or an OpenEXR file, told apart by their first bytes. @throws Error "unreadable-file" or "broken-image"
Image read_image(const std::filesystem::path& path);

}  // namespace periscena
