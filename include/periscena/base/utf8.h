#pragma once

#include <string>
#include <string_view>

namespace periscena {

/// Takes the next character off a text in UTF-8. Bytes that are none (cut short, overlong, surrogates) give U+FFFD, one
/// for each byte. @param text  not empty
char32_t take_character(std::string_view& text);

/// Writes a character behind a text in UTF-8. @param code  up to U+10FFFF
void append_character(char32_t code, std::string& text);

/// A text from outside as a terminal may show it: control characters become their pictures (U+2400 …), bytes that are
/// no UTF-8 and characters that turn the direction of writing become U+FFFD. One character stays one character.
std::string printable(std::string_view text);

/// The same for text of several lines: line feeds stay.
std::string printable_lines(std::string_view text);

/// JSON as a terminal may show it: characters that JSON allows in texts and printable_lines would replace become
/// \uXXXX, which means the same.
std::string printable_json(std::string_view json);

}  // namespace periscena
