// Makes the demo scene: Osier Lock, a canal lock at dusk, as a scene file. The same seed gives the same file.
//
//   osier_lock demo/osier_lock.toml
//
// The canal runs along Z, flowing towards +Z; X goes to the right bank, where the towpath is. Metres.

#include <periscena/periscena.h>

#include <fmt/format.h>

#include <cstdint>
#include <string>

namespace {

using namespace periscena;

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
constexpr const char* gate_rests = "hold_from = 0.625, hold_to = 0.04";
constexpr const char* water_rests = "hold_from = 0.375, hold_to = 0.375";

/// SplitMix64 (Steele, Lea and Flood, OOPSLA 2014): small, and the same everywhere.
class Dice {
 public:
  explicit Dice(std::uint64_t seed) : state_(seed) {}

  float between(float low, float high) {
    state_ += 0x9E3779B97F4A7C15u;
    std::uint64_t z = state_;
    z = (z ^ (z >> 30)) * 0xBF58476D1CE4E5B9u;
    z = (z ^ (z >> 27)) * 0x94D049BB133111EBu;
    return low + (high - low) * static_cast<float>((z ^ (z >> 31)) >> 40) / static_cast<float>(1 << 24);
  }

  int pick(int count) { return std::min(count - 1, static_cast<int>(between(0, static_cast<float>(count)))); }

 private:
  std::uint64_t state_;
};

std::string number(float value) {
  return fmt::format("{:.4g}", value == 0 ? 0.0f : value);
}
std::string list(const Vec3& v) {
  return fmt::format("[{}, {}, {}]", number(v.x()), number(v.y()), number(v.z()));
}
std::string move(const Vec3& v) {
  return fmt::format("{{ translate = {} }}", list(v));
}
std::string stretch(const Vec3& v) {
  return fmt::format("{{ scale = {} }}", list(v));
}
std::string turn(const Vec3& axis, float by_degrees) {
  return fmt::format("{{ rotate_degrees = {}, axis = {} }}", number(by_degrees), list(axis));
}

const Vec3 x_axis = Vec3::UnitX(), y_axis = Vec3::UnitY(), z_axis = Vec3::UnitZ();

/// Writes the sections one after the other.
class LockWriter {
 public:
  std::string write() {
    text_ = "# Osier Lock, a canal lock at dusk. Made by demo/osier_lock.cpp; change that, not this.\n";
    lights_and_views();
    materials();
    meshes();
    ground();
    chamber();
    water_and_boat();
    gates();
    cottage();
    lamps();
    plants();
    mirror();
    return std::move(text_);
  }

 private:
  void material(const char* name, const Vec3& color, const Vec3& emission = Vec3::Zero()) {
    text_ += fmt::format("\n[material.{}]\nbase_color = {}\n", name, list(color));
    if (!emission.isZero()) text_ += fmt::format("emission = {}\n", list(emission));
  }

  void mesh(const char* name, const char* body) { text_ += fmt::format("\n[mesh.{}]\n{}\n", name, body); }

  void object(const std::string& parent, const std::string& mesh, const std::string& material, const std::string& steps,
              const std::string& motion = {}, const std::string& name = {}) {
    text_ += "\n[[object]]\n";
    if (!name.empty()) text_ += fmt::format("name = \"{}\"\n", name);
    if (!parent.empty()) text_ += fmt::format("parent = \"{}\"\n", parent);
    if (!mesh.empty()) text_ += fmt::format("mesh = \"{}\"\nmaterial = \"{}\"\n", mesh, material);
    if (!steps.empty()) text_ += fmt::format("transform = [{}]\n", steps);
    if (!motion.empty()) text_ += fmt::format("motion = {{ {} }}\n", motion);
  }

  void block(const std::string& parent, const std::string& material, const Vec3& size, const Vec3& center) {
    object(parent, "block", material, stretch(size) + ", " + move(center));
  }

  void lights_and_views() {
    text_ += R"(
[light.sun]
kind            = "directional"
direction       = [0.8, -0.34, -0.5]
color           = [1, 0.62, 0.34]
illuminance_lux = 9000

[light.sky]
kind        = "ambient"
sky_nits    = [560, 640, 900]
ground_nits = [230, 190, 170]

[view.towpath]
eye           = [6.9, 3.5, 20]
target        = [-0.6, 0.35, 4]
fov_y_degrees = 38
near          = 0.3

[view.gates]
eye           = [-4.2, 4.4, 17.5]
target        = [0.4, 0.2, 10.2]
fov_y_degrees = 46
near          = 0.3
)";
    // What the mirror sees: from its middle, out along the way it looks.
    const Vec3 out(-0.9f, -0.035f, -0.4f);
    text_ += fmt::format(
        "\n[view.mirror]\neye           = {}\ntarget        = {}\nfov_y_degrees = 44\nnear          = 0.2\n",
        list(mirror_place + 0.1f * out), list(mirror_place + 10 * out));
  }

  void materials() {
    material("brick0", {0.25f, 0.095f, 0.062f});
    material("brick1", {0.205f, 0.078f, 0.055f});
    material("brick2", {0.29f, 0.125f, 0.078f});
    material("brick3", {0.165f, 0.076f, 0.066f});
    material("wet_brick", {0.062f, 0.042f, 0.034f});
    material("stone0", {0.40f, 0.365f, 0.31f});
    material("stone1", {0.345f, 0.32f, 0.28f});
    material("stone2", {0.44f, 0.39f, 0.315f});
    material("oak0", {0.105f, 0.066f, 0.037f});
    material("oak1", {0.13f, 0.082f, 0.046f});
    material("oak2", {0.085f, 0.056f, 0.034f});
    material("tarred", {0.028f, 0.026f, 0.026f});
    material("white_paint", {0.82f, 0.79f, 0.72f});
    material("iron", {0.06f, 0.066f, 0.075f});
    material("brass", {0.62f, 0.38f, 0.12f});
    material("grass", {0.088f, 0.112f, 0.036f});
    material("far_grass", {0.07f, 0.105f, 0.045f});
    material("path", {0.33f, 0.255f, 0.175f});
    material("water", {0.02f, 0.034f, 0.034f});
    material("hull", {0.035f, 0.045f, 0.06f});
    material("cabin_red", {0.36f, 0.035f, 0.028f});
    material("cabin_green", {0.03f, 0.115f, 0.06f});
    material("cream", {0.68f, 0.58f, 0.38f});
    material("slate", {0.085f, 0.09f, 0.105f});
    material("whitewash", {0.68f, 0.63f, 0.54f});
    material("leaf0", {0.105f, 0.15f, 0.032f});
    material("leaf1", {0.075f, 0.12f, 0.03f});
    material("leaf2", {0.14f, 0.155f, 0.04f});
    material("reed", {0.22f, 0.19f, 0.07f});
    material("bark", {0.09f, 0.065f, 0.045f});
    material("lamp_glow", {0.9f, 0.8f, 0.6f}, {11000, 5600, 1900});
    text_ += "\n[material.mirror]\nbase_color = [0.02, 0.02, 0.02]\nshows = \"mirror\"\nshows_mirrored = true\n";
    material("window_glow", {0.6f, 0.4f, 0.2f}, {5200, 2500, 700});
  }

  void meshes() {
    mesh("block", "kind = \"box\"");
    mesh("post", "kind = \"cylinder\"\nradius = 0.5\nheight = 1\nsegments = 28");
    mesh("prism", "kind = \"cylinder\"\nradius = 1\nheight = 1\nsegments = 3");
    mesh("wheel", "kind = \"torus\"\nradius = 0.5\ntube = 0.07\nsegments = 40");
    mesh("hoop", "kind = \"torus\"\nradius = 0.48\ntube = 0.035\nsegments = 56");
    mesh("blade", "kind = \"cone\"\nradius = 0.5\nheight = 1\nsegments = 5");
    mesh("crown", "kind = \"sphere\"\nradius = 0.5\nsegments = 20");
    mesh("knob", "kind = \"sphere\"\nradius = 0.5\nsegments = 24");
  }

  void ground() {
    const float inner = half_width + 0.62f;
    for (const float side : {-1.0f, 1.0f}) {
      block("", "grass", {60, 3, 160}, {side * (inner + 30), bank - 1.56f, -30});
    }
    block("", "path", {2.1f, 0.06f, 160}, {inner + 2.0f, bank - 0.045f, -30});
    block("", "wet_brick", {2 * half_width + 1, 0.4f, 160}, {0, bed - 0.2f, -30});
    for (int i = 0; i < 9; ++i) {  // hills far upstream
      const float x = -70 + 17.5f * static_cast<float>(i) + dice_.between(-5, 5);
      object("", "crown", "far_grass",
             stretch({dice_.between(48, 76), dice_.between(9, 19), 40}) + ", " +
                 move({x, -0.5f, -118 + dice_.between(-8, 8)}));
    }
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

  /// Blockwork of the chamber's wall, course by course, each half a block along.
  void courses(float side) {
    constexpr float long_side = 0.86f, height = 0.31f, joint = 0.02f;
    const int course_count = static_cast<int>((bank - 0.25f - bed) / (height + joint));
    for (int course = 0; course < course_count; ++course) {
      const float y = bed + (static_cast<float>(course) + 0.5f) * (height + joint);
      for (float z = -half_length - 0.4f + (course % 2 ? -0.44f : 0); z < wall_end; z += long_side + joint) {
        const bool wet = y < low_water + 0.35f;
        const std::string name = wet ? "wet_brick" : fmt::format("brick{}", dice_.pick(4));
        block("", name, {0.5f, height, long_side},
              {side * (half_width + 0.25f + dice_.between(-0.012f, 0.012f)), y, z + long_side / 2});
      }
    }
    block("", "stone1", {0.4f, bank - bed, wall_end + half_length + 0.4f},
          {side * (half_width + 0.36f), (bank + bed) / 2 - 0.2f, (wall_end - half_length - 0.4f) / 2});
  }

  void coping(float side) {
    constexpr float length = 1.32f;
    for (float z = -half_length - 0.4f; z < wall_end; z += length + 0.02f) {
      block("", fmt::format("stone{}", dice_.pick(3)), {0.72f, 0.26f, length},
            {side * (half_width + 0.31f), bank - 0.13f + dice_.between(-0.006f, 0.006f), z + length / 2});
    }
  }

  /// The banks above and below the lock: a low stone edge.
  void wing(float side, float from, float to, float below) {
    for (float z = from; z < to; z += 2.4f) {
      block("", fmt::format("stone{}", dice_.pick(3)), {0.55f, 3, 2.36f},
            {side * (half_width + 0.42f), bank - 1.5f - below + dice_.between(-0.02f, 0.02f), z + 1.2f});
    }
  }

  void bollard(const Vec3& foot) {
    object("", "post", "iron", stretch({0.2f, 0.5f, 0.2f}) + ", " + move(foot + Vec3(0, 0.25f, 0)));
    object("", "knob", "white_paint", stretch({0.3f, 0.16f, 0.3f}) + ", " + move(foot + Vec3(0, 0.52f, 0)));
  }

  void ladder(float side) {
    const float x = side * (half_width - 0.08f);
    for (const float z : {-3.25f, -2.75f}) block("", "iron", {0.05f, 2.9f, 0.06f}, {x, -0.45f, z});
    for (int i = 0; i < 9; ++i) block("", "iron", {0.04f, 0.04f, 0.5f}, {x, -1.7f + 0.3f * static_cast<float>(i), -3});
  }

  void water_and_boat() {
    block("", "water", {2 * half_width + 0.2f, 0.5f, 90}, {0, high_water - 0.25f, -half_length - mitre - 45});
    block("", "water", {2 * half_width + 0.2f, 0.5f, 40}, {0, low_water - 0.25f, half_length - mitre + 20});
    // The chamber fills and empties, and carries the boat.
    object("", "", "", "",
           fmt::format("kind = \"slide\", from_metres = {}, to_metres = {}, period_seconds = {}, {}",
                       number(high_water), number(low_water), number(cycle), water_rests),
           "water level");
    block("water level", "water", {2 * half_width + 0.2f, 0.5f, 2 * half_length}, {0, -0.25f, -mitre});
    object("water level", "", "", move({-1.25f, 0, 0.6f}),
           "kind = \"swing\", axis = [0, 0, 1], from_degrees = -0.5, to_degrees = 0.5, period_seconds = 5",
           "narrowboat");
    boat();
  }

  void boat() {
    const char* at = "narrowboat";
    block(at, "hull", {1.9f, 0.75f, 11.5f}, {0, 0.12f, 0});
    object(at, "prism", "hull",
           turn(y_axis, 90) + ", " + stretch({0.95f / 0.866f, 0.75f, 1.5f}) + ", " + move({0, 0.12f, 6.4f}));
    block(at, "cabin_red", {1.92f, 0.09f, 11.52f}, {0, 0.42f, 0});
    block(at, "cabin_green", {1.5f, 0.85f, 7.6f}, {0, 0.9f, -1.1f});
    for (const float side : {-1.0f, 1.0f}) {
      block(at, "cabin_red", {0.02f, 0.55f, 7.0f}, {side * 0.76f, 0.9f, -1.1f});
      block(at, "cream", {0.022f, 0.04f, 7.1f}, {side * 0.763f, 1.2f, -1.1f});
      block(at, "cream", {0.022f, 0.04f, 7.1f}, {side * 0.763f, 0.62f, -1.1f});
      for (int i = 0; i < 5; ++i) {
        const float z = -3.9f + 1.4f * static_cast<float>(i);
        object(at, "post", "brass",
               turn(z_axis, 90) + ", " + stretch({0.05f, 0.42f, 0.42f}) + ", " + move({side * 0.765f, 0.93f, z}));
        object(at, "post", "window_glow",
               turn(z_axis, 90) + ", " + stretch({0.06f, 0.33f, 0.33f}) + ", " + move({side * 0.768f, 0.93f, z}));
      }
    }
    block(at, "cream", {0.9f, 0.6f, 0.03f}, {0, 0.88f, 2.71f});
    block(at, "cabin_red", {0.8f, 0.5f, 0.035f}, {0, 0.88f, 2.715f});
    block(at, "slate", {1.62f, 0.07f, 7.8f}, {0, 1.36f, -1.1f});
    object(at, "post", "tarred", stretch({0.16f, 0.6f, 0.16f}) + ", " + move({0.35f, 1.68f, -3.2f}));
    object(at, "wheel", "brass", stretch({0.2f, 0.4f, 0.2f}) + ", " + move({0.35f, 1.96f, -3.2f}));
    block(at, "oak1", {0.3f, 0.04f, 3.4f}, {-0.35f, 1.43f, -0.4f});
    object(at, "knob", "cream", stretch({0.3f, 0.3f, 0.3f}) + ", " + move({0, 0.62f, 5.6f}));
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
    std::string place = turn(y_axis, 17);
    if (side > 0) place += ", " + stretch({-1, 1, 1});
    place += ", " + move({side * (half_width + 0.02f), 0, end * half_length});
    object("", "", "", place,
           fmt::format("kind = \"swing\", axis = [0, 1, 0], from_degrees = 0, to_degrees = 66, period_seconds = {}, "
                       "phase = {}, {}",
                       number(cycle), number(phase), gate_rests),
           name);
    const float low = bed + 0.1f, top = bank + 0.25f;
    object(name, "post", "oak2", stretch({0.36f, top - low, 0.36f}) + ", " + move({0, (top + low) / 2, 0}));
    block(name, "oak2", {0.26f, top - low - 0.05f, 0.26f}, {2.62f, (top + low) / 2, 0});
    for (int i = 0; i < 9; ++i) {
      block(name, fmt::format("oak{}", dice_.pick(3)), {0.255f, top - low - 0.5f, 0.1f + dice_.between(0, 0.012f)},
            {0.305f + 0.265f * static_cast<float>(i), (top + low) / 2 - 0.12f, -0.02f});
    }
    for (const float y : {low + 0.4f, water - 0.6f, water + 0.35f, top - 0.42f})
      block(name, "oak1", {2.5f, 0.24f, 0.24f}, {1.3f, y, 0.02f});
    // Straps and the collar that holds the heel post.
    for (const float y : {water + 0.35f, top - 0.42f}) block(name, "iron", {1.1f, 0.07f, 0.262f}, {0.6f, y, 0.02f});
    object(name, "wheel", "iron", stretch({0.46f, 0.7f, 0.46f}) + ", " + move({0, top - 0.12f, 0}));
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
    object(
        gate, "", "", move({x, 0, 0}),
        fmt::format(
            "kind = \"slide\", axis = [0, 1, 0], from_metres = 0, to_metres = 0.5, period_seconds = {}, phase = {}, {}",
            number(cycle), number(phase), water_rests),
        gate + " rack");
    block(gate + " rack", "iron", {0.09f, 1.9f, 0.07f}, {0, top - 0.2f, 0.02f});
    for (int i = 0; i < 9; ++i)
      block(gate + " rack", "brass", {0.09f, 0.035f, 0.035f}, {0, top + 0.12f + 0.07f * static_cast<float>(i), 0.07f});
    object(gate, "", "", move({x, y + 0.46f, 0.16f}),
           fmt::format("kind = \"swing\", axis = [0, 0, 1], from_degrees = 0, to_degrees = 720, period_seconds = {}, "
                       "phase = {}, {}",
                       number(cycle), number(phase), water_rests),
           gate + " wheel");
    const std::string wheel = gate + " wheel";
    object(wheel, "wheel", "brass", turn(x_axis, 90) + ", " + stretch({0.42f, 0.42f, 0.6f}));
    for (int i = 0; i < 3; ++i)
      object(wheel, "block", "brass",
             stretch({0.4f, 0.035f, 0.035f}) + ", " + turn(z_axis, 60.0f * static_cast<float>(i)));
    for (int i = 0; i < 12; ++i) {
      object(wheel, "block", "brass",
             stretch({0.05f, 0.045f, 0.06f}) + ", " + move({0.25f, 0, 0}) + ", " +
                 turn(z_axis, 30.0f * static_cast<float>(i)));
    }
    object(wheel, "post", "iron",
           turn(x_axis, 90) + ", " + stretch({0.07f, 0.07f, 0.34f}) + ", " + move({0, 0, 0.06f}));
    block(wheel, "iron", {0.34f, 0.05f, 0.04f}, {0.15f, 0, 0.22f});
    object(wheel, "post", "oak1",
           turn(x_axis, 90) + ", " + stretch({0.06f, 0.06f, 0.2f}) + ", " + move({0.31f, 0, 0.32f}));
  }

  void cottage() {
    object("", "", "", turn(y_axis, 12) + ", " + move({-9.6f, bank - 0.06f, -0.5f}), {}, "cottage");
    const char* at = "cottage";
    block(at, "whitewash", {4.6f, 2.7f, 7.2f}, {0, 1.35f, 0});
    block(at, "stone0", {4.72f, 0.4f, 7.32f}, {0, 0.2f, 0});
    object(at, "prism", "whitewash",
           turn(y_axis, 90) + ", " + turn(x_axis, 90) + ", " + stretch({2.3f / 0.866f, 1.3f, 7.16f}) + ", " +
               move({0, 3.35f, 0}),
           {}, "gable");
    for (const float side : {-1.0f, 1.0f}) {
      object(at, "block", "slate",
             stretch({3.4f, 0.12f, 7.9f}) + ", " + turn(z_axis, side * -39.5f) + ", " + move({side * 1.3f, 3.66f, 0}));
    }
    block(at, "brick1", {0.7f, 1.7f, 0.7f}, {0.3f, 4.9f, 2.2f});
    block(at, "stone0", {0.84f, 0.12f, 0.84f}, {0.3f, 5.78f, 2.2f});
    for (const float z : {-2.1f, 0.9f}) window(at, z);
    block(at, "cabin_green", {0.1f, 1.95f, 0.95f}, {2.3f, 0.98f, 2.6f});
    block(at, "oak2", {0.12f, 0.1f, 1.2f}, {2.32f, 2.02f, 2.6f});
  }

  void window(const char* at, float z) {
    block(at, "white_paint", {0.1f, 1.24f, 1.14f}, {2.29f, 1.55f, z});
    for (const float dy : {-0.28f, 0.28f}) {
      for (const float dz : {-0.26f, 0.26f})
        block(at, "window_glow", {0.1f, 0.5f, 0.46f}, {2.305f, 1.55f + dy, z + dz});
    }
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
    object("", "post", "iron", stretch({0.11f, 2.7f, 0.11f}) + ", " + move(foot + Vec3(0, 1.35f, 0)));
    object("", "post", "iron", stretch({0.24f, 0.3f, 0.24f}) + ", " + move(foot + Vec3(0, 0.15f, 0)));
    object("", "knob", "lamp_glow", stretch({0.22f, 0.28f, 0.22f}) + ", " + move(foot + Vec3(0, 2.88f, 0)));
    object("", "blade", "iron", stretch({0.46f, 0.22f, 0.46f}) + ", " + move(foot + Vec3(0, 3.13f, 0)));
    object("", "post", "iron", stretch({0.3f, 0.04f, 0.3f}) + ", " + move(foot + Vec3(0, 2.72f, 0)));
  }

  /// A round mirror on a post, for those who come up the path: it shows what lies behind them.
  void mirror() {
    const char* at = "towpath mirror";
    object("", "", "", turn(y_axis, mirror_turn) + ", " + move(mirror_place), {}, at);
    block("", "oak2", {0.1f, mirror_place.y() - bank + 0.62f, 0.1f},
          {mirror_place.x(), (mirror_place.y() + bank) / 2 + 0.26f, mirror_place.z() - 0.1f});
    object(at, "post", "mirror", stretch({0.92f, 0.05f, 0.92f}) + ", " + turn(x_axis, -90));
    object(at, "post", "iron", stretch({1.02f, 0.05f, 1.02f}) + ", " + turn(x_axis, -90) + ", " + move({0, 0, -0.03f}));
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
    object("", "post", "bark", stretch({0.7f, height, 0.7f}) + ", " + move(foot + Vec3(0, height / 2, 0)));
    for (int i = 0; i < 7; ++i) {
      const float angle = 51.4f * static_cast<float>(i) + dice_.between(-14, 14),
                  out = i ? dice_.between(0.7f, 1.25f) : 0;
      const float size = dice_.between(1.9f, 2.7f);
      const Vec3 at = foot + Vec3(out * std::cos(radians(angle)), height + dice_.between(0.4f, 1.6f) + (i ? 0 : 0.9f),
                                  out * std::sin(radians(angle)));
      object("", "crown", fmt::format("leaf{}", dice_.pick(3)),
             stretch({size, size * dice_.between(0.8f, 1.15f), size}) + ", " + move(at));
    }
  }

  void reeds(const Vec3& foot, int count) {
    for (int i = 0; i < count; ++i) {
      const float height = dice_.between(0.7f, 1.9f);
      const Vec3 at = foot + Vec3(dice_.between(-0.3f, 0.3f), height / 2 - 0.1f, dice_.between(-0.5f, 0.5f));
      object("", "blade", i % 4 ? "leaf2" : "reed",
             stretch({0.045f, height, 0.045f}) + ", " + turn(z_axis, dice_.between(-11, 11)) + ", " +
                 turn(x_axis, dice_.between(-9, 9)) + ", " + move(at));
    }
  }

  void tuft(const Vec3& foot) {
    for (int i = 0; i < 5; ++i) {
      const float height = dice_.between(0.12f, 0.34f);
      object("", "blade", fmt::format("leaf{}", dice_.pick(3)),
             stretch({0.05f, height, 0.05f}) + ", " + turn(z_axis, dice_.between(-24, 24)) + ", " +
                 move(foot + Vec3(dice_.between(-0.14f, 0.14f), height / 2, dice_.between(-0.14f, 0.14f))));
    }
  }

  std::string text_;
  Dice dice_{20260611};
};

}  // namespace

int main(int argc, char** argv) {
  if (argc != 2) {
    fmt::print(stderr, "usage: osier_lock FILE.toml\n");
    return 2;
  }
  try {
    write_file(argv[1], LockWriter().write());
  } catch (const Error& error) {
    fmt::print(stderr, "{}\n", error.what());
    return 3;
  }
  return 0;
}
