#pragma once

#include <periscena/base/diagnostic.h>
#include <periscena/gl/capabilities.h>
#include <periscena/gl/frame_runner.h>
#include <periscena/graph/frame_graph.h>

#include <string>

namespace periscena::inspect {

/// A JSON array of objects: severity, slug, message, mend, and where known file, line, column, length, text. Two spaces
/// of indent, ends with a line feed.
std::string to_json(const Diagnostics& diagnostics);

/// A plan as people read it: passes in order with what they read and write, targets with size, format, lifetime and
/// where they lie, bytes with and without sharing and the fewest there could be, and what was left out.
std::string to_text(const FramePlan& plan);
std::string to_json(const FramePlan& plan, const Diagnostics& warnings);

/// The same as a graph of passes and targets in the DOT language.
std::string to_dot(const FramePlan& plan);

/// The same as a chart: a column for each pass, a row for each target with a bar while it lives; bars of one colour lie
/// in one storage.
std::string to_svg(const FramePlan& plan);

/// A device as people read it: names, features and their paths, limits, formats.
std::string to_text(const gl::Capabilities& capabilities);
std::string to_json(const gl::Capabilities& capabilities);

/// What the last run cost, pass by pass and in sum: draw calls, commands in them, instances, triangles, objects that
/// were left out, state changes, bytes sent.
std::string counts_text(const gl::FrameRunner& runner);
std::string counts_json(const gl::FrameRunner& runner);

/// What the last run drew, pass by pass: each batch, and why it is not one with the batch before it.
std::string batches_text(const gl::FrameRunner& runner);
std::string batches_json(const gl::FrameRunner& runner);

/// "3.5 MiB".
std::string bytes_text(std::size_t bytes);

}  // namespace periscena::inspect
