#pragma once

#include <periscena/base/diagnostic.h>

#include <nlohmann/json.hpp>

#include <string>

namespace periscena::inspect {

using Json = nlohmann::ordered_json;

/// Two spaces of indent, a line feed at the end. Text that is not UTF-8 (a driver's, a path's) must not stop a report.
std::string dump(const Json& json);

Json json_of(const Diagnostics& diagnostics);

}  // namespace periscena::inspect
