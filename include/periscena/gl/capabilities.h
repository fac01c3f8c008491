#pragma once

#include <periscena/graph/frame_graph.h>

#include <cstdint>
#include <string>
#include <vector>

namespace periscena::gl {

/// What a device says about one format.
struct FormatSupport {
  Format format;
  bool renderable = false;  ///< as an attachment
  bool filterable = false;  ///< with linear filtering
  bool blendable = false;
  std::vector<int> sample_counts;  ///< over 1, as attachments, ascending
};

/// A limit by its GL name.
struct Limit {
  std::string name;
  std::int64_t value;
};

/// A feature beyond OpenGL 4.5 core, or one whose quality differs.
struct Feature {
  std::string name;
  bool present;
  std::string path;  ///< what is done with it, or instead
};

/// Everything that was asked of a device, once, when it was opened.
struct Capabilities {
  std::string vendor, renderer, version, shading_language;
  int major = 0, minor = 0;
  std::vector<Limit> limits;
  std::vector<FormatSupport> formats;
  std::vector<Feature> features;
  bool indirect_count = false;   ///< can a draw read from a buffer how many commands it has?
  bool vertex_layers = false;    ///< can a vertex program choose the layer? (GL_ARB_shader_viewport_layer_array)
  bool texture_handles = false;  ///< can shaders find textures that are not bound? (GL_ARB_bindless_texture)
  std::size_t memory_bytes = 0;  ///< for textures, as the driver tells it; 0 when it does not

  /// @return 0 when it was not asked
  std::int64_t limit(std::string_view name) const;
  const FormatSupport& format(Format format) const;
  DeviceLimits device_limits() const;
};

}  // namespace periscena::gl
