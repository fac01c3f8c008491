#pragma once

#include <string_view>

namespace periscena {

/// Takes the next character off a text in UTF-8. Bytes that are none (cut short, overlong, surrogates) give U+FFFD, one
/// for each byte. @param text  not empty
char32_t take_character(std::string_view& text);

}  // namespace periscena
