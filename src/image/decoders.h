#pragma once

#include <periscena/image/files.h>

namespace periscena {

[[noreturn]] void broken_image(const std::string& name, std::string_view kind, const std::string& cause);

/// @throws Error "broken-image" for sides of 0 or more pixels than a file may claim
void expect_image_size(std::uint64_t width, std::uint64_t height, bool floats, const std::string& name,
                       std::string_view kind);

// Each throws Error "broken-image". @param name  for messages
Image decode_png(std::string_view bytes, const std::string& name, Pixels pixels = Pixels::decoded);
Image decode_jpeg(std::string_view bytes, const std::string& name, Pixels pixels = Pixels::decoded);
Image decode_hdr(std::string_view bytes, const std::string& name, Pixels pixels = Pixels::decoded);
Image decode_exr(std::string_view bytes, const std::string& name, Pixels pixels = Pixels::decoded);

}  // namespace periscena
