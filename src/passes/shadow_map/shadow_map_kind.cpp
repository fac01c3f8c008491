// Shadow maps of frame files.
#include <periscena/passes/shadow_map.h>

#include "passes/shadow_map/caster_draws.h"
#include "passes/shared_keys.h"

namespace periscena::passes {
namespace {

Keys<ShadowMap> shadow_keys() {
  Keys<ShadowMap> keys;
  keys.key("light", &ShadowMap::light, {}, "A light: its map is all of the target")
      .key("lights", &ShadowMap::lights, {},
           "Instead of `light`: names or tags of spot and point lights, whose maps share the target in tiles");
  add_object_keys(keys, "Only objects that have one of these tags, or stand below one, cast; left out, all; [], none")
      .key("cascades", &ShadowMap::cascades, {.minimum = 0, .maximum = 4, .fixed = true},
           "Maps for parts of what the view sees, from near to far, in the layers of an array; 0: one map that holds "
           "all casters")
      .key("view", &ShadowMap::view, {},
           "With cascades: the view whose picture they share out; of lamps: the view in which those that are large get "
           "larger tiles")
      .key("reach", &ShadowMap::reach, {.unit = "metres", .minimum = 0, .above_minimum = true},
           "With cascades: how far from the view's eye there are shadows")
      .key("split_weight", &ShadowMap::split_weight, {.minimum = 0, .maximum = 1},
           "With cascades: 0 makes even parts, 1 parts that grow with distance")
      .key("near", &ShadowMap::near, {.unit = "metres", .minimum = 0, .above_minimum = true},
           "What is nearer to a spot or point light casts nothing: its own glass")
      .key("least_tile", &ShadowMap::least_tile, {.unit = "texels", .minimum = 1},
           "Spot and point lights have no smaller tiles; where there are more of them than tiles, those that matter "
           "least cast no shadows")
      .key("filter", &ShadowMap::filter, {},
           "How several texels are brought together. linear: the four nearest comparisons, blended; gaussian: all "
           "within the radius, by a bell; disc: sixteen places on a disc, turned from pixel to pixel; contact: a disc "
           "as wide as the light makes the edge there, hard where a shadow meets what casts it")
      .key("radius", &ShadowMap::radius, {.unit = "texels", .minimum = 0, .maximum = 64, .above_minimum = true},
           "How far the filter reaches: 1, 2, 3 or 4 for gaussian; for contact the most")
      .degrees("light_angle_degrees", &ShadowMap::light_angle, {.minimum = 0, .maximum = 45},
               "Of contact: how wide a directional light is seen")
      .key("light_radius", &ShadowMap::light_radius, {.unit = "metres", .minimum = 0},
           "Of contact: the radius of a spot or point light")
      .key("bias", &ShadowMap::bias, {.unit = "metres"},
           "A point is moved so far towards the light before it is looked up")
      .key("slope_bias", &ShadowMap::slope_bias, {.unit = "texels"},
           "And so far, times the tangent of the angle between its normal and the light")
      .key("normal_bias", &ShadowMap::normal_bias, {.unit = "texels"},
           "And so far along its normal; left out, just as far as it takes for planes not to shadow themselves")
      .key("faces", &ShadowMap::faces, {}, "Which sides of triangles cast")
      .key("batching", &ShadowMap::batching, {}, batching_sentence);
  return keys;
}

}  // namespace

const std::vector<std::string>& choices_of(CasterFaces) {
  static const std::vector<std::string> names{"both", "front", "back"};
  return names;
}

namespace {

const Kind<ShadowMap>& shadow_map_said() {
  static const Kind<ShadowMap> kind{
      .name = "shadow_map",
      .sentence =
          "Draws what lights see of the objects that cast shadows: of a directional light one map, or cascades; of "
          "spot lights their cone, of point lights six views to all sides, in tiles of the target's layers. What has "
          "not changed since the frame before is not drawn again. Passes of kind `forward` that name its target among "
          "their `shadows` keep the light from what lies behind. Masked materials keep their holes, blended ones cast "
          "nothing.",
      .example =
          "[target.\"sun.depth\"]\nformat = \"depth32f\"\nsize   = [2048, 2048]\n\n"
          "[[pass]]\nname         = \"sun shadow\"\nkind         = \"shadow_map\"\nlight        = \"sun\"\n"
          "without_tags = [\"water\"]\nwrites       = { depth = \"sun.depth\" }\n",
      .reads = {},
      .writes = {{{"depth", Need::required, "Reversed depth, as the light sees it; best square"},
                  &ShadowMap::depth,
                  {.covering = Covering::rests, .fit = TargetFit::largest}}},
      .keys = shadow_keys(),
      .finish = finish_shadow_map,
      .check = check_shadow_map,
      .name_checks = NameChecks::by_finish};
  return kind;
}

}  // namespace

Pass shadow_map(const ShadowMap& options, Place place) {
  return shadow_map_said().make(options, std::move(place));
}

Pass shadow_map(const Defaults& defaults, ShadowMap options, Place place) {
  return shadow_map_said().make(defaults, std::move(options), std::move(place));
}

PassKind shadow_map_kind() {
  return shadow_map_said().kind();
}

}  // namespace periscena::passes
