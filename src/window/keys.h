#pragma once

#include <periscena/window/input.h>

namespace periscena::window {

/// In the codes of the library of windows.
Key key_of(int code);
int code_of(Key key);

}  // namespace periscena::window
