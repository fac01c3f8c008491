#pragma once

#include <periscena/base/diagnostic.h>
#include <periscena/gl/frame_runner.h>
#include <periscena/image/statistics.h>

#include <filesystem>
#include <functional>
#include <optional>

namespace periscena::inspect {

/// One picture of a target as a pass left it: one level of one layer, depth or stencil apart, samples resolved by the
/// target's rule.
struct CapturedTarget {
  std::size_t pass = 0;  ///< index into the passes of the plan
  std::string pass_name;
  std::string target, slot;
  int level = 0, layer = 0;
  bool stencil = false;  ///< the stencil of a target that has one
  Format format = Format::rgba8;
  Holds holds = Holds::color;
  Shows shows = Shows::what_it_holds;
  int samples = 1;
  int levels = 1, layers = 1;    ///< of the target
  std::optional<Camera> camera;  ///< of the pass that draws the depth
  Image image;
};

/// Which moment is looked at.
struct Moment {
  double seconds = 0;
  int history_steps = 60;  ///< as FrameRunner::run_settled takes them
  double history_rate = 60;
};

using Visitor = std::function<void(const CapturedTarget&)>;

/// Runs the frame and shows every target of every pass right after the pass, in order. Each picture is only there
/// during its call, so that large frames fit in memory.
void visit_targets(gl::FrameRunner& runner, const Moment& moment, const Visitor& visitor);

/// What is known of a captured picture without looking at it.
struct CaptureEntry {
  std::string pass, target, slot;
  std::size_t pass_index = 0;
  int level = 0, layer = 0;
  bool stencil = false;
  std::string file;  ///< within the folder
  int width = 0, height = 0;
  std::string format;
  std::size_t bytes = 0;
  std::string hash;
};

struct CaptureIndex {
  std::filesystem::path folder;
  int width = 0, height = 0;
  double seconds = 0;
  std::vector<CaptureEntry> entries;  ///< in the order of the frame
};

/// Writes every target of every pass into a folder: 8-bit ones as PNG, all others as OpenEXR, and index.json with the
/// order of passes, formats, sizes and statistics (docs/command.md shows it). The folder appears when it is whole. One
/// that holds an earlier capture and nothing else is replaced, in one step: at any moment one of the two is there.
/// @throws Error "unwritable-file", also where the file system can't exchange folders; "folder-in-use" for a folder
/// with anything else in it
CaptureIndex write_capture(gl::FrameRunner& runner, const Moment& moment, const std::filesystem::path& folder);

/// @throws Error "unreadable-file", "broken-capture": no index, or one that is cut or not ours
CaptureIndex read_capture(const std::filesystem::path& folder);

/// @throws Error "broken-capture": the file is missing, cut short, or another than was written
Image read_captured(const CaptureIndex& capture, const CaptureEntry& entry);

}  // namespace periscena::inspect
