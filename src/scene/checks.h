#pragma once

#include <string_view>

namespace periscena {

struct Place;

/// @param what  "light"
/// @throws Mistake "not-finite"
void expect_finite(bool finite, const char* what, std::string_view name, const Place& place);

}  // namespace periscena
