#pragma once

#include <string>

namespace periscena {

/// $XDG_CACHE_HOME/periscena, or ~/.cache/periscena; empty when there is no home.
std::string default_cache();

}  // namespace periscena
