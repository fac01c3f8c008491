// Makes the demo scene: Osier Lock, a canal lock, as a model with its textures, a bed of osiers with thousands of
// objects, the night of lanterns, three skies, and two sheets of sprites. The same seed gives the same files.
//
//   osier_lock demo/generated
//
// In one file: the parts of the lock share its measures.
//
// The canal runs along Z, flowing towards +Z; X goes to the right bank, where the towpath is. Metres.

#include "builder.h"
#include "lanterns.h"
#include "narrowboat.h"
#include "osier_bed.h"
#include "skies.h"
#include "sprites.h"

#include <periscena/periscena.h>

#include <fmt/format.h>

#include <cmath>
#include <filesystem>
#include <string>

namespace {

using namespace periscena;
using namespace osier_lock;

constexpr float half_width = 2.6f;    // of the chamber
constexpr float half_length = 11.0f;  // from the middle to the heel posts of a pair of gates
constexpr float wall_end = 24.0f;     // the chamber's walls go on below the lower gates as a landing
constexpr float mitre = 0.85f;        // how far upstream of the heel posts the leaves of a pair meet
constexpr float bank = 1.0f;          // height of the coping
constexpr float high_water = 0.55f, low_water = -0.75f;
constexpr float bed = -2.2f;
constexpr float cycle = 24.0f;  // seconds from shut to shut

// The mirror beside the towpath: where its middle is, and how far it is turned from looking downstream.
const Vec3 mirror_place(7.35f, 2.15f, 12.4f);
constexpr float mirror_turn = -52;

// What rests when: water moves while both pairs of gates are shut, as in a real lock.
constexpr float gate_rests_shut = 0.625f, gate_rests_open = 0.04f, water_rests = 0.375f;

Motion slide(const Vec3& axis, float from, float to, float phase) {
  return {Motion::Kind::slide, axis, Vec3::zero(), from, to, cycle, phase, water_rests, water_rests};
}

Motion swing(const Vec3& axis, float from_degrees, float to_degrees, float period, float phase = 0, float hold_from = 0,
             float hold_to = 0) {
  return {Motion::Kind::swing, axis,   Vec3::zero(), radians(from_degrees), radians(to_degrees), period, phase,
          hold_from,           hold_to};
}

/// Builds the scene, one part after the other.
class Lock : Builder {
 public:
  Scene build() {
    materials();
    meshes();
    ground();
    chamber();
    water_and_boat();
    gates();
    cottage();
    lamps();
    signs();
    plants();
    mirror();
    lights_and_views();
    liveries();
    return std::move(scene_);
  }

 private:
  void lights_and_views() {
    scene_.add_light(Light{.name = "sun",
                           .kind = DirectionalLight{.illuminance = 9000, .direction = {0.8f, -0.34f, -0.5f}},
                           .color = {1, 0.62f, 0.34f},
                           .tags = {"dusk"}});
    scene_.add_light(Light{.name = "noon sun",
                           .kind = DirectionalLight{.illuminance = 70000, .direction = {0.5f, -0.8f, -0.45f}},
                           .color = {1, 0.94f, 0.84f},
                           .tags = {"day"}});
    scene_.add_light(Light{.name = "moon",
                           .kind = DirectionalLight{.illuminance = 1.6f, .direction = {-0.35f, -0.55f, -0.6f}},
                           .color = {0.72f, 0.84f, 1},
                           .tags = {"night"}});
    scene_.add_fog(
        {.name = "morning haze", .color = {5200, 6400, 8200}, .density = 0.005f, .half_height = 5, .base = bank});
    scene_.add_fog(
        {.name = "night mist", .color = {0.16f, 0.18f, 0.25f}, .density = 0.02f, .half_height = 3, .base = bank});
    const auto view = [&](const char* name, const Vec3& eye, const Vec3& target, float fov_degrees, float near) {
      Camera camera;
      camera.eye = eye;
      camera.target = target;
      camera.fov_y = radians(fov_degrees);
      camera.near = near;
      scene_.add_view({name, camera});
    };
    view("towpath", {6.9f, 3.5f, 20}, {-0.6f, 0.35f, 4}, 38, 0.3f);
    view("keeper", {-0.7f, 2.1f, 8.2f}, {3.3f, 1.05f, 5.2f}, 42, 0.2f);
    view("gates", {-4.2f, 4.4f, 17.5f}, {0.4f, 0.2f, 10.2f}, 46, 0.3f);
    // What the mirror sees: from its middle, out along the way it looks.
    const Vec3 out(-0.9f, -0.035f, -0.4f);
    view("mirror", mirror_place + 0.1f * out, mirror_place + 10 * out, 44, 0.2f);
  }

  void materials() {
    material("brick", {1, 1, 1}, {"brick"});
    material("wet_brick", {0.4f, 0.42f, 0.4f}, {"brick", 0.45f});
    material("stone0", {0.50f, 0.455f, 0.385f}, {"stone"});
    material("stone1", {0.43f, 0.40f, 0.35f}, {"stone"});
    material("stone2", {0.55f, 0.485f, 0.395f}, {"stone"});
    material("oak0", {0.165f, 0.105f, 0.06f}, {"oak"});
    material("oak1", {0.20f, 0.128f, 0.072f}, {"oak"});
    material("oak2", {0.135f, 0.089f, 0.054f}, {"oak"});
    material("tarred", {0.03f, 0.028f, 0.028f}, {"oak"});
    material("white_paint", {0.82f, 0.79f, 0.72f}, {"paint"});
    material("iron", {0.11f, 0.115f, 0.125f}, {"wear", 0.8f, 0.6f});
    material("brass", {0.83f, 0.58f, 0.25f}, {"wear", 0.42f, 1});
    material("grass", {0.16f, 0.20f, 0.065f}, {"grass"});
    material("far_grass", {0.07f, 0.105f, 0.045f});
    material("path", {0.42f, 0.325f, 0.225f}, {"gravel"});
    material("water", {0.02f, 0.034f, 0.034f}, {nullptr, 0.08f});
    material("hull", {0.045f, 0.055f, 0.075f}, {"paint", 0.8f});
    material("cabin_red", {0.40f, 0.035f, 0.028f}, {"paint"});
    material("cabin_green", {0.033f, 0.135f, 0.068f}, {"paint"});
    material("cream", {0.74f, 0.63f, 0.42f}, {"paint"});
    material("slate", {0.14f, 0.15f, 0.175f}, {"slate"});
    material("whitewash", {0.86f, 0.81f, 0.71f}, {"plaster"});
    material("leaf0", {0.105f, 0.15f, 0.032f});
    material("leaf1", {0.075f, 0.12f, 0.03f});
    material("leaf2", {0.14f, 0.155f, 0.04f});
    material("reed", {0.22f, 0.19f, 0.07f});
    material("bark", {0.12f, 0.085f, 0.06f}, {"oak"});
    material("lamp_glow", {0.9f, 0.8f, 0.6f}, {.emission = {11000, 5600, 1900}});
    material("window_glow", {0.6f, 0.4f, 0.2f}, {.emission = {5200, 2500, 700}});
    // By night the eye is wider open, and flames are dimmer to it.
    material("lamp_at_night", {0.9f, 0.8f, 0.6f}, {.emission = {60, 30, 10}});
    material("window_at_night", {0.6f, 0.4f, 0.2f}, {.emission = {12, 5.6f, 1.7f}});
    material("lamp_out", {0.85f, 0.83f, 0.78f}, {.roughness = 0.3f});
    material("window_by_day", {0.03f, 0.035f, 0.04f}, {.roughness = 0.1f});
    material("mirror_of_sky", {0.9f, 0.9f, 0.9f}, {nullptr, 0.04f, 1});
    material("cabin_blue", {0.03f, 0.06f, 0.2f}, {"paint"});
    material("cabin_gold", {0.62f, 0.42f, 0.09f}, {"paint"});
    scene_.add_material(
        {.name = "mirror", .base_color = Vec3::constant(0.02f), .shows = "mirror", .shows_mirrored = true});
    scene_.add_material({.name = "glass",
                         .base_color = {0.75f, 0.8f, 0.78f},
                         .alpha = 0.16f,
                         .roughness = 0.06f,
                         .alpha_mode = Material::AlphaMode::blend});
  }

  /// The boat in the colours that she wears at night, and what shines by day and by night.
  void liveries() {
    const auto named = [&](const char* name) { return scene_.find_material(name); };
    scene_.add_variant({"night",
                        {},
                        {{named("lamp_glow"), named("lamp_at_night")},
                         {named("window_glow"), named("window_at_night")},
                         {named("cabin_green"), named("cabin_blue")},
                         {named("cabin_red"), named("cabin_gold")},
                         {named("mirror"), named("mirror_of_sky")}},
                        {}});
    scene_.add_variant({"day",
                        {},
                        {{named("lamp_glow"), named("lamp_out")},
                         {named("window_glow"), named("window_by_day")},
                         {named("mirror"), named("mirror_of_sky")}},
                        {}});
  }

  void meshes() {
    scene_.add_mesh("post", shapes::cylinder(0.5f, 1, 20));
    scene_.add_mesh("disc", shapes::cylinder(0.5f, 1, 48));
    scene_.add_mesh("tooth", shapes::box({0.05f, 0.045f, 0.06f}));
    scene_.add_mesh("prism", shapes::cylinder(1, 1, 3));
    scene_.add_mesh("wheel", shapes::torus(0.5f, 0.07f, 26, 8));
    scene_.add_mesh("hoop", shapes::torus(0.48f, 0.035f, 44, 8));
    scene_.add_mesh("blade", shapes::cone(0.5f, 1, 5));
    scene_.add_mesh("roof", shapes::cone(0.5f, 1, 16));
    scene_.add_mesh("crown", shapes::sphere(0.5f, 12));
    scene_.add_mesh("knob", shapes::sphere(0.5f, 12));
  }

  void ground() {
    const float inner = half_width + 0.62f;
    for (const float side : {-1.0f, 1.0f}) {
      lay("grass", {60, 3, 160}, {side * (inner + 30), bank - 1.56f, -30});
    }
    lay("path", {2.1f, 0.06f, 160}, {inner + 2.0f, bank - 0.045f, -30});
    lay("wet_brick", {2 * half_width + 1, 0.4f, 160}, {0, bed - 0.2f, -30});
    for (int i = 0; i < 9; ++i) {  // hills far upstream
      const float x = -70 + 17.5f * static_cast<float>(i) + dice_.between(-5, 5);
      object("", "crown", "far_grass",
             stretch({dice_.between(48, 76), dice_.between(9, 19), 40})
                 .then(move({x, -0.5f, -118 + dice_.between(-8, 8)})),
             {}, {}, {"ground"});
    }
  }

  /// A part of the land: it casts no shadow that anybody would miss.
  void lay(const char* material, const Vec3& size, const Vec3& center) {
    block("", material, size, center, Transform::identity(), {"ground"});
  }

  void chamber() {
    for (const float side : {-1.0f, 1.0f}) {
      courses(side);
      coping(side);
      wing(side, -half_length - 90, -half_length - 0.4f, 0.35f);
      for (int i = 0; i < 4; ++i) bollard({side * (half_width + 0.95f), bank, -7.5f + 5.0f * static_cast<float>(i)});
      ladder(side);
    }
  }

  /// Brickwork of the chamber's wall, in slabs of whole tiles of the texture.
  void courses(float side) {
    constexpr float slab = 4.5f, dry = 1.2f, wet = 1.8f;
    const float top = bank - 0.26f, from = -half_length - 0.4f;
    for (float z = from; z < wall_end; z += slab) {
      const float x = side * (half_width + 0.25f);
      block("", "brick", {0.5f, dry, slab}, {x, top - dry / 2, z + slab / 2});
      block("", "wet_brick", {0.5f, wet, slab}, {x, top - dry - wet / 2, z + slab / 2});
    }
  }

  void coping(float side) {
    constexpr float length = 1.32f;
    for (float z = -half_length - 0.4f; z < wall_end; z += length + 0.02f) {
      const float up = dice_.between(-0.006f, 0.006f);
      block("", fmt::format("stone{}", dice_.pick(3)), {0.72f, 0.26f, length},
            {side * (half_width + 0.31f), bank - 0.13f + up, z + length / 2});
    }
  }

  /// The banks above and below the lock: a low stone edge.
  void wing(float side, float from, float to, float below) {
    for (float z = from; z < to; z += 2.4f) {
      const float up = dice_.between(-0.02f, 0.02f);
      block("", fmt::format("stone{}", dice_.pick(3)), {0.55f, 3, 2.36f},
            {side * (half_width + 0.42f), bank - 1.5f - below + up, z + 1.2f}, Transform::identity(), {"ground"});
    }
  }

  void bollard(const Vec3& foot) {
    object("", "post", "iron", stretch({0.2f, 0.5f, 0.2f}).then(move(foot + Vec3(0, 0.25f, 0))));
    object("", "knob", "white_paint", stretch({0.3f, 0.16f, 0.3f}).then(move(foot + Vec3(0, 0.52f, 0))));
  }

  void ladder(float side) {
    const float x = side * (half_width - 0.08f);
    for (const float z : {-3.25f, -2.75f}) block("", "iron", {0.05f, 2.9f, 0.06f}, {x, -0.45f, z});
    for (int i = 0; i < 9; ++i) block("", "iron", {0.04f, 0.04f, 0.5f}, {x, -1.7f + 0.3f * static_cast<float>(i), -3});
  }

  void water_and_boat() {
    lay("water", {2 * half_width + 0.2f, 0.5f, 90}, {0, high_water - 0.25f, -half_length - mitre - 45});
    lay("water", {2 * half_width + 0.2f, 0.5f, 40}, {0, low_water - 0.25f, half_length - mitre + 20});
    // The chamber fills and empties, and carries the boat.
    object("", "", "", Transform::identity(), slide(y_axis, high_water, low_water, 0), "water level");
    block("water level", "water", {2 * half_width + 0.2f, 0.5f, 2 * half_length}, {0, -0.25f, -mitre});
    object("water level", "", "", move({-1.25f, 0, 0.6f}), swing(z_axis, -0.5f, 0.5f, 5), "narrowboat", {"boat"});
    boat();
  }

  void boat() {
    const char* at = "narrowboat";
    block(at, "hull", {1.9f, 0.75f, 11.5f}, {0, 0.12f, 0});
    object(at, "prism", "hull",
           turn(y_axis, -90).then(stretch({0.95f / 0.866f, 0.75f, 1.5f})).then(move({0, 0.12f, 6.4f})));
    block(at, "cabin_red", {1.92f, 0.09f, 11.52f}, {0, 0.42f, 0});
    block(at, "cabin_green", {1.5f, 0.85f, 7.6f}, {0, 0.9f, -1.1f});
    for (const float side : {-1.0f, 1.0f}) {
      block(at, "cabin_red", {0.02f, 0.55f, 7.0f}, {side * 0.76f, 0.9f, -1.1f});
      block(at, "cream", {0.022f, 0.04f, 7.1f}, {side * 0.763f, 1.2f, -1.1f});
      block(at, "cream", {0.022f, 0.04f, 7.1f}, {side * 0.763f, 0.62f, -1.1f});
      for (int i = 0; i < 5; ++i) {
        const float z = -3.9f + 1.4f * static_cast<float>(i);
        object(at, "post", "brass",
               turn(z_axis, 90).then(stretch({0.05f, 0.42f, 0.42f})).then(move({side * 0.765f, 0.93f, z})));
        object(at, "post", "window_glow",
               turn(z_axis, 90).then(stretch({0.06f, 0.33f, 0.33f})).then(move({side * 0.768f, 0.93f, z})));
      }
    }
    block(at, "cream", {0.9f, 0.6f, 0.03f}, {0, 0.88f, 2.71f});
    block(at, "cabin_red", {0.8f, 0.5f, 0.035f}, {0, 0.88f, 2.715f});
    block(at, "slate", {1.62f, 0.07f, 7.8f}, {0, 1.36f, -1.1f});
    object(at, "post", "tarred", stretch({0.16f, 0.6f, 0.16f}).then(move({0.35f, 1.68f, -3.2f})));
    object(at, "wheel", "brass", stretch({0.2f, 0.4f, 0.2f}).then(move({0.35f, 1.96f, -3.2f})));
    block(at, "oak1", {0.3f, 0.04f, 3.4f}, {-0.35f, 1.43f, -0.4f});
    object(at, "knob", "cream", stretch({0.3f, 0.3f, 0.3f}).then(move({0, 0.62f, 5.6f})));
  }

  void gates() {
    // The leaves of a pair meet in a blunt arrow that points upstream.
    for (const float end : {-1.0f, 1.0f}) {
      for (const float side : {-1.0f, 1.0f}) leaf(end, side);
    }
  }

  /// One leaf with its beam and gear. In its own coordinates the heel post stands at the origin and the leaf goes along
  /// +X; the left bank's leaf points right as it is, the right bank's is its mirror image.
  void leaf(float end, float side) {
    const std::string name = fmt::format("{} {} gate", end < 0 ? "upper" : "lower", side < 0 ? "left" : "right");
    const float water = end < 0 ? high_water : low_water;
    const float phase = end < 0 ? 0.5f : 0.0f;  // the upper pair is open while the lower one is shut
    Transform place = turn(y_axis, 17);
    if (side > 0) place = place.then(stretch({-1, 1, 1}));
    place = place.then(move({side * (half_width + 0.02f), 0, end * half_length}));
    object("", "", "", place, swing(y_axis, 0, 66, cycle, phase, gate_rests_shut, gate_rests_open), name, {"gates"});
    const float low = bed + 0.1f, top = bank + 0.25f;
    object(name, "post", "oak2", stretch({0.36f, top - low, 0.36f}).then(move({0, (top + low) / 2, 0})));
    block(name, "oak2", {0.26f, top - low - 0.05f, 0.26f}, {2.62f, (top + low) / 2, 0});
    for (int i = 0; i < 9; ++i) {
      const float thickness = 0.1f + dice_.between(0, 0.012f);
      block(name, fmt::format("oak{}", dice_.pick(3)), {0.255f, top - low - 0.5f, thickness},
            {0.305f + 0.265f * static_cast<float>(i), (top + low) / 2 - 0.12f, -0.02f});
    }
    for (const float y : {low + 0.4f, water - 0.6f, water + 0.35f, top - 0.42f})
      block(name, "oak1", {2.5f, 0.24f, 0.24f}, {1.3f, y, 0.02f});
    // Straps and the collar that holds the heel post.
    for (const float y : {water + 0.35f, top - 0.42f}) block(name, "iron", {1.1f, 0.07f, 0.262f}, {0.6f, y, 0.02f});
    object(name, "wheel", "iron", stretch({0.46f, 0.7f, 0.46f}).then(move({0, top - 0.12f, 0})));
    // Foot board and hand rail.
    block(name, "oak1", {2.5f, 0.05f, 0.36f}, {1.35f, top - 0.24f, 0.3f});
    for (const float x : {0.35f, 1.4f, 2.5f}) block(name, "white_paint", {0.05f, 0.95f, 0.05f}, {x, top + 0.2f, 0.45f});
    block(name, "white_paint", {2.3f, 0.06f, 0.06f}, {1.42f, top + 0.68f, 0.45f});
    balance_beam(name, top);
    paddle_gear(name, top, phase);
  }

  void balance_beam(const std::string& gate, float top) {
    const float y = top + 0.16f;
    block(gate, "oak2", {3.3f, 0.3f, 0.3f}, {1.2f, y, 0});
    block(gate, "tarred", {3.4f, 0.42f, 0.4f}, {-2.0f, y + 0.03f, 0});
    block(gate, "white_paint", {0.75f, 0.44f, 0.42f}, {-4.07f, y + 0.03f, 0});
    block(gate, "iron", {0.08f, 0.46f, 0.44f}, {-0.34f, y + 0.03f, 0});
  }

  /// The winding gear of the leaf's sluice: a rack that rises, and a wheel with a crank that turns.
  void paddle_gear(const std::string& gate, float top, float phase) {
    const float x = 1.62f, y = top + 0.3f;
    for (const float dx : {-0.14f, 0.14f}) block(gate, "iron", {0.07f, 1.0f, 0.12f}, {x + dx, y + 0.35f, 0});
    block(gate, "iron", {0.42f, 0.09f, 0.16f}, {x, y + 0.84f, 0});
    object(gate, "", "", move({x, 0, 0}), slide(y_axis, 0, 0.5f, phase), gate + " rack");
    block(gate + " rack", "iron", {0.09f, 1.9f, 0.07f}, {0, top - 0.2f, 0.02f});
    for (int i = 0; i < 9; ++i)
      block(gate + " rack", "brass", {0.09f, 0.035f, 0.035f}, {0, top + 0.12f + 0.07f * static_cast<float>(i), 0.07f});
    object(gate, "", "", move({x, y + 0.46f, 0.16f}), swing(z_axis, 0, 720, cycle, phase, water_rests, water_rests),
           gate + " wheel");
    const std::string wheel = gate + " wheel";
    object(wheel, "wheel", "brass", turn(x_axis, 90).then(stretch({0.42f, 0.42f, 0.6f})));
    for (int i = 0; i < 3; ++i)
      block(wheel, "brass", {0.4f, 0.035f, 0.035f}, Vec3::zero(), turn(z_axis, 60.0f * static_cast<float>(i)));
    for (int i = 0; i < 12; ++i) {
      object(wheel, "tooth", "brass", move({0.25f, 0, 0}).then(turn(z_axis, 30.0f * static_cast<float>(i))));
    }
    object(wheel, "post", "iron", turn(x_axis, 90).then(stretch({0.07f, 0.07f, 0.34f})).then(move({0, 0, 0.06f})));
    block(wheel, "iron", {0.34f, 0.05f, 0.04f}, {0.15f, 0, 0.22f});
    object(wheel, "post", "oak1", turn(x_axis, 90).then(stretch({0.06f, 0.06f, 0.2f})).then(move({0.31f, 0, 0.32f})));
  }

  void cottage() {
    object("", "", "", turn(y_axis, 12).then(move({-9.6f, bank - 0.06f, -0.5f})), {}, "cottage");
    const char* at = "cottage";
    block(at, "whitewash", {4.6f, 2.7f, 7.2f}, {0, 1.35f, 0});
    block(at, "stone0", {4.72f, 0.4f, 7.32f}, {0, 0.2f, 0});
    object(
        at, "prism", "whitewash",
        turn(y_axis, 90).then(turn(x_axis, 90)).then(stretch({2.3f / 0.866f, 1.3f, 7.16f})).then(move({0, 3.35f, 0})),
        {}, "gable");
    for (const float side : {-1.0f, 1.0f}) {
      block(at, "slate", {3.4f, 0.12f, 7.9f}, {side * 1.3f, 3.66f, 0}, turn(z_axis, side * -39.5f));
    }
    block(at, "brick", {0.7f, 1.7f, 0.7f}, {0.3f, 4.9f, 2.2f});
    block(at, "stone0", {0.84f, 0.12f, 0.84f}, {0.3f, 5.78f, 2.2f});
    for (const float z : {-2.1f, 0.9f}) window(at, z);
    block(at, "cabin_green", {0.1f, 1.95f, 0.95f}, {2.3f, 0.98f, 2.6f});
    block(at, "oak2", {0.12f, 0.1f, 1.2f}, {2.32f, 2.02f, 2.6f});
  }

  void window(const char* at, float z) {
    block(at, "white_paint", {0.1f, 1.24f, 1.14f}, {2.29f, 1.55f, z});
    for (const float dy : {-0.28f, 0.28f}) {
      for (const float dz : {-0.26f, 0.26f})
        block(at, "window_glow", {0.1f, 0.5f, 0.46f}, {2.305f, 1.55f + dy, z + dz}, Transform::identity(), {"pane"});
    }
    block(at, "glass", {0.01f, 1.1f, 1.0f}, {2.37f, 1.55f, z});
    block(at, "stone2", {0.24f, 0.1f, 1.36f}, {2.34f, 0.88f, z});
  }

  void lamps() {
    for (int i = 0; i < 12; ++i) {
      const float z = 8.0f - 7.6f * static_cast<float>(i);
      lamp({half_width + 3.95f, bank - 0.05f, z});
      lamp({-half_width - 2.2f, bank - 0.05f, z - 1.3f});
    }
  }

  void lamp(const Vec3& foot) {
    object("", "post", "iron", stretch({0.11f, 2.7f, 0.11f}).then(move(foot + Vec3(0, 1.35f, 0))));
    object("", "post", "iron", stretch({0.24f, 0.3f, 0.24f}).then(move(foot + Vec3(0, 0.15f, 0))));
    object("", "knob", "lamp_glow", stretch({0.22f, 0.28f, 0.22f}).then(move(foot + Vec3(0, 2.88f, 0))));
    object("", "roof", "iron", stretch({0.46f, 0.22f, 0.46f}).then(move(foot + Vec3(0, 3.13f, 0))));
    object("", "post", "iron", stretch({0.3f, 0.04f, 0.3f}).then(move(foot + Vec3(0, 2.72f, 0))));
    object("", "post", "glass", stretch({0.32f, 0.34f, 0.32f}).then(move(foot + Vec3(0, 2.89f, 0))));
    scene_.add_light(Light{.name = fmt::format("lamp {}", ++lamp_count_),
                           .kind = PointLight{.intensity = 55, .position = foot + Vec3(0, 2.88f, 0), .range = 14},
                           .color = {1, 0.62f, 0.28f},
                           .tags = {"lamps"}});
  }

  /// What frames write on: a notice board beside the towpath, and the gauge on the chamber's wall.
  void signs() {
    object("", "", "", turn(y_axis, -32).then(move({3.95f, bank + 1.12f, 5})), {}, "notice board");
    const char* at = "notice board";
    block(at, "cream", {1.2f, 0.86f, 0.04f}, {0, 0, 0});
    for (const float side : {-1.0f, 1.0f}) block(at, "oak1", {0.09f, 1.85f, 0.09f}, {side * 0.64f, -0.25f, -0.01f});
    block(at, "oak1", {1.5f, 0.07f, 0.16f}, {0, 0.7f, 0}, turn(z_axis, 0));
    object("", "", "", move({half_width - 0.015f, -0.05f, 6.1f}), {}, "gauge");
    block("gauge", "white_paint", {0.03f, 1.7f, 0.26f}, {0, 0, 0});
  }

  /// A round mirror on a post, for those who come up the path: it shows what lies behind them.
  void mirror() {
    const char* at = "towpath mirror";
    object("", "", "", turn(y_axis, mirror_turn).then(move(mirror_place)), {}, at);
    block("", "oak2", {0.1f, mirror_place.y() - bank + 0.62f, 0.1f},
          {mirror_place.x(), (mirror_place.y() + bank) / 2 + 0.26f, mirror_place.z() - 0.1f});
    object(at, "disc", "mirror", stretch({0.92f, 0.05f, 0.92f}).then(turn(x_axis, -90)));
    object(at, "disc", "iron", stretch({1.02f, 0.05f, 1.02f}).then(turn(x_axis, -90)).then(move({0, 0, -0.03f})));
    object(at, "hoop", "brass", turn(x_axis, 90));
  }

  void plants() {
    for (int i = 0; i < 13; ++i) {
      willow({-dice_.between(15, 34), bank - 0.1f, 14 - 9.0f * static_cast<float>(i) + dice_.between(-2, 2)});
      willow({dice_.between(12, 30), bank - 0.1f, 2 - 9.0f * static_cast<float>(i) + dice_.between(-2, 2)});
    }
    for (int i = 0; i < 26; ++i) {
      const float side = i % 2 ? 1.0f : -1.0f;
      reeds({side * (half_width - dice_.between(0.05f, 0.5f)), low_water,
             dice_.between(half_length + 4.2f, half_length + 17)},
            11);
      reeds({side * (half_width - dice_.between(0.05f, 0.5f)), high_water, -half_length - dice_.between(3, 30)}, 6);
    }
    for (int i = 0; i < 70; ++i) {  // tufts along the path and the coping
      const float side = i % 2 ? 1.0f : -1.0f;
      const float x = side * (half_width + (side > 0 ? dice_.between(3.2f, 6.5f) : dice_.between(0.9f, 5.0f)));
      tuft({x, bank - 0.07f, dice_.between(-24, 16)});
    }
  }

  /// A pollard: a short trunk, and a head of withies.
  void willow(const Vec3& foot) {
    const float height = dice_.between(2.0f, 3.2f);
    object("", "post", "bark", stretch({0.7f, height, 0.7f}).then(move(foot + Vec3(0, height / 2, 0))));
    for (int i = 0; i < 7; ++i) {
      const float angle = 51.4f * static_cast<float>(i) + dice_.between(-14, 14),
                  out = i ? dice_.between(0.7f, 1.25f) : 0;
      const float size = dice_.between(1.9f, 2.7f);
      const Vec3 at = foot + Vec3(out * std::cos(radians(angle)), height + dice_.between(0.4f, 1.6f) + (i ? 0 : 0.9f),
                                  out * std::sin(radians(angle)));
      const Transform placed = stretch({size, size * dice_.between(0.8f, 1.15f), size}).then(move(at));
      object("", "crown", fmt::format("leaf{}", dice_.pick(3)), placed);
    }
  }

  void reeds(const Vec3& foot, int count) {
    for (int i = 0; i < count; ++i) {
      const float height = dice_.between(0.7f, 1.9f);
      const Vec3 at = foot + (dice_.aside(0.3f, 0.5f) + Vec3(0, height / 2 - 0.1f, 0));
      object("", "blade", i % 4 ? "leaf2" : "reed",
             stretch({0.045f, height, 0.045f})
                 .then(turn(z_axis, dice_.between(-11, 11)))
                 .then(turn(x_axis, dice_.between(-9, 9)))
                 .then(move(at)));
    }
  }

  void tuft(const Vec3& foot) {
    for (int i = 0; i < 5; ++i) {
      const float height = dice_.between(0.12f, 0.34f);
      const Transform placed = stretch({0.05f, height, 0.05f})
                                   .then(turn(z_axis, dice_.between(-24, 24)))
                                   .then(move(foot + (dice_.aside(0.14f, 0.14f) + Vec3(0, height / 2, 0))));
      object("", "blade", fmt::format("leaf{}", dice_.pick(3)), placed);
    }
  }

  int lamp_count_ = 0;
};

}  // namespace

int main(int argc, char** argv) {
  if (argc != 2) {
    fmt::print(stderr, "usage: osier_lock FOLDER\n");
    return 2;
  }
  try {
    const std::filesystem::path folder = argv[1];
    std::error_code code;
    std::filesystem::create_directory(folder, code);
    Scene lock = Lock().build();
    write_glb(lock, folder / "osier_lock.glb");
    write_glb(narrowboat(lock), folder / "narrowboat.glb");
    write_glb(lantern_night(std::move(lock)), folder / "lantern_night.glb");
    write_glb(osier_bed(), folder / "osier_bed.glb");
    write_hdr(dusk_sky(), folder / "dusk.hdr");
    write_hdr(day_sky(), folder / "day.hdr");
    write_hdr(night_sky(), folder / "night.hdr");
    write_sheet(dragonfly_sheet(), folder / "dragonfly.json");
    write_sheet(leaf_sheet(), folder / "leaves.json");
    write_png(willow_down(), folder / "down.png");
  } catch (const Error& error) {
    fmt::print(stderr, "{}\n", error.what());
    return 3;
  }
  return 0;
}
