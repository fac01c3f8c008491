#pragma once

#include <periscena/image/image.h>

#include <cstdint>
#include <filesystem>
#include <optional>
#include <string>
#include <string_view>

namespace periscena {

/// Most pixels that a file may claim: 8192 x 8192 of 8 bits, 8192 x 4096 of floats; so that a short file can't ask for
/// all memory.
inline constexpr std::size_t most_byte_pixels = std::size_t{1} << 26, most_float_pixels = std::size_t{1} << 25;

/// Reads a PNG, a JPEG, a Radiance HDR or an OpenEXR file, told apart by their first bytes. PNG and JPEG come as
/// rgba8_srgb (16 bits are reduced to 8), HDR as rgba32f with alpha 1, OpenEXR as read_exr says.
/// @throws Error "unreadable-file" or "broken-image"
Image read_image(const std::filesystem::path& path);

/// Whether a file's pixels are decoded, or only its header is read, for an outline.
enum class Pixels { decoded, left_out };

/// The same from memory. @param name  for messages; @throws Error "broken-image"
Image decode_image(std::string_view bytes, const std::string& name, Pixels pixels = Pixels::decoded);

/// Is it a file of one of those kinds, by its first bytes?
bool is_image(std::string_view bytes);

/// Only a PNG, as rgba8_srgb. @throws as read_image
Image read_png(const std::filesystem::path& path);

/// An OpenEXR file of 1 to 4 channels: those of R, G, B, A that it has, else its channels in the order of their names.
/// Half floats are widened; three channels come as four, with alpha 1. @throws as read_image
Image read_exr(const std::filesystem::path& path);

/// Writes an 8-bit image (RGBA, or r8ui as grey) as PNG, beside its target and then renamed.
/// @throws Error "unwritable-file"; Mistake "image-format" when it is not 8 bit
void write_png(const Image& image, const std::filesystem::path& path);

/// The same file in memory.
std::string encode_png(const Image& image);

/// Writes floats as 32-bit float channels, and integers, bit by bit, as 32-bit unsigned ones, with the text attribute
/// "integers" = "signed" where they are signed. Compressed without loss; beside its target and then renamed.
/// @param channels  a name of one letter for each channel, such as "Z" for depth
/// @throws Error "unwritable-file"; Mistake "image-format" for 8-bit images
void write_exr(const Image& image, const std::filesystem::path& path, const std::string& channels = "RGBA");

/// The same file in memory.
std::string encode_exr(const Image& image, const std::string& channels = "RGBA");

/// Writes linear red, green and blue as Radiance HDR: 8 bits each and one exponent for the three, so to within 1/256 of
/// the largest of them. @throws Error "unwritable-file"; Mistake "image-format" unless it is rgba32f
void write_hdr(const Image& image, const std::filesystem::path& path);

}  // namespace periscena
