// In one file: all look at one yard.

#include "gl/device.h"
#include "passes/rendering.h"
#include "thrown.h"

#include <periscena/passes/shadow_map.h>

#include <cmath>
#include <set>

using namespace periscena;

namespace {

constexpr int size = 128;
constexpr float width = 8;  ///< metres that the picture is wide and high

/// Shadows with an edge of one texel, whose middles are as dark as can be.
passes::ShadowMap sharp() {
  passes::ShadowMap shadow;
  shadow.filter = ShadowFilter::linear;
  return shadow;
}

/// A floor at y = 0 under a sun, seen straight from above: right is +X, up is −Z.
struct Yard {
  std::shared_ptr<Scene> scene = std::make_shared<Scene>();

  explicit Yard(const Vec3& sun) {
    Camera camera;
    camera.eye = {0, 20, 0};
    camera.up = {0, 0, -1};
    camera.far = 60;
    camera.parallel_height = width;
    scene->add_view({"front", camera});
    scene->add_light(Light{.name = "sun", .kind = DirectionalLight{.illuminance = 3, .direction = sun}});
    scene->add_material({.name = "white", .base_color = Vec3::ones()});
    show("floor", shapes::plane(40, 40), Vec3::zero(), {"ground"});
  }

  void show(const std::string& name, Mesh mesh, const Vec3& at, std::vector<std::string> tags = {},
            const std::string& material = "white", std::optional<Motion> motion = {}) {
    Node node;
    node.name = name;
    node.mesh = scene->add_mesh(name, std::move(mesh));
    node.material = scene->find_material(material);
    node.placement = Transform::translate(at);
    node.tags = std::move(tags);
    node.motion = std::move(motion);
    scene->add_node(node);
  }

  void show_ball(const Vec3& at, float radius) { show("ball", shapes::sphere(radius, 128), at, {"balls"}); }

  struct Frame {
    FrameGraph graph;
    TargetHandle map, color;
  };

  Frame frame(passes::ShadowMap shadow, passes::Forward options, const TargetSize& map_size) const {
    Frame made;
    made.map = made.graph.target("map", {.format = Format::depth32f, .size = map_size});
    made.color = made.graph.target("color", {.format = Format::rgba32f});
    made.graph.keep(made.color);
    shadow.scene = options.scene = scene;
    if (shadow.light.empty()) shadow.light = "sun";
    shadow.depth = made.map;
    made.graph.add(passes::shadow_map(shadow));
    options.view = "front";
    options.color = made.color;
    options.depth = made.graph.target("depth", {.format = Format::depth32f});
    made.graph.add(passes::forward(options));
    return made;
  }

  Image render(gl::Device& device, const passes::ShadowMap& shadow = sharp(), passes::Forward options = {},
               double seconds = 0, const TargetSize& map_size = TargetSize::pixels(512, 512)) const {
    options.shadows = {"map"};
    const Frame made = frame(shadow, options, map_size);
    gl::FrameRunner runner(device, made.graph.plan(size, size, device.limits()).value());
    runner.run(seconds);
    return runner.read("color");
  }

  Image render_without(gl::Device& device, double seconds = 0) const {
    return render_front(device, scene, size, {}, seconds);
  }
};

/// Where the middle of a pixel lies on the floor.
Vec3 on_floor(int x, int y) {
  const auto metres = [](int i) { return (static_cast<float>(i) + 0.5f) / size * width - width / 2; };
  return {metres(x), 0, metres(y)};
}

double red(const Image& image, const Vec3& place) {
  const auto pixel = [](float metres) { return static_cast<int>((metres / width + 0.5f) * size); };
  return image.at(pixel(place.x()), pixel(place.z()))[0];
}

/// How far the ray from a point towards a far light passes from a ball's middle.
float passes_at(const Vec3& point, const Vec3& sun, const Vec3& middle) {
  const Vec3 way = -sun.normalized(), to = middle - point;
  return (to - way * to.dot(way)).norm();
}

passes::ShadowMap without_ground() {
  passes::ShadowMap shadow = sharp();
  shadow.without_tags = {"ground"};
  return shadow;
}

bool has(const PlanResult& planned, const std::string& slug) {
  return std::any_of(planned.diagnostics().begin(), planned.diagnostics().end(),
                     [&](const Diagnostic& found) { return found.slug == slug; });
}

}  // namespace

TEST_CASE_METHOD(TestDevice, "a ball's shadow lies where the rays to the sun meet the ball, whoever else casts") {
  const Vec3 middle(-0.4f, 1.2f, 0.5f);
  constexpr float radius = 0.8f;
  for (const Vec3& sun : {Vec3(0, -1, 0), Vec3(0.5f, -1, 0.2f), Vec3(-0.9f, -0.6f, 0.7f)}) {
    for (const int map : {128, 512}) {
      for (const bool ground_casts : {true, false}) {
        INFO("sun " << Catch::Detail::stringify(sun) << ", map " << map << ", does the ground cast? " << ground_casts);
        Yard yard(sun);
        yard.show_ball(middle, radius);
        const Image open = yard.render_without(device);
        passes::ShadowMap options = ground_casts ? sharp() : without_ground();
        options.filter = map == 128 ? ShadowFilter::linear : ShadowFilter::gaussian;
        const Image shadowed = yard.render(device, options, {}, 0, TargetSize::pixels(map, map));
        // The map is as wide as the balls around its casters, and up to six texels more. What is compared reaches two
        // texels far, and those that the filter does, and is lifted by at most 1.6 texels, which moves a shadow's edge
        // by as much over the sine of the sun's height.
        const float texel = 1.05f * 2 * (ground_casts ? 20 * std::sqrt(2.0f) : radius) / static_cast<float>(map);
        const float reach = options.filter == ShadowFilter::linear ? 0 : options.radius;
        const float height = -sun.normalized().y(), edge = (3.6f + reach) * texel / height + width / size;
        int lit = 0, dark = 0, wrong = 0;
        for (int y = 0; y < size; ++y) {
          for (int x = 0; x < size; ++x) {
            const Vec3 point = on_floor(x, y);
            // Seen from above, the ball hides a disc.
            if ((point - middle).times(Vec3(1, 0, 1)).norm() < radius + 0.1f) continue;
            const float distance = passes_at(point, sun, middle) - radius;
            if (std::abs(distance) < edge) continue;
            const double before = open.at(x, y)[0], after = shadowed.at(x, y)[0];
            // Weights of a filter add up to 1 but for rounding.
            wrong += distance > 0 ? std::abs(after - before) > 1e-5 * before : after != 0;
            ++(distance > 0 ? lit : dark);
          }
        }
        REQUIRE(wrong == 0);
        REQUIRE(lit > 500);
        if (!ground_casts && sun.x() != 0) REQUIRE(dark > 100);
      }
    }
  }
}

namespace {

/// What shadow_lookup.glsl gives for a point of the floor, by one comparison between texels for each place of the
/// filter, in double: with weights by distance for gaussian, and none for a point that lies out of the map.
double share_by_hand(const Image& map, const Mat4& to_clip, const Vec3& point, const Vec3& to_sun, float texel,
                     int radius) {
  const DoubleMat4 matrix = to_clip.cast<double>();
  const double sine = to_sun.cross(Vec3::unit_y()).norm();
  const DoubleVec3 lifted = point.cast<double>() + DoubleVec3(0, texel * (std::sqrt(2.0) * sine + 0.1), 0);
  const auto seen = [&](const DoubleVec3& at) {
    const Matrix<double, 4> clip = matrix * at.with(1);
    return DoubleVec3((clip.x() + 1) / 2 * map.width(), (clip.y() + 1) / 2 * map.height(), clip.z());
  };
  const DoubleVec3 place = seen(lifted), a = seen(lifted + DoubleVec3::unit_x()) - place,
                   b = seen(lifted + DoubleVec3::unit_z()) - place;
  const double area = a.x() * b.y() - a.y() * b.x();
  const DoubleVec2 slope = DoubleVec2(a.z() * b.y() - b.z() * a.y(), a.x() * b.z() - b.x() * a.z()) / area;
  const auto lit = [&](int x, int y, double depth) {
    const bool inside = x >= 0 && y >= 0 && x < map.width() && y < map.height();
    return std::max(depth, 0.0) >= (inside ? map.at(x, map.height() - 1 - y)[0] : 0) ? 1.0 : 0.0;
  };
  const double deviation = (radius + 1) / 2.0;
  double sum = 0, whole = 0;
  for (int j = -radius; j <= radius; ++j) {
    for (int i = -radius; i <= radius; ++i) {
      const double x = place.x() + i - 0.5, y = place.y() + j - 0.5, depth = place.z() + slope.dot(DoubleVec2(i, j));
      const int x0 = static_cast<int>(std::floor(x)), y0 = static_cast<int>(std::floor(y));
      const double fx = x - x0, fy = y - y0;
      const double between = (1 - fy) * ((1 - fx) * lit(x0, y0, depth) + fx * lit(x0 + 1, y0, depth)) +
                             fy * ((1 - fx) * lit(x0, y0 + 1, depth) + fx * lit(x0 + 1, y0 + 1, depth));
      const double weight = std::exp(-(i * i + j * j) / (2 * deviation * deviation));
      sum += weight * between;
      whole += weight;
    }
  }
  return sum / whole;
}

}  // namespace

TEST_CASE_METHOD(TestDevice, "a gaussian filter gives what one comparison for each of its places gives") {
  const Vec3 sun(0.5f, -1, 0.2f);
  for (const int radius : {0, 1, 2, 3, 4}) {
    INFO("radius " << radius);
    Yard yard(sun);
    yard.show_ball({-0.4f, 1.2f, 0.5f}, 0.8f);
    yard.show("box", shapes::box({0.3f, 2, 0.3f}), {1.5f, 1, -1});
    const Image open = yard.render_without(device);
    passes::ShadowMap shadow = without_ground();
    shadow.filter = radius == 0 ? ShadowFilter::linear : ShadowFilter::gaussian;
    shadow.radius = static_cast<float>(std::max(1, radius));
    passes::Forward options;
    options.shadows = {"map"};
    Yard::Frame made = yard.frame(shadow, options, TargetSize::pixels(96, 96));
    made.graph.keep(made.map);
    gl::FrameRunner runner(device, made.graph.plan(size, size, device.limits()).value());
    runner.run(0);
    const Image found = runner.read("color"), map = runner.read("map");
    const Camera& light = *runner.camera(0);
    const Mat4 to_clip = light.projection(1).matrix() * light.view().matrix();
    int partly = 0, far_off = 0;
    for (int y = 0; y < size; ++y) {
      for (int x = 0; x < size; ++x) {
        const Vec3 point = on_floor(x, y);
        // Seen from above, the ball and the box hide the floor; where the box stands on it, depths are equal.
        if ((point - Vec3(-0.4f, 0, 0.5f)).norm() < 0.9f || (point - Vec3(1.5f, 0, -1)).norm() < 0.5f) continue;
        const double expected =
            share_by_hand(map, to_clip, point, -sun.normalized(), light.parallel_height / 96, radius);
        const double share = found.at(x, y)[0] / open.at(x, y)[0];
        // Drivers blend in steps of 1/256 of a texel, along both axes.
        far_off += std::abs(share - expected) > 0.02;
        partly += expected > 0.02 && expected < 0.98;
      }
    }
    CHECK(partly > 50);
    CHECK(far_off == 0);
  }
}

TEST_CASE_METHOD(TestDevice, "what faces the sun does not shadow itself, however coarse the map is") {
  Yard yard({-0.5f, -1, 0.3f});
  yard.show_ball({0, 1.5f, 0}, 1.4f);
  const Image open = yard.render_without(device);
  for (const auto& [map, filter, radius] : {std::tuple(64, ShadowFilter::linear, 1.0f),
                                            {256, ShadowFilter::linear, 1.0f},
                                            {1024, ShadowFilter::linear, 1.0f},
                                            {128, ShadowFilter::gaussian, 1.0f},
                                            {512, ShadowFilter::gaussian, 4.0f},
                                            {512, ShadowFilter::disc, 5.0f}}) {
    passes::ShadowMap shadow = without_ground();
    shadow.filter = filter;
    shadow.radius = radius;
    const Image shadowed = yard.render(device, shadow, {}, 0, TargetSize::pixels(map, map));
    int wrong = 0, looked_at = 0;
    for (int y = 0; y < size; ++y) {
      for (int x = 0; x < size; ++x) {
        const Vec3 from_middle = on_floor(x, y);
        const float across = from_middle.norm() / 1.4f;
        if (across > 0.95f) continue;
        const Vec3 normal(from_middle.x() / 1.4f, std::sqrt(1 - across * across), from_middle.z() / 1.4f);
        if (normal.dot(Vec3(0.5f, 1, -0.3f).normalized()) < 0.15f) continue;
        ++looked_at;
        wrong += std::abs(shadowed.at(x, y)[0] - open.at(x, y)[0]) > 1e-5 * open.at(x, y)[0];
      }
    }
    INFO("map " << map << ", filter " << static_cast<int>(filter));
    REQUIRE(looked_at > 1000);
    REQUIRE(wrong == 0);
  }
}

TEST_CASE_METHOD(TestDevice, "tags choose who casts, and on whom shadows fall") {
  Yard yard({0, -1, 0.5f});
  // Lids over the floor: each one's shadow lies half a metre further back.
  yard.show("left lid", shapes::box({1, 0.1f, 1}), {-2, 1, 0}, {"lids", "left"});
  yard.show("right lid", shapes::box({1, 0.1f, 1}), {2, 1, 0}, {"lids"});
  // A mat under the right one's shadow.
  yard.show("mat", shapes::box({3, 0.02f, 3}), {2, 0.01f, 0}, {"mat"});
  const Vec3 left(-2, 0, 0.75f), right(2, 0, 0.75f), open(0, 0, -3);
  const auto lit = [](const Image& image, const Vec3& place) { return red(image, place) > 0; };
  const Image all = yard.render(device);
  REQUIRE((lit(all, open) && !lit(all, left) && !lit(all, right)));

  passes::ShadowMap shadow;
  shadow.tags = {"lids"};
  shadow.without_tags = {"left"};
  const Image some = yard.render(device, shadow);
  REQUIRE((lit(some, open) && lit(some, left) && !lit(some, right)));

  passes::Forward options;
  options.without_receivers = {"mat"};
  const Image spared = yard.render(device, sharp(), options);
  REQUIRE((lit(spared, open) && !lit(spared, left) && lit(spared, right)));

  options.receivers = {"mat"};
  options.without_receivers = {};
  const Image only = yard.render(device, sharp(), options);
  REQUIRE((lit(only, open) && lit(only, left) && !lit(only, right)));

  // An empty list chooses none.
  options.receivers = ChosenNames::none();
  const Image nowhere = yard.render(device, sharp(), options);
  REQUIRE((lit(nowhere, open) && lit(nowhere, left) && lit(nowhere, right)));
  shadow.tags = ChosenNames::none();
  const Image uncast = yard.render(device, shadow);
  REQUIRE((lit(uncast, open) && lit(uncast, left) && lit(uncast, right)));
}

TEST_CASE_METHOD(TestDevice, "masked casters keep their holes, blended ones cast nothing") {
  Yard yard({0, -1, 0.5f});
  // Holes in the left half of the image.
  auto pixels = std::make_shared<Image>(2, 1, Format::rgba8);
  pixels->set(0, 0, {255, 255, 255, 0});
  pixels->set(1, 0, {255, 255, 255, 255});
  const TextureHandle holes =
      yard.scene->add_texture({.name = "holes", .image = pixels, .sampling = {.filter = Filter::nearest}});
  Material lattice{.name = "lattice", .alpha_mode = Material::AlphaMode::mask};
  lattice.base_color_map.texture = holes;
  lattice.base_color_map.scale = {0.5f, 0.5f};  // two metres a tile
  yard.scene->add_material(lattice);
  yard.scene->add_material({.name = "glass", .alpha = 0.5f, .alpha_mode = Material::AlphaMode::blend});
  yard.show("sheet", shapes::plane(2, 2), {-2, 1, 0}, {}, "lattice");
  yard.show("pane", shapes::plane(2, 2), {2, 1, 0}, {}, "glass");
  const Image image = yard.render(device);
  // The shadows reach half a metre further back than the sheets, from 1 to 1.5.
  const double left = red(image, {-2.5f, 0, 1.25f}), right = red(image, {-1.5f, 0, 1.25f});
  REQUIRE(std::max(left, right) > 0);
  REQUIRE(std::min(left, right) == 0);
  REQUIRE(red(image, {2.5f, 0, 1.25f}) > 0);
  REQUIRE(red(image, {1.5f, 0, 1.25f}) > 0);
}

TEST_CASE_METHOD(TestDevice, "light from all around reaches into shadows, and other lights do") {
  Yard yard({0.5f, -1, 0});
  yard.show_ball({0, 1.2f, 0}, 0.8f);
  yard.scene->add_light(AmbientLight{.name = "sky"});
  yard.scene->add_light(
      Light{.name = "lamp", .kind = PointLight{.intensity = 5, .position = {3, 3, 3}}, .tags = {"lamps"}});
  passes::Forward others;
  others.lights = {"sky", "lamp"};
  const Image without_sun = render_front(device, yard.scene, size, others), image = yard.render(device);
  const Vec3 shadow(1.2f, 0, 0), open(-3, 0, 0);
  REQUIRE(red(image, shadow) == red(without_sun, shadow));
  REQUIRE(red(image, open) > 1.5 * red(without_sun, open));
}

TEST_CASE_METHOD(TestDevice, "shadows follow their casters in time, and a time asked for twice gives the same pixels") {
  Yard yard({0, -1, 0.25f});
  Motion slide{.kind = Motion::Kind::slide, .axis = Vec3::unit_x(), .from = -2, .to = 2, .period = 4};
  yard.show("ball", shapes::sphere(0.5f, 64), {0, 2, 0}, {}, "white", slide);
  passes::Forward options;
  options.shadows = {"map"};
  const Yard::Frame made = yard.frame(without_ground(), options, TargetSize::pixels(256, 256));
  gl::FrameRunner runner(device, made.graph.plan(size, size, device.limits()).value());
  // Its shadow's middle lies half a metre further back, of which 0.45 m look out from under it.
  const Vec3 there(-2, 0, 0.75f), then(2, 0, 0.75f);
  runner.run(0);
  const Image first = runner.read("color");
  REQUIRE((red(first, there) == 0 && red(first, then) > 0));
  runner.run(2);
  const Image second = runner.read("color");
  REQUIRE((red(second, there) > 0 && red(second, then) == 0));
  runner.run(0);
  REQUIRE(runner.read("color").bytes()[0] == first.bytes()[0]);
  const Image again = runner.read("color");
  REQUIRE(std::equal(again.bytes().begin(), again.bytes().end(), first.bytes().begin()));
}

TEST_CASE_METHOD(TestDevice, "the map's numbers are distances from the light's view, however high the map is") {
  const Vec3 sun(0.6f, -0.8f, 0);
  Yard yard(sun);
  yard.show_ball({0, 2, 0}, 0.5f);
  passes::Forward options;
  options.shadows = {"map"};
  for (const auto& [map_width, map_height] : {std::pair(64, 64), std::pair(96, 64), std::pair(64, 96)}) {
    Yard::Frame made = yard.frame(without_ground(), options, TargetSize::pixels(map_width, map_height));
    made.graph.keep(made.map);
    gl::FrameRunner runner(device, made.graph.plan(size, size, device.limits()).value());
    runner.run(0);
    const Camera* light = runner.camera(0);
    REQUIRE(light);
    const Image map = runner.read("map");
    const double nearest =
        light->projection(1).distance_at(static_cast<float>(map.at(map_width / 2, map_height / 2)[0]));
    // The ball's side that faces the sun is a radius before its middle; a texel's middle is up to half a texel away.
    const double expected = (Vec3(0, 2, 0) - light->eye).dot(sun.normalized()) - 0.5;
    INFO(map_width << " x " << map_height);
    REQUIRE(nearest == Approx(expected).margin(0.001));
    int covered = 0;
    for (int y = 0; y < map_height; ++y)
      for (int x = 0; x < map_width; ++x) covered += map.at(x, y)[0] > 0;
    const double texel = light->parallel_height / static_cast<double>(map_height);
    REQUIRE(covered * texel * texel == Approx(std::numbers::pi * 0.25).epsilon(0.03));
    for (int x = 0; x < map_width; ++x) REQUIRE(map.at(x, 0)[0] == 0);
  }
}

TEST_CASE_METHOD(TestDevice, "without casters everything is lit, and that is told") {
  Yard yard({0.5f, -1, 0});
  passes::Forward options;
  options.shadows = {"map"};
  const Yard::Frame made = yard.frame(without_ground(), options, TargetSize::pixels(64, 64));
  REQUIRE(has(made.graph.plan(size, size), "no-casters"));
  const Image open = yard.render_without(device), image = yard.render(device, without_ground());
  REQUIRE(std::equal(image.bytes().begin(), image.bytes().end(), open.bytes().begin()));
}

TEST_CASE("shadow maps that can't be are told before anything runs") {
  Yard yard({0.5f, -1, 0});
  yard.show_ball({0, 1, 0}, 0.5f);
  yard.scene->add_light(Light{.name = "lamp", .kind = PointLight{}});
  yard.scene->add_light(Light{.name = "moon"});
  const TargetSize small = TargetSize::pixels(64, 64);
  const auto planned = [&](const passes::ShadowMap& shadow, const passes::Forward& options,
                           const std::function<void(FrameGraph&)>& more = {}) {
    Yard::Frame made = yard.frame(shadow, options, small);
    if (more) more(made.graph);
    return made.graph.plan(size, size);
  };
  passes::ShadowMap shadow;
  passes::Forward options;
  options.shadows = {"map"};
  REQUIRE(planned(shadow, options).ok());
  REQUIRE(planned(shadow, options).diagnostics().empty());

  shadow.light = "lamp";
  const PlanResult small_for_six = planned(shadow, options);
  REQUIRE((small_for_six.ok() && has(small_for_six, "too-few-tiles")));
  shadow.cascades = 2;
  REQUIRE(has(planned(shadow, options), "light-kind"));
  shadow.cascades = 0;
  shadow.lights = {"lamp", "moon"};
  REQUIRE(has(planned(shadow, options), "bad-shadow"));
  shadow.lights.clear();
  FrameGraph mixed_frame;
  mixed_frame.target("map", {.format = Format::depth32f, .size = small});
  mixed_frame.add(passes::shadow_map({.scene = yard.scene, .lights = {"lamp", "moon"}, .depth = "map"}));
  REQUIRE(has(mixed_frame.plan(size, size), "light-kind"));
  shadow.light = "smu";
  REQUIRE(has(planned(shadow, options), "unknown-light"));
  FrameGraph unlit_frame;
  unlit_frame.target("map", {.format = Format::depth32f, .size = small});
  unlit_frame.add(passes::shadow_map({.scene = yard.scene, .depth = "map"}));
  REQUIRE(has(unlit_frame.plan(size, size), "unknown-light"));
  shadow.light = "moon";
  options.lights = {"sun"};
  const PlanResult unlit = planned(shadow, options);
  REQUIRE((unlit.ok() && has(unlit, "unlit-shadow")));

  shadow.light = "sun";
  options.shadows = {"depth"};
  REQUIRE(has(planned(shadow, options), "feedback-loop"));
  options.shadows = {"map", "map"};
  REQUIRE(has(planned(shadow, options), "shadow-twice"));
  options.shadows = {"map", "map", "map", "map", "map"};
  REQUIRE(has(planned(shadow, options), "too-many-shadows"));

  options.shadows = {"map"};
  const auto second_map = [&](FrameGraph& graph) {
    graph.add(passes::shadow_map({.name = "again", .scene = yard.scene, .light = "moon", .depth = "map"}));
  };
  REQUIRE(has(planned(shadow, options, second_map), "shared-shadow-map"));
  const auto by_hand = [&](FrameGraph& graph) {
    graph.add({.name = "mine", .writes = {{"depth", "map"}}, .work = gl::raw_work([](gl::PassContext&) {})});
  };
  REQUIRE(has(planned(shadow, options, by_hand), "not-a-shadow-map"));

  options.shadows = {};
  options.receivers = {"ground"};
  REQUIRE(has(planned(shadow, options), "no-shadows"));
  Yard other({0, -1, 0});
  shadow.scene = other.scene;
  FrameGraph two;
  two.target("map", {.format = Format::depth32f, .size = small});
  two.add(passes::shadow_map({.scene = other.scene, .light = "sun", .depth = "map"}));
  two.add(passes::forward({.scene = yard.scene, .view = "front", .shadows = {"map"}, .color = two.output()}));
  REQUIRE(has(two.plan(size, size), "other-scene"));
}
