#pragma once

#include <periscena/base/cases.h>
#include <periscena/math/vector.h>

#include <filesystem>
#include <string>
#include <string_view>
#include <variant>
#include <vector>

namespace periscena::window {

/// Keys by where they are on a US keyboard, whatever is printed on them. Text comes as Typed.
enum class Key {
  unknown,
  a,
  b,
  c,
  d,
  e,
  f,
  g,
  h,
  i,
  j,
  k,
  l,
  m,
  n,
  o,
  p,
  q,
  r,
  s,
  t,
  u,
  v,
  w,
  x,
  y,
  z,
  digit_0,
  digit_1,
  digit_2,
  digit_3,
  digit_4,
  digit_5,
  digit_6,
  digit_7,
  digit_8,
  digit_9,
  space,
  enter,
  tab,
  backspace,
  escape,
  insert,
  remove,
  home,
  end,
  page_up,
  page_down,
  left,
  right,
  up,
  down,
  minus,
  equal,
  left_bracket,
  right_bracket,
  backslash,
  semicolon,
  apostrophe,
  grave,
  comma,
  period,
  slash,
  f1,
  f2,
  f3,
  f4,
  f5,
  f6,
  f7,
  f8,
  f9,
  f10,
  f11,
  f12,
  left_shift,
  right_shift,
  left_control,
  right_control,
  left_alt,
  right_alt,
  left_super,
  right_super,
  menu,
  pad_0,
  pad_1,
  pad_2,
  pad_3,
  pad_4,
  pad_5,
  pad_6,
  pad_7,
  pad_8,
  pad_9,
  pad_decimal,
  pad_divide,
  pad_multiply,
  pad_subtract,
  pad_add,
  pad_enter,
};

/// Such as "page_up", for settings and messages.
std::string_view to_string(Key key);

enum class Button { left, right, middle, other };

struct Modifiers {
  bool shift = false, control = false, alt = false;
  bool operator==(const Modifiers&) const = default;
};

// What happens to a window. Positions are pixels of its framebuffer from the upper left, whatever the screen's scale.

struct KeyPressed {
  Key key;
  Modifiers with;
  bool repeated = false;  ///< held until the system repeats it
};
struct KeyReleased {
  Key key;
  Modifiers with;
};
struct Typed {
  std::string text;  ///< one character, UTF-8
};
struct PointerMoved {
  Vec2 position, by;
};
struct PointerLeft {};
struct ButtonPressed {
  Button button;
  Vec2 position;
  Modifiers with;
};
struct ButtonReleased {
  Button button;
  Vec2 position;
  Modifiers with;
};
struct Scrolled {
  Vec2 by;  ///< steps of the wheel; up and right are positive
  Vec2 position;
};
struct Resized {
  int width, height;  ///< pixels; 0 while it is minimised
};
struct FocusChanged {
  bool has_focus;
};
struct FilesDropped {
  std::vector<std::filesystem::path> files;
};
struct CloseRequested {};

using Event = std::variant<KeyPressed, KeyReleased, Typed, PointerMoved, PointerLeft, ButtonPressed, ButtonReleased,
                           Scrolled, Resized, FocusChanged, FilesDropped, CloseRequested>;

}  // namespace periscena::window
