#pragma once

#include <periscena/gl/texture.h>
#include <periscena/image/image.h>

#include <span>

namespace periscena::draw {

/// Pictures as layers of one array, each in the upper left of its own: linear, multiplied with alpha. Half floats, so
/// that nothing dark gets lost, and edges have no fringe.
/// @param pictures  8-bit RGBA, sRGB, alpha not multiplied in
/// @param levels  smaller ones, too
gl::Texture upload_pictures(std::span<const Image* const> pictures, const std::string& label, bool levels = false);

}  // namespace periscena::draw
