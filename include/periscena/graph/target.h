#pragma once

#include <periscena/base/handle.h>
#include <periscena/base/reference.h>
#include <periscena/image/format.h>

#include <array>
#include <string>
#include <string_view>
#include <vector>

namespace periscena {

using TargetHandle = Handle<struct TargetKind>;

/// Pixels, or a share of the frame that is rounded up and at least 1.
struct TargetSize {
  int width = 0, height = 0;  ///< pixels; 0 means a share of the frame
  float scale = 1;            ///< share of the frame's width and height, 0 < scale <= 16

  static TargetSize pixels(int width, int height) { return {width, height, 1}; }
  static TargetSize of_frame(float scale) { return {0, 0, scale}; }
  bool follows_frame() const { return width == 0 && height == 0; }
  bool operator==(const TargetSize&) const = default;
};

enum class TargetShape {
  flat,
  array,  ///< `layers` pictures of one size
  cube,   ///< six square faces, in the order +X, −X, +Y, −Y, +Z, −Z
};

/// What the numbers mean: how samples may be brought together, and how the target is shown to people.
enum class Holds {
  automatic,  ///< depth for depth formats, id for integers, else color
  color,      ///< light or colour
  data,       ///< numbers that may be averaged
  normal,     ///< directions
  depth,
  id,  ///< names of things
};

/// How the samples of a pixel become one value.
enum class ResolveRule {
  automatic,  ///< average for colour and data, first_sample for depth, normals and ids
  average,    ///< of the linear values; only for colour and data
  first_sample,
  least,  ///< of each channel
  greatest,
};

/// Who made what the target's contents lie in.
enum class Origin {
  ours,
  outside_texture,      ///< a texture that somebody else made; its contents are kept
  outside_framebuffer,  ///< a framebuffer, such as a window's: it can be drawn into, not sampled
};

/// What a target is: something that passes draw into and later passes may read.
struct TargetDescription {
  Format format = Format::rgba16f;
  TargetSize size = {};
  int samples = 0;  ///< per pixel; 0: as many as the other targets of the passes that write it, 1 when none says more
  int levels = 1;   ///< mip levels; 0 for the whole chain down to 1 x 1
  int layers = 1;   ///< of an array
  TargetShape shape = TargetShape::flat;
  Holds holds = Holds::automatic;
  ResolveRule resolve = ResolveRule::automatic;
  Origin origin = Origin::ours;
  std::array<float, 4> clear_color{0, 0, 0,
                                   0};  ///< linear; at the first write of a frame, and where there is no history
  float clear_depth = 0;                ///< 0..1; the far end is 0 in reversed depth, 1 in ordinary depth
  int clear_stencil = 0;                ///< 0..255

  Holds meaning() const;             ///< `holds`, never automatic
  ResolveRule resolve_rule() const;  ///< `resolve`, never automatic
};

/// A target, by the handle that target() gave or by its name.
struct TargetUse {
  TargetHandle handle;
  Reference reference;  ///< its place is shown when something is wrong with this use

  TargetUse() = default;
  TargetUse(TargetHandle target, Place place = Place::here());
  TargetUse(Reference name);
  TargetUse(const char* name, std::source_location location = std::source_location::current());

  bool empty() const { return !handle.valid() && reference.empty(); }
};

inline constexpr int all_levels = -1;
inline constexpr int upper_levels = -2;  ///< all but level 0
inline constexpr int all_layers = -1;

std::string_view to_string(TargetShape shape);
std::string_view to_string(Holds holds);
std::string_view to_string(ResolveRule rule);

/// For keys and messages, in the order of the enums.
const std::vector<std::string>& choices_of(Holds);
const std::vector<std::string>& choices_of(ResolveRule);

}  // namespace periscena
