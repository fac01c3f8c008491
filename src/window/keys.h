#pragma once

#include <periscena/window/input.h>

#include <span>

namespace periscena::window {

/// A key in our words and in the library's.
struct KnownKey {
  Key key;
  int code;
  const char* name;
};
std::span<const KnownKey> known_keys();

Key key_of(int code);
int code_of(Key key);

}  // namespace periscena::window
