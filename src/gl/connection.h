#pragma once

#include "gl/frame_targets.h"
#include "gl/operation.h"

namespace periscena::gl {

/// What ties a pass to the places where its targets lie: a framebuffer, the textures it reads, or a copy.
struct Connection {
  std::vector<std::uint64_t> signature;  ///< serials of all that it was made for
  Framebuffer framebuffer;
  std::uint32_t framebuffer_name = 0;
  std::vector<const Texture*> reads;
  OperationStep operation;
};

/// Connects one pass. Targets with history lie somewhere else in each frame, so there is a connection for each place
/// that they can be in: that of frame n is the one of index n modulo their number.
class Connector {
 public:
  Connector(FrameTargets& targets, SharedThings& shared, const FramePlan& plan, const PlannedPass& pass)
      : targets_(targets), shared_(shared), plan_(plan), pass_(pass) {}

  /// @param known  the pass' connections so far: what they were made for and is still there is used again
  std::vector<Connection> connect(std::vector<Connection> known);

 private:
  void begin(std::uint64_t frame);
  void add_read(const PlannedRead& read, std::uint64_t frame);
  void add_write(const PlannedWrite& write, std::uint64_t frame);
  void add_layers(OperationEnd& end, const PlannedTarget& target, std::uint32_t storage, int level, int layer);
  Connection finish(std::vector<Connection>& known);

  FrameTargets& targets_;
  SharedThings& shared_;
  const FramePlan& plan_;
  const PlannedPass& pass_;

  // Of the connection that is being made:
  Connection made_;
  std::vector<Attached> colors_;
  std::optional<Attached> depth_;
  std::optional<std::uint32_t> outside_;
  OperationEnd from_, to_;
};

}  // namespace periscena::gl
