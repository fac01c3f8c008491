#pragma once

#include <periscena/frame/frame_file.h>
#include <periscena/inspect/shadows.h>

#include <filesystem>
#include <optional>

namespace periscena::inspect {

/// A key of a frame file, and the values that it is tried with.
struct VariedKey {
  std::string key;                  ///< "pass.sun shadow.radius"
  std::vector<std::string> values;  ///< as --set takes them

  /// @param text  "KEY=VALUE,VALUE,…"; commas within brackets and quotes belong to a value
  /// @throws Mistake "bad-override"
  static VariedKey parse(const std::string& text);
};

/// How one measure of a frame is called, told and compared.
struct Measure {
  const char* name;  ///< "leaks"
  const char* unit;  ///< that it is shown in: "%"; empty for none
  int digits;        ///< behind the point
  double scale;      ///< that it is shown times
};

/// One setting of all keys, and what came of it. Measures that there is nothing to say of are NaN.
struct Variation {
  std::vector<std::string> values;  ///< by key
  Image picture;                    ///< output
  /// By measure(): of all shadows that were measured, the worst.
  std::vector<double> measures;
  std::vector<MeasuredShadows> shadows;

  double measure(std::string_view name) const;
};

struct VariationOptions {
  std::vector<VariedKey> keys;
  std::optional<std::array<int, 2>> size = {};  ///< pixels, instead of the file's
  double seconds = 0;
  int rounds = 5;                       ///< frames that the time is the median of, >= 1
  std::optional<Image> reference = {};  ///< what pictures are compared with
  /// Instead: what pictures are compared with are those of the same setting with these keys besides, each "KEY=VALUE".
  std::vector<std::string> reference_overrides = {};
  int moving = 0;       ///< >= 0: how many frames after the first are measured, too, at the frame's history_rate
  std::string by = {};  ///< the measure that decides, the least wins; empty: the usual rule
  ShadowMeasuring shadows = {};  ///< its seconds are those above
};

struct Variations {
  std::vector<VariedKey> keys;
  std::vector<Variation> all;  ///< the last key's values change first
  std::size_t best = 0;
  std::string rule;  ///< by which it is the best, for people
};

/// time (milliseconds for a frame in which everything is drawn anew), memory (bytes of targets), leaks, stripes
/// (shares), detachment (texels), jaggedness, rmse (against the reference), edges (see edge_difference), flicker (see
/// flicker). Of several frames, rmse and edges are means.
std::span<const Measure> measures();

/// Renders a frame with each combination of values, and measures it.
///
/// The usual rule, with shadows: of settings whose leaks stay below 0.5 %, stripes below 0.1 % and detachment below 1.5
/// texels, the least jaggedness wins; of those within a tenth of it, the one that takes the least memory, then the
/// least time. If none stays below them, the fewest leaks and stripes. Without shadows the least rmse wins, or, without
/// a reference, the least time.
///
/// @param tell  called with each setting when it is done
/// @throws as read_frame_file and FrameGraph::plan; Mistake "too-many-variations" (over 64), "unknown-measure",
/// "no-output", "size-mismatch" when the reference has another size, "two-references", "still-reference" (one picture
/// for moving frames), "no-reference" (none for them)
Variations vary(gl::Device& device, const std::filesystem::path& file, const VariationOptions& options,
                const std::function<void(const Variation&)>& tell = {});

/// The same of frames beside each other: a key "frame", whose values are the files.
/// @param options  its keys and size are not asked; rmse is against the first frame's picture, if there is no reference
Variations vary_frames(gl::Device& device, std::span<const FrameFile> files, const VariationOptions& options);

std::string to_text(const Variations& variations);
std::string to_json(const Variations& variations);

struct VariationPictureOptions {
  int width = 1280;     ///< pixels, 320..16384
  PixelRect part = {};  ///< of the pictures that is shown, from their upper left; all if left out
};

/// All pictures side by side, each with its values and measures, the best one framed.
/// @throws Mistake "bad-size"
Image make_picture(const Variations& variations, const VariationPictureOptions& options = {});

}  // namespace periscena::inspect
