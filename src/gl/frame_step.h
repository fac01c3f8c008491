#pragma once

#include "gl/api.h"
#include "gl/connection.h"

#include <periscena/gl/frame_runner.h>

#include <algorithm>
#include <memory>
#include <vector>

namespace periscena::gl {

/// The Frame block of frame.glsl.
struct FrameBlock {
  Vec2 resolution = Vec2::zero();
  Vec2 size = Vec2::zero();
  float time = 0;
  float padding[3] = {};
};

/// A pass as it was made.
struct FrameRunner::MadePass {
  std::shared_ptr<const Pass> declared;
  std::vector<std::shared_ptr<const Pass>> sources;  ///< that write what it reads: its work may have asked them
  std::uint64_t options_seen = 0;                    ///< version_of(declared) that its work follows
  std::unique_ptr<PassWork> work;

  /// What it was made from, with the counts of then.
  struct Watched {
    ChangeCount count;
    std::uint64_t made_at;
  };
  std::vector<Watched> watched;
  bool is_stale() const {
    return std::any_of(watched.begin(), watched.end(), [](const Watched& one) { return one.count() != one.made_at; });
  }

  std::vector<std::shared_ptr<const SourceText>> files;  ///< of GLSL that its programs were made of

  std::vector<int> output_order;  ///< by output location: the colour write it goes to
  std::vector<int> draw_buffers;  ///< by colour write: the output location that leads to it
};

/// A pass on the device.
struct FrameRunner::Step : MadePass {
  int width = 0, height = 0;
  std::vector<Connection> connections;
  std::uint32_t block = 0;                       ///< which frame block
  std::vector<GLenum> finished_attachments;      ///< to invalidate
  std::vector<std::uint32_t> finished_storages;  ///< textures that it only read
  bool finishes_source = false;                  ///< of an operation
  Counts counts;                                 ///< of the last run
  bool holds = false;                            ///< does what it wrote last count?
};

inline bool is_color(const PlannedWrite& write) {
  return is_color_slot(write.slot);
}

/// Does it rely on what it drew before? Its storage may be another one now.
inline bool stays(const PlannedPass& pass) {
  const auto& writes = pass.declared->writes;
  return std::any_of(writes.begin(), writes.end(),
                     [](const Write& write) { return write.covering == Covering::rests; });
}

}  // namespace periscena::gl
