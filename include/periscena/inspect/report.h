#pragma once

#include <periscena/base/diagnostic.h>
#include <periscena/gl/capabilities.h>
#include <periscena/graph/frame_graph.h>

#include <string>

namespace periscena::inspect {

/// A JSON array of objects: severity, slug, message, mend, and where known file, line, column, length, text. Two spaces
/// of indent, ends with a line feed.
std::string to_json(const Diagnostics& diagnostics);

/// A plan as people read it: passes in order with what they read and write, targets with size, format and bytes, and
/// what was left out.
std::string to_text(const FramePlan& plan);
std::string to_json(const FramePlan& plan, const Diagnostics& warnings);

/// A device as people read it: names, features and their paths, limits, formats.
std::string to_text(const gl::Capabilities& capabilities);
std::string to_json(const gl::Capabilities& capabilities);

/// "3.5 MiB".
std::string bytes_text(std::size_t bytes);

}  // namespace periscena::inspect
