#include "gl/capabilities.h"

#include "gl/api.h"
#include "gl/formats.h"

#include <periscena/gl/sampler.h>

#include <fmt/format.h>

#include <algorithm>

namespace periscena::gl {
namespace {

std::string text_of(GLenum name) {
  const auto* text = reinterpret_cast<const char*>(glGetString(name));
  return text ? text : "";
}

constexpr std::pair<const char*, GLenum> asked_limits[] = {
    {"MAX_TEXTURE_SIZE", GL_MAX_TEXTURE_SIZE},
    {"MAX_3D_TEXTURE_SIZE", GL_MAX_3D_TEXTURE_SIZE},
    {"MAX_CUBE_MAP_TEXTURE_SIZE", GL_MAX_CUBE_MAP_TEXTURE_SIZE},
    {"MAX_ARRAY_TEXTURE_LAYERS", GL_MAX_ARRAY_TEXTURE_LAYERS},
    {"MAX_RENDERBUFFER_SIZE", GL_MAX_RENDERBUFFER_SIZE},
    {"MAX_FRAMEBUFFER_WIDTH", GL_MAX_FRAMEBUFFER_WIDTH},
    {"MAX_FRAMEBUFFER_HEIGHT", GL_MAX_FRAMEBUFFER_HEIGHT},
    {"MAX_COLOR_ATTACHMENTS", GL_MAX_COLOR_ATTACHMENTS},
    {"MAX_DRAW_BUFFERS", GL_MAX_DRAW_BUFFERS},
    {"MAX_SAMPLES", GL_MAX_SAMPLES},
    {"MAX_COLOR_TEXTURE_SAMPLES", GL_MAX_COLOR_TEXTURE_SAMPLES},
    {"MAX_DEPTH_TEXTURE_SAMPLES", GL_MAX_DEPTH_TEXTURE_SAMPLES},
    {"MAX_INTEGER_SAMPLES", GL_MAX_INTEGER_SAMPLES},
    {"MAX_UNIFORM_BLOCK_SIZE", GL_MAX_UNIFORM_BLOCK_SIZE},
    {"UNIFORM_BUFFER_OFFSET_ALIGNMENT", GL_UNIFORM_BUFFER_OFFSET_ALIGNMENT},
    {"MAX_SHADER_STORAGE_BLOCK_SIZE", GL_MAX_SHADER_STORAGE_BLOCK_SIZE},
    {"MAX_VERTEX_SHADER_STORAGE_BLOCKS", GL_MAX_VERTEX_SHADER_STORAGE_BLOCKS},
    {"MAX_UNIFORM_BUFFER_BINDINGS", GL_MAX_UNIFORM_BUFFER_BINDINGS},
    {"MAX_COMBINED_TEXTURE_IMAGE_UNITS", GL_MAX_COMBINED_TEXTURE_IMAGE_UNITS},
    {"MAX_TEXTURE_IMAGE_UNITS", GL_MAX_TEXTURE_IMAGE_UNITS},
    {"MAX_TEXTURE_BUFFER_SIZE", GL_MAX_TEXTURE_BUFFER_SIZE},
    {"MAX_VERTEX_ATTRIBS", GL_MAX_VERTEX_ATTRIBS},
    {"MAX_VERTEX_OUTPUT_COMPONENTS", GL_MAX_VERTEX_OUTPUT_COMPONENTS},
    {"MAX_FRAGMENT_INPUT_COMPONENTS", GL_MAX_FRAGMENT_INPUT_COMPONENTS},
    {"MAX_COMPUTE_WORK_GROUP_INVOCATIONS", GL_MAX_COMPUTE_WORK_GROUP_INVOCATIONS},
};

FormatSupport ask_format(Format format) {
  FormatSupport support;
  support.format = format;
  const GLenum internal = gl_format(format).internal;
  const auto ask = [&](GLenum target, GLenum what) {
    GLint answer = 0;
    glGetInternalformativ(target, internal, what, 1, &answer);
    return answer;
  };
  support.renderable = ask(GL_TEXTURE_2D, GL_FRAMEBUFFER_RENDERABLE) != GL_NONE;
  support.filterable = ask(GL_TEXTURE_2D, GL_FILTER) != GL_NONE;
  support.blendable = ask(GL_TEXTURE_2D, GL_FRAMEBUFFER_BLEND) != GL_NONE;
  const GLint count = ask(GL_TEXTURE_2D_MULTISAMPLE, GL_NUM_SAMPLE_COUNTS);
  if (count > 0) {
    support.sample_counts.resize(static_cast<std::size_t>(count));
    glGetInternalformativ(GL_TEXTURE_2D_MULTISAMPLE, internal, GL_SAMPLES, count, support.sample_counts.data());
  }
  std::erase_if(support.sample_counts, [](int samples) { return samples <= 1; });
  std::sort(support.sample_counts.begin(), support.sample_counts.end());
  return support;
}

/// Drivers tell their memory through extensions alone; 0 when this one does not.
std::size_t ask_memory() {
  GLint kibibytes[4] = {};
  constexpr GLenum dedicated_video_memory = 0x9047, free_texture_memory = 0x87FC;
  if (epoxy_has_gl_extension("GL_NVX_gpu_memory_info")) {
    glGetIntegerv(dedicated_video_memory, kibibytes);
  } else if (epoxy_has_gl_extension("GL_ATI_meminfo")) {
    glGetIntegerv(free_texture_memory, kibibytes);
  }
  return static_cast<std::size_t>(std::max(0, kibibytes[0])) * 1024;
}

std::vector<Feature> ask_features(const Capabilities& asked) {
  std::vector<Feature> features;
  const auto add = [&](const char* name, bool present, const std::string& with, const std::string& without) {
    features.push_back({name, present, present ? with : without});
  };
  GLint timer_bits = 0;
  glGetQueryiv(GL_TIME_ELAPSED, GL_QUERY_COUNTER_BITS, &timer_bits);
  add("debug output", true, "driver messages go to the caller's callback", "");
  add("timer queries", timer_bits > 0, "passes can be timed on the device", "passes are timed by wall clock");
  const int anisotropy = static_cast<int>(anisotropy_limit());
  add("anisotropic filtering", anisotropy > 1, fmt::format("up to {} samples along slanted pixels", anisotropy),
      "none: between mip levels only (on llvmpipe on purpose: its filter takes minutes)");
  add("draw parameters in shaders", epoxy_has_gl_extension("GL_ARB_shader_draw_parameters"),
      "not needed: objects are found by an attribute per instance", "objects are found by an attribute per instance");
  add("layer from the vertex program", asked.vertex_layers,
      "cascades of shadow maps, and all views of a lamp, are drawn in one go",
      "shadow maps have no cascades, and lamps cast no shadows");
  // Mesa 22.3: beside such draws, triangles that cross the near plane get lost, in other passes, too.
  add("draw counts from a buffer", asked.indirect_count, "culling on the device says how many commands a draw has",
      "commands that culling leaves out draw nothing (on llvmpipe on purpose: it loses clipped triangles then)");
  add("bindless textures", asked.texture_handles,
      "maps of materials are found by handle where one texture array does not hold them all",
      "maps of one size and format are layers of one array; draws are sorted by the arrays that they take");
  return features;
}

}  // namespace

std::int64_t Capabilities::limit(std::string_view name) const {
  const auto found = std::find_if(limits.begin(), limits.end(), [&](const Limit& limit) { return limit.name == name; });
  return found == limits.end() ? 0 : found->value;
}

const FormatSupport& Capabilities::format(Format format) const {
  return formats[static_cast<std::size_t>(format)];
}

DeviceLimits Capabilities::device_limits() const {
  DeviceLimits asked;
  asked.largest_size = static_cast<int>(
      std::min({limit("MAX_TEXTURE_SIZE"), limit("MAX_FRAMEBUFFER_WIDTH"), limit("MAX_FRAMEBUFFER_HEIGHT")}));
  asked.color_attachments = static_cast<int>(std::min(limit("MAX_COLOR_ATTACHMENTS"), limit("MAX_DRAW_BUFFERS")));
  asked.layers = static_cast<int>(limit("MAX_ARRAY_TEXTURE_LAYERS"));
  if (memory_bytes > 0) asked.target_bytes = memory_bytes;
  for (const FormatSupport& format : formats) asked.sample_counts.push_back(format.sample_counts);
  asked.asked = true;
  return asked;
}

bool is_llvmpipe() {
  const auto* renderer = reinterpret_cast<const char*>(glGetString(GL_RENDERER));
  return renderer && std::string_view(renderer).find("llvmpipe") != std::string_view::npos;
}

Capabilities ask_capabilities(const DeviceOptions& options) {
  Capabilities found;
  found.vendor = text_of(GL_VENDOR);
  found.renderer = text_of(GL_RENDERER);
  found.version = text_of(GL_VERSION);
  found.shading_language = text_of(GL_SHADING_LANGUAGE_VERSION);
  GLint major = 0, minor = 0;
  glGetIntegerv(GL_MAJOR_VERSION, &major);
  glGetIntegerv(GL_MINOR_VERSION, &minor);
  found.major = major;
  found.minor = minor;
  for (const auto& [name, code] : asked_limits) {
    GLint64 value = 0;
    glGetInteger64v(code, &value);
    found.limits.push_back({name, value});
  }
  for (Limit& limit : found.limits) {
    if (options.most_block_bytes > 0 && limit.name == "MAX_SHADER_STORAGE_BLOCK_SIZE")
      limit.value = std::min(limit.value, static_cast<std::int64_t>(options.most_block_bytes));
  }
  for (const FormatInfo& known : all_formats()) found.formats.push_back(ask_format(known.format));
  found.indirect_count =
      epoxy_has_gl_extension("GL_ARB_indirect_parameters") && !(options.avoid_known_faults && is_llvmpipe());
  found.vertex_layers = epoxy_has_gl_extension("GL_ARB_shader_viewport_layer_array");
  found.texture_handles = epoxy_has_gl_extension("GL_ARB_bindless_texture");
  found.features = ask_features(found);
  found.memory_bytes = ask_memory();
  return found;
}

}  // namespace periscena::gl
