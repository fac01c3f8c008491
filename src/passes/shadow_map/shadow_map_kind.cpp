// Shadow maps of frame files.
#include "passes/shadow_map/shadow_map.h"

#include <fmt/format.h>

#include <algorithm>

namespace periscena::passes {
namespace {

const std::vector<std::string> filter_names{"linear", "gaussian", "disc", "contact"}, face_names{"both", "front", "back"};

template <class Enum>
Enum chosen_of(const std::vector<std::string>& names, const std::string& name) {
  return static_cast<Enum>(std::find(names.begin(), names.end(), name) - names.begin());
}

/// The keys of a frame file.
struct ShadowKeys {
  Reference light, variant, view;
  std::vector<Reference> lights, tags, without_tags;
  std::string batching = "automatic", filter = "gaussian", faces = "both";
  int cascades = 0, least_tile = 64;
  float reach = 60, split_weight = 0.7f, radius = 1, near = 0.05f;
  float light_degrees = 0.53f, light_radius = 0.05f;
  float bias = 0, slope_bias = 0;
  std::optional<float> normal_bias;
};

Keys<ShadowKeys> shadow_keys() {
  Keys<ShadowKeys> keys;
  keys.key("light", &ShadowKeys::light, {}, "A light: its map is all of the target")
      .key("lights", &ShadowKeys::lights, {},
           "Instead of `light`: names or tags of spot and point lights, whose maps share the target in tiles")
      .key("tags", &ShadowKeys::tags, {},
           "Only objects that have one of these tags, or stand below one, cast; left out, all")
      .key("without_tags", &ShadowKeys::without_tags, {}, "But not those that have one of these, or stand below one")
      .key("variant", &ShadowKeys::variant, {}, "The scene in another dress")
      .key("cascades", &ShadowKeys::cascades, {.minimum = 0, .maximum = 4},
           "Maps for parts of what the view sees, from near to far, in the layers of an array; 0: one map that holds all "
           "casters")
      .key("view", &ShadowKeys::view, {},
           "With cascades: the view whose picture they share out; of lamps: the view in which those that are large get "
           "larger tiles")
      .key("reach", &ShadowKeys::reach, {.unit = "metres", .minimum = 0, .above_minimum = true},
           "With cascades: how far from the view's eye there are shadows")
      .key("split_weight", &ShadowKeys::split_weight, {.minimum = 0, .maximum = 1},
           "With cascades: 0 makes even parts, 1 parts that grow with distance")
      .key("near", &ShadowKeys::near, {.unit = "metres", .minimum = 0, .above_minimum = true},
           "What is nearer to a spot or point light casts nothing: its own glass")
      .key("least_tile", &ShadowKeys::least_tile, {.unit = "texels", .minimum = 1},
           "Spot and point lights have no smaller tiles; where there are more of them than tiles, those that matter least "
           "cast no shadows")
      .key("filter", &ShadowKeys::filter, {.choices = filter_names},
           "How several texels are brought together. linear: the four nearest comparisons, blended; gaussian: all within "
           "the radius, by a bell; disc: sixteen places on a disc, turned from pixel to pixel; contact: a disc as wide as the light makes the edge there, hard "
           "where a shadow meets what casts it")
      .key("radius", &ShadowKeys::radius, {.unit = "texels", .minimum = 0, .maximum = 64, .above_minimum = true},
           "How far the filter reaches: 1, 2, 3 or 4 for gaussian; for contact the most")
      .key("light_degrees", &ShadowKeys::light_degrees, {.unit = "degrees", .minimum = 0, .maximum = 45},
           "Of contact: how wide a directional light is seen")
      .key("light_radius", &ShadowKeys::light_radius, {.unit = "metres", .minimum = 0},
           "Of contact: the radius of a spot or point light")
      .key("bias", &ShadowKeys::bias, {.unit = "metres"}, "A point is moved so far towards the light before it is looked up")
      .key("slope_bias", &ShadowKeys::slope_bias, {.unit = "texels"},
           "And so far, times the tangent of the angle between its normal and the light")
      .key("normal_bias", &ShadowKeys::normal_bias, {.unit = "texels"},
           "And so far along its normal; left out, just as far as it takes for planes not to shadow themselves")
      .key("faces", &ShadowKeys::faces, {.choices = face_names}, "Which sides of triangles cast")
      .key("batching", &ShadowKeys::batching, {.choices = batch::batching_names()}, batching_sentence);
  return keys;
}

}  // namespace

PassKind shadow_map_kind() {
  static const Keys<ShadowKeys> keys = shadow_keys();
  PassKind kind;
  kind.name = "shadow_map";
  kind.sentence =
      "Draws what lights see of the objects that cast shadows: of a directional light one map, or cascades; of spot lights "
      "their cone, of point lights six views to all sides, in tiles of the target's layers. What has not changed since the "
      "frame before is not drawn again. Passes of kind `forward` that name its "
      "target among their `shadows` keep the light from what lies behind. Masked materials keep their holes, blended "
      "ones cast nothing.";
  kind.example =
      "[target.\"sun.depth\"]\nformat = \"depth32f\"\nsize   = [2048, 2048]\n\n"
      "[[pass]]\nname         = \"sun shadow\"\nkind         = \"shadow_map\"\nlight        = \"sun\"\n"
      "without_tags = [\"water\"]\nwrites       = { depth = \"sun.depth\" }\n";
  kind.writes = {{"depth", true, "Reversed depth, as the light sees it; best square"}};
  kind.keys = keys.infos();
  kind.make = [](const PassSource& source) {
    ShadowKeys given;
    Diagnostics problems;
    keys.read(*source.table, fmt::format("pass \"{}\"", source.name.name), given, problems);
    ShadowMap options;
    options.name = source.name.name;
    options.scene = source.scene;
    options.light = given.light;
    options.lights = given.lights;
    options.near = given.near;
    options.least_tile = given.least_tile;
    options.tags = given.tags;
    options.without_tags = given.without_tags;
    options.variant = given.variant;
    options.batching = batch::parse_batching(given.batching);
    options.cascades = given.cascades;
    options.view = given.view;
    options.reach = given.reach;
    options.split_weight = given.split_weight;
    options.filter = chosen_of<ShadowFilter>(filter_names, given.filter);
    options.radius = given.radius;
    options.light_angle = radians(given.light_degrees);
    options.light_radius = given.light_radius;
    options.bias = given.bias;
    options.slope_bias = given.slope_bias;
    options.normal_bias = given.normal_bias;
    options.faces = chosen_of<CasterFaces>(face_names, given.faces);
    options.folder = source.folder;
    if (const TargetUse* depth = find_write(source, "depth")) options.depth = *depth;
    Pass pass = shadow_map(options, source.name.place);
    pass.problems.append(problems);
    return pass;
  };
  return kind;
}

}  // namespace periscena::passes
