#include "scene/scene_keys.h"

#include <periscena/base/cases.h>

#include <cmath>
#include <numbers>

namespace periscena {
namespace {

double exact_degrees(float radians) {
  return static_cast<double>(radians) * 180 / std::numbers::pi;
}

float exact_radians(double degrees) {
  return static_cast<float>(degrees * std::numbers::pi / 180);
}

}  // namespace

const Keys<LightKeys>& light_keys() {
  static const auto keys = [] {
    Keys<LightKeys> k;
    k.key("kind", &LightKeys::kind, {.choices = {"directional", "point", "spot", "ambient"}, .required = true},
          "Where the light comes from")
        .key("color", &LightKeys::color, {.minimum = 0}, "Red, green, blue, linear; not of ambient lights")
        .key("illuminance_lux", &LightKeys::illuminance_lux, {.unit = "lux", .minimum = 0},
             "Of a directional light: on a surface that faces it")
        .key("intensity_candela", &LightKeys::intensity_candela, {.unit = "candela", .minimum = 0},
             "Of a point or spot light: lux at 1 m")
        .key("position", &LightKeys::position, {.unit = "metres"}, "Of a point or spot light")
        .key("direction", &LightKeys::direction, {},
             "Of a directional or spot light: where it shines; any length but 0")
        .key("range", &LightKeys::range, {.unit = "metres", .minimum = 0, .above_minimum = true},
             "Of a point or spot light: nothing is lit from here on; left out, it reaches everywhere")
        .key("inner_cone_degrees", &LightKeys::inner_cone_degrees, {.unit = "degrees", .minimum = 0, .maximum = 90},
             "Of a spot light: full light up to this angle from its axis")
        .key("outer_cone_degrees", &LightKeys::outer_cone_degrees, {.unit = "degrees", .minimum = 0, .maximum = 90},
             "Of a spot light: none from this angle on")
        .key("object", &LightKeys::object, {},
             "An object that it follows: position and direction are in its coordinates")
        .key("tags", &LightKeys::tags, {}, "Words of yours for passes to choose by; not of ambient lights")
        .key("sky_nits", &LightKeys::sky_nits, {.unit = "nits", .minimum = 0},
             "Of an ambient light: red, green, blue from above, linear")
        .key("ground_nits", &LightKeys::ground_nits, {.unit = "nits", .minimum = 0}, "Of an ambient light: from below");
    return k;
  }();
  return keys;
}

LightKeys LightKeys::of(const Light& light) {
  LightKeys keys;
  keys.color = light.color;
  keys.tags = light.tags;
  if (std::isfinite(light.range())) keys.range = light.range();
  std::visit(Cases{[&](const DirectionalLight& one) {
                     keys.kind = "directional";
                     keys.illuminance_lux = one.illuminance;
                     keys.direction = one.direction;
                   },
                   [&](const PointLight& one) {
                     keys.kind = "point";
                     keys.intensity_candela = one.intensity;
                     keys.position = one.position;
                   },
                   [&](const SpotLight& one) {
                     keys.kind = "spot";
                     keys.intensity_candela = one.intensity;
                     keys.position = one.position;
                     keys.direction = one.direction;
                     keys.inner_cone_degrees = degrees(one.inner_cone);
                     keys.outer_cone_degrees = degrees(one.outer_cone);
                   }},
             light.kind);
  return keys;
}

LightKeys LightKeys::of(const AmbientLight& light) {
  LightKeys keys;
  keys.kind = "ambient";
  keys.sky_nits = light.sky;
  keys.ground_nits = light.ground;
  return keys;
}

Light LightKeys::light() const {
  Light light;
  const float reach = range.value_or(std::numeric_limits<float>::infinity());
  if (kind == "point")
    light.kind = PointLight{intensity_candela, position, reach};
  else if (kind == "spot")
    light.kind = SpotLight{intensity_candela,          position, direction, reach, radians(inner_cone_degrees),
                           radians(outer_cone_degrees)};
  else
    light.kind = DirectionalLight{illuminance_lux, direction};
  light.color = color;
  light.tags = tags;
  return light;
}

const Keys<Fog>& fog_keys() {
  static const auto keys = [] {
    Keys<Fog> k;
    k.key("kind", &Fog::kind, {},
          "How much light gets through: falling evenly from start to end, e^(-density distance), or "
          "e^(-(density distance)^2)")
        .key("color_nits", &Fog::color, {.unit = "nits", .minimum = 0},
             "What is seen where nothing gets through: red, green, blue, linear")
        .key("start", &Fog::start, {.unit = "metres", .minimum = 0}, "Of linear: nearer there is none")
        .key("end", &Fog::end, {.unit = "metres", .minimum = 0}, "Of linear: from here on there is nothing else")
        .key("density", &Fog::density, {.unit = "1/m", .minimum = 0}, "Of the others")
        .key("half_height", &Fog::half_height, {.unit = "metres", .minimum = 0, .above_minimum = true},
             "Of exponential: half the density with each so many metres upward; left out, it is the same everywhere")
        .key("base", &Fog::base, {.unit = "metres"}, "The height at which the density is `density`");
    return k;
  }();
  return keys;
}

const Keys<MotionKeys>& motion_keys() {
  static const auto keys = [] {
    Keys<MotionKeys> k;
    k.key("kind", &MotionKeys::kind, {.required = true},
          "swing: to and fro about the axis; spin: a turn each period; slide: to and fro along the axis")
        .key("axis", &MotionKeys::axis, {}, "In the object's own coordinates")
        .key("pivot", &MotionKeys::pivot, {.unit = "metres"}, "A point on the axis")
        .key("from_degrees", &MotionKeys::from_degrees, {.unit = "degrees"}, "Of a swing: at time 0")
        .key("to_degrees", &MotionKeys::to_degrees, {.unit = "degrees"}, "Of a swing: half a period later")
        .key("from_metres", &MotionKeys::from_metres, {.unit = "metres"}, "Of a slide: at time 0")
        .key("to_metres", &MotionKeys::to_metres, {.unit = "metres"}, "Of a slide: half a period later")
        .key("period_seconds", &MotionKeys::period_seconds, {.unit = "seconds", .minimum = 0, .above_minimum = true},
             "To and fro, or one turn")
        .key("phase", &MotionKeys::phase, {.unit = "periods"}, "How far ahead it is")
        .key("hold_from", &MotionKeys::hold_from, {.minimum = 0, .maximum = 1},
             "Of a swing or slide: share of the period that it rests where it is at time 0")
        .key("hold_to", &MotionKeys::hold_to, {.minimum = 0, .maximum = 1},
             "The same for the other end; together less than 1");
    return k;
  }();
  return keys;
}

MotionKeys MotionKeys::of(const Motion& motion) {
  MotionKeys keys;
  keys.kind = motion.kind;
  keys.axis = motion.axis;
  keys.pivot = motion.pivot;
  keys.period_seconds = motion.period;
  keys.phase = motion.phase;
  keys.hold_from = motion.hold_from;
  keys.hold_to = motion.hold_to;
  if (motion.kind == Motion::Kind::slide) {
    keys.from_metres = motion.from;
    keys.to_metres = motion.to;
  } else {
    keys.from_degrees = exact_degrees(motion.from);
    keys.to_degrees = exact_degrees(motion.to);
  }
  return keys;
}

Motion MotionKeys::motion() const {
  Motion motion;
  motion.kind = kind;
  motion.axis = axis;
  motion.pivot = pivot;
  motion.period = period_seconds;
  motion.phase = phase;
  motion.hold_from = hold_from;
  motion.hold_to = hold_to;
  const bool slides = kind == Motion::Kind::slide;
  motion.from = slides ? from_metres : exact_radians(from_degrees);
  motion.to = slides ? to_metres : exact_radians(to_degrees);
  return motion;
}

MaterialKeys MaterialKeys::of(const Material& material) {
  MaterialKeys keys;
  static_cast<Material&>(keys) = material;
  keys.surface_file.name = material.surface;
  return keys;
}

const Keys<MaterialKeys>& material_keys() {
  static const auto keys = [] {
    using M = MaterialKeys;
    Keys<M> k;
    k.key<Material::Shading>("shading", &M::shading, {}, "How light is sent back; unlit shows base_color as nits")
        .key<Vec3>("base_color", &M::base_color, {.minimum = 0, .maximum = 1},
                   "Share of light sent back: red, green, blue, linear")
        .key<float>("alpha", &M::alpha, {.minimum = 0, .maximum = 1}, "How much it covers; see alpha_mode")
        .key<float>("metallic", &M::metallic, {.minimum = 0, .maximum = 1}, "0 for paint, stone, wood; 1 for metal")
        .key<float>("roughness", &M::roughness, {.minimum = 0, .maximum = 1}, "0 for a mirror, 1 for plaster")
        .key<Vec3>("specular", &M::specular, {.minimum = 0, .maximum = 1},
                   "Of blinn_phong: share of light in the highlight")
        .key<float>("shininess", &M::shininess, {.minimum = 1, .maximum = 10000},
                    "Of blinn_phong: the highlight's exponent")
        .key<Vec3>("emission", &M::emission, {.unit = "nits", .minimum = 0},
                   "Light of its own: red, green, blue, linear")
        .key<Material::AlphaMode>(
            "alpha_mode", &M::alpha_mode, {},
            "opaque: alpha is left alone; mask: there or not; blend: what lies behind shows through")
        .key<float>("alpha_cutoff", &M::alpha_cutoff, {.minimum = 0, .maximum = 1},
                    "Of mask: what has less alpha is not there")
        .key<bool>("double_sided", &M::double_sided, {}, "Back faces are drawn, too")
        .key<float>("normal_scale", &M::normal_scale, {}, "How strongly the normal map bends")
        .key<float>("occlusion_strength", &M::occlusion_strength, {.minimum = 0, .maximum = 1},
                    "How much the occlusion map counts")
        .key("surface", &M::surface_file, {},
             "GLSL of your own that changes all this at each point: a path from this file's folder")
        .key<std::string>("shows", &M::shows, {},
                          "A target that the pass reads under this name, as light of its own: it fills one unit of the "
                          "mesh's texture coordinates around 0")
        .key<bool>("shows_mirrored", &M::shows_mirrored, {}, "With left and right exchanged, as a mirror does");
    return k;
  }();
  return keys;
}

const std::vector<std::string>& choices_of(Fog::Kind) {
  static const std::vector<std::string> names{"linear", "exponential", "exponential_squared"};
  return names;
}

const std::vector<std::string>& choices_of(Motion::Kind) {
  static const std::vector<std::string> names{"swing", "spin", "slide"};
  return names;
}

const std::vector<std::string>& choices_of(Material::Shading) {
  static const std::vector<std::string> names{"metallic_roughness", "blinn_phong", "unlit"};
  return names;
}

const std::vector<std::string>& choices_of(Material::AlphaMode) {
  static const std::vector<std::string> names{"opaque", "mask", "blend"};
  return names;
}

}  // namespace periscena
