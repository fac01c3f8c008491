#pragma once

#include "gl/api.h"

#include <periscena/image/format.h>

#include <optional>

namespace periscena::gl {

/// A format in the API's words.
struct GlFormat {
  GLenum internal;   ///< sized
  GLenum read_as;    ///< for reading back: components
  GLenum read_type;  ///< for reading back: type
  Format read_into;  ///< the image that comes of it
};

const GlFormat& gl_format(Format format);

/// The format of that sized internal format, if it is one of ours.
std::optional<Format> format_of(GLenum internal);

}  // namespace periscena::gl
