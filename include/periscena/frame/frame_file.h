#pragma once

#include <periscena/graph/frame_graph.h>
#include <periscena/image/picture_reader.h>
#include <periscena/scene/scene.h>

#include <filesystem>
#include <optional>
#include <string>
#include <vector>

namespace periscena {

namespace passes {
class PassKinds;
}

/// How much of what a frame names is read and made.
enum class Contents {
  whole,    ///< all, to draw it
  outlines  ///< what checks need: headers of pictures, coarse stand-ins for generated meshes; it can be planned, not
            ///< drawn
};

struct FrameFileOptions {
  std::optional<std::array<int, 2>> size = {};  ///< pixels, instead of the file's
  std::vector<std::string> overrides = {};      ///< "pass.NAME.KEY=VALUE" and the like, as --set takes them
  Contents contents = Contents::whole;
  const passes::PassKinds* kinds = nullptr;  ///< that its passes may be of; null: those of the library
};

/// A frame file that was read: the frame it describes, and what was wrong with it so far.
struct FrameFile {
  std::filesystem::path path;
  int width = 1280, height = 720;
  int history_steps = 60;    ///< frames to run before one that is asked for, when passes read earlier frames
  double history_rate = 60;  ///< frames a second
  FrameGraph graph;
  std::shared_ptr<Scene> scene;
  std::vector<PictureReader::LargeTexture> large_textures;  ///< that not every device can hold
  Diagnostics diagnostics;

  /// Checks the frame as a whole; its diagnostics come after those of reading, in the order of the file.
  PlanResult plan(const DeviceLimits& limits = {}) const;
};

/// Reads a frame file (TOML; docs/frame_file.md). Mistakes are collected, so that all of them can be told at once.
/// @throws Error "unreadable-file" when there is nothing to read
FrameFile read_frame_file(const std::filesystem::path& path, const FrameFileOptions& options = {});

/// Reads a scene file: the sections of a frame file that make a scene, alone; or a model, as read_gltf and read_obj do.
/// @throws Error "unreadable-file"; Mistake with everything that is wrong in it
Scene read_scene_file(const std::filesystem::path& path);

/// Every section and key of frame files, and every kind of pass, as Markdown; written from the tables that the reader
/// uses.
/// @param kinds  null: those of the library
std::string frame_file_reference(const passes::PassKinds* kinds = nullptr);

}  // namespace periscena
