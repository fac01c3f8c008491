#pragma once

#include <periscena/base/diagnostic.h>
#include <periscena/base/value.h>

#include <memory>
#include <optional>

namespace periscena {

/// Lists, tables and parts of dotted keys that may lie within each other.
inline constexpr std::size_t deepest_value = 100;

/// Parses TOML 1.0 into values that know their places. A text that nests deeper than deepest_value is refused. @return
/// nothing when it does not parse; the reason is in diagnostics
std::optional<Value> parse_toml(const std::shared_ptr<const SourceText>& source, Diagnostics& diagnostics);

}  // namespace periscena
