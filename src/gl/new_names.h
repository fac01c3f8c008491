#pragma once

#include "gl/api.h"

#include <string_view>

namespace periscena::gl {

/// One call that makes a name.
template <class Create>
std::uint32_t one(Create create) {
  GLuint name = 0;
  create(1, &name);
  return name;
}

/// The driver says that it has no memory left only through the error flag.
/// @throws Error "out-of-memory"
void expect_memory(std::size_t bytes, std::string_view label);

}  // namespace periscena::gl
