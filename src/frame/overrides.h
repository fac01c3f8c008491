#pragma once

#include <periscena/base/diagnostic.h>
#include <periscena/base/value.h>

#include <string>

namespace periscena {

/// Sets one key of a frame file's values, as `--set SECTION.NAME.KEY=VALUE` says: VALUE is TOML, or a bare word for a
/// text.
void apply_override(const std::string& text, Value& root, Diagnostics& diagnostics);

}  // namespace periscena
