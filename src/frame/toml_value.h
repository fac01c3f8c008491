#pragma once

#include <periscena/base/diagnostic.h>
#include <periscena/base/value.h>

#include <memory>
#include <optional>

namespace periscena {

/// Parses TOML 1.0 into values that know their places. @return nothing when it does not parse; the reason is in
/// diagnostics
std::optional<Value> parse_toml(const std::shared_ptr<const SourceText>& source, Diagnostics& diagnostics);

}  // namespace periscena
