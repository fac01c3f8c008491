#pragma once

#include "frame/curves.h"

#include <periscena/scene/scene.h>

#include <filesystem>
#include <memory>
#include <optional>
#include <string>
#include <vector>

namespace periscena {

/// Views, environments and fogs that one scene has from another: through what it is seen, and what is around it. They
/// follow those of the other.
class Borrowed {
 public:
  /// Puts those into `into` whose names are not there.
  Borrowed(std::shared_ptr<const Scene> from, std::shared_ptr<Scene> into);

  /// Takes over what has changed.
  void follow(double seconds) const;

 private:
  Camera camera_of(const View& view, double seconds) const;

  std::shared_ptr<const Scene> from_;
  std::shared_ptr<Scene> into_;
  std::vector<std::string> views_, environments_, fogs_;
};

/// Scenes of passes that draw another one than the frame's.
class OtherScenes {
 public:
  /// Read once for all passes that name it; null when it can't be read, which is told once.
  /// @param frame  whose views, environments and fogs it has, but for those of its own
  std::shared_ptr<const Scene> read(const Reference& name, const SceneSource& source,
                                    const std::shared_ptr<const Scene>& frame, Diagnostics& diagnostics);

  /// From now on they are in each frame as they are at its time.
  void follow_time(FrameGraph& graph, float aspect, Diagnostics& diagnostics);

 private:
  struct Other {
    std::string name;
    std::shared_ptr<Scene> scene;  ///< null where it can't be read
    std::filesystem::path folder;
    std::vector<TimedSection> timed;
    std::optional<Borrowed> borrowed;
  };

  std::vector<Other> all_;
};

}  // namespace periscena
