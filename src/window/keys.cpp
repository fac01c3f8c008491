#include "window/keys.h"

#define GLFW_INCLUDE_NONE
#include <GLFW/glfw3.h>

#include <algorithm>
#include <array>

namespace periscena::window {
namespace {

/// A key in our words and in the library's.
struct KnownKey {
  Key key;
  int code;
  const char* name;
};

constexpr std::array keys = std::to_array<KnownKey>({
    {Key::a, GLFW_KEY_A, "a"},
    {Key::b, GLFW_KEY_B, "b"},
    {Key::c, GLFW_KEY_C, "c"},
    {Key::d, GLFW_KEY_D, "d"},
    {Key::e, GLFW_KEY_E, "e"},
    {Key::f, GLFW_KEY_F, "f"},
    {Key::g, GLFW_KEY_G, "g"},
    {Key::h, GLFW_KEY_H, "h"},
    {Key::i, GLFW_KEY_I, "i"},
    {Key::j, GLFW_KEY_J, "j"},
    {Key::k, GLFW_KEY_K, "k"},
    {Key::l, GLFW_KEY_L, "l"},
    {Key::m, GLFW_KEY_M, "m"},
    {Key::n, GLFW_KEY_N, "n"},
    {Key::o, GLFW_KEY_O, "o"},
    {Key::p, GLFW_KEY_P, "p"},
    {Key::q, GLFW_KEY_Q, "q"},
    {Key::r, GLFW_KEY_R, "r"},
    {Key::s, GLFW_KEY_S, "s"},
    {Key::t, GLFW_KEY_T, "t"},
    {Key::u, GLFW_KEY_U, "u"},
    {Key::v, GLFW_KEY_V, "v"},
    {Key::w, GLFW_KEY_W, "w"},
    {Key::x, GLFW_KEY_X, "x"},
    {Key::y, GLFW_KEY_Y, "y"},
    {Key::z, GLFW_KEY_Z, "z"},
    {Key::digit_0, GLFW_KEY_0, "digit_0"},
    {Key::digit_1, GLFW_KEY_1, "digit_1"},
    {Key::digit_2, GLFW_KEY_2, "digit_2"},
    {Key::digit_3, GLFW_KEY_3, "digit_3"},
    {Key::digit_4, GLFW_KEY_4, "digit_4"},
    {Key::digit_5, GLFW_KEY_5, "digit_5"},
    {Key::digit_6, GLFW_KEY_6, "digit_6"},
    {Key::digit_7, GLFW_KEY_7, "digit_7"},
    {Key::digit_8, GLFW_KEY_8, "digit_8"},
    {Key::digit_9, GLFW_KEY_9, "digit_9"},
    {Key::space, GLFW_KEY_SPACE, "space"},
    {Key::enter, GLFW_KEY_ENTER, "enter"},
    {Key::tab, GLFW_KEY_TAB, "tab"},
    {Key::backspace, GLFW_KEY_BACKSPACE, "backspace"},
    {Key::escape, GLFW_KEY_ESCAPE, "escape"},
    {Key::insert, GLFW_KEY_INSERT, "insert"},
    {Key::remove, GLFW_KEY_DELETE, "remove"},
    {Key::home, GLFW_KEY_HOME, "home"},
    {Key::end, GLFW_KEY_END, "end"},
    {Key::page_up, GLFW_KEY_PAGE_UP, "page_up"},
    {Key::page_down, GLFW_KEY_PAGE_DOWN, "page_down"},
    {Key::left, GLFW_KEY_LEFT, "left"},
    {Key::right, GLFW_KEY_RIGHT, "right"},
    {Key::up, GLFW_KEY_UP, "up"},
    {Key::down, GLFW_KEY_DOWN, "down"},
    {Key::minus, GLFW_KEY_MINUS, "minus"},
    {Key::equal, GLFW_KEY_EQUAL, "equal"},
    {Key::left_bracket, GLFW_KEY_LEFT_BRACKET, "left_bracket"},
    {Key::right_bracket, GLFW_KEY_RIGHT_BRACKET, "right_bracket"},
    {Key::backslash, GLFW_KEY_BACKSLASH, "backslash"},
    {Key::semicolon, GLFW_KEY_SEMICOLON, "semicolon"},
    {Key::apostrophe, GLFW_KEY_APOSTROPHE, "apostrophe"},
    {Key::grave, GLFW_KEY_GRAVE_ACCENT, "grave"},
    {Key::comma, GLFW_KEY_COMMA, "comma"},
    {Key::period, GLFW_KEY_PERIOD, "period"},
    {Key::slash, GLFW_KEY_SLASH, "slash"},
    {Key::f1, GLFW_KEY_F1, "f1"},
    {Key::f2, GLFW_KEY_F2, "f2"},
    {Key::f3, GLFW_KEY_F3, "f3"},
    {Key::f4, GLFW_KEY_F4, "f4"},
    {Key::f5, GLFW_KEY_F5, "f5"},
    {Key::f6, GLFW_KEY_F6, "f6"},
    {Key::f7, GLFW_KEY_F7, "f7"},
    {Key::f8, GLFW_KEY_F8, "f8"},
    {Key::f9, GLFW_KEY_F9, "f9"},
    {Key::f10, GLFW_KEY_F10, "f10"},
    {Key::f11, GLFW_KEY_F11, "f11"},
    {Key::f12, GLFW_KEY_F12, "f12"},
    {Key::left_shift, GLFW_KEY_LEFT_SHIFT, "left_shift"},
    {Key::right_shift, GLFW_KEY_RIGHT_SHIFT, "right_shift"},
    {Key::left_control, GLFW_KEY_LEFT_CONTROL, "left_control"},
    {Key::right_control, GLFW_KEY_RIGHT_CONTROL, "right_control"},
    {Key::left_alt, GLFW_KEY_LEFT_ALT, "left_alt"},
    {Key::right_alt, GLFW_KEY_RIGHT_ALT, "right_alt"},
    {Key::left_super, GLFW_KEY_LEFT_SUPER, "left_super"},
    {Key::right_super, GLFW_KEY_RIGHT_SUPER, "right_super"},
    {Key::menu, GLFW_KEY_MENU, "menu"},
    {Key::pad_0, GLFW_KEY_KP_0, "pad_0"},
    {Key::pad_1, GLFW_KEY_KP_1, "pad_1"},
    {Key::pad_2, GLFW_KEY_KP_2, "pad_2"},
    {Key::pad_3, GLFW_KEY_KP_3, "pad_3"},
    {Key::pad_4, GLFW_KEY_KP_4, "pad_4"},
    {Key::pad_5, GLFW_KEY_KP_5, "pad_5"},
    {Key::pad_6, GLFW_KEY_KP_6, "pad_6"},
    {Key::pad_7, GLFW_KEY_KP_7, "pad_7"},
    {Key::pad_8, GLFW_KEY_KP_8, "pad_8"},
    {Key::pad_9, GLFW_KEY_KP_9, "pad_9"},
    {Key::pad_decimal, GLFW_KEY_KP_DECIMAL, "pad_decimal"},
    {Key::pad_divide, GLFW_KEY_KP_DIVIDE, "pad_divide"},
    {Key::pad_multiply, GLFW_KEY_KP_MULTIPLY, "pad_multiply"},
    {Key::pad_subtract, GLFW_KEY_KP_SUBTRACT, "pad_subtract"},
    {Key::pad_add, GLFW_KEY_KP_ADD, "pad_add"},
    {Key::pad_enter, GLFW_KEY_KP_ENTER, "pad_enter"},
});

}  // namespace

Key key_of(int code) {
  const auto found = std::find_if(keys.begin(), keys.end(), [code](const KnownKey& one) { return one.code == code; });
  return found == keys.end() ? Key::unknown : found->key;
}

int code_of(Key key) {
  const auto found = std::find_if(keys.begin(), keys.end(), [key](const KnownKey& one) { return one.key == key; });
  return found == keys.end() ? GLFW_KEY_UNKNOWN : found->code;
}

std::string_view to_string(Key key) {
  const auto found = std::find_if(keys.begin(), keys.end(), [key](const KnownKey& one) { return one.key == key; });
  return found == keys.end() ? "unknown" : found->name;
}

}  // namespace periscena::window
