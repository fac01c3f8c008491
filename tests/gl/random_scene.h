#pragma once

#include <periscena/periscena.h>

#include <random>

using namespace periscena;

/// What a scene is to be, kept by the test itself: a scene is made of it from nothing, to compare with one that was
/// changed step by step.
struct WantedScene {
  struct Object {
    std::size_t mesh = 0, material = 0;
    int parent = -1;  ///< number of another object; −1: none
    Transform local = Transform::identity();
    std::optional<Motion> motion;
    bool dynamic = false;
    int number = -1;  ///< names it; −1: its place in the list, which only what is never removed may have
    bool visible = true;
    std::vector<std::string> tags = {};
  };
  std::vector<Object> objects;
  std::vector<int> more_meshes;  ///< numbers of those that came later; an object's mesh 2 is number 0
  Image paint = painted();       ///< on material 1
  Environment sky{.name = "sky", .images = {gradient_sky({0.1f, 0.2f, 0.5f}, {0.6f, 0.5f, 0.4f}, {0.1f, 0.1f, 0})}};
  float box_size = 0.4f;
  bool box_dynamic = false;
  int lamp_carrier = -1;  ///< number of the object that the lamp follows
  std::vector<Material> materials;
  std::vector<Light> lights;
  AmbientLight ambient{.name = "room", .sky = {0.2f, 0.2f, 0.3f}, .ground = {0.1f, 0.1f, 0.1f}};
  Fog fog{.name = "mist", .color = {0.3f, 0.3f, 0.4f}, .density = 0.02f};
  Camera camera{.eye = {0, 3, 9}, .fov_y = radians(45)};

  int number_of(std::size_t index) const {
    return objects[index].number >= 0 ? objects[index].number : static_cast<int>(index);
  }
  static std::string name_of(int number) { return "object " + std::to_string(number); }
  static std::string mesh_name_of(std::size_t mesh) {
    return mesh == 0 ? "box" : mesh == 1 ? "sphere" : "mesh " + std::to_string(mesh - 2);
  }
  static Mesh mesh_of(int number) {
    const float size = 0.25f + 0.1f * static_cast<float>(number % 5);
    return number % 2 ? shapes::sphere(size, 6 + number % 7) : shapes::box({size, 0.4f, 0.7f - size});
  }
  static Image painted() {
    Image image(16, 8, Format::rgba8_srgb);
    for (int y = 0; y < 8; ++y)
      for (int x = 0; x < 16; ++x) image.set(x, y, {16.0 * x, 30.0 * y, 99, 255});
    return image;
  }
  /// @param scene  that it shall be in: its texture is there
  Material material(std::size_t index, const Scene& scene) const {
    Material material = materials[index];
    if (index == 1) material.base_color_map = {.texture = scene.find_texture("paint")};
    return material;
  }

  /// @param scene  that it shall be in: its parent is there
  Node node(std::size_t index, const Scene& scene) const {
    const Object& object = objects[index];
    Node node;
    node.name = name_of(number_of(index));
    node.mesh = scene.find_mesh(mesh_name_of(object.mesh));
    node.material = scene.find_material(materials[object.material].name);
    if (object.parent >= 0) node.parent = scene.find_node(name_of(object.parent));
    node.visible = object.visible;
    node.tags = object.tags;
    node.placement = object.local;
    node.motion = object.motion;
    node.dynamic = object.dynamic;
    return node;
  }

  std::shared_ptr<Scene> made() const {
    auto scene = std::make_shared<Scene>();
    Mesh box = shapes::box(Vec3::constant(box_size));
    box.dynamic = box_dynamic;
    scene->add_mesh("box", std::move(box));
    scene->add_mesh("sphere", shapes::sphere(0.4f, 12));
    for (const int number : more_meshes)
      scene->add_mesh(mesh_name_of(static_cast<std::size_t>(number) + 2), mesh_of(number));
    scene->add_texture({.name = "paint", .image = std::make_shared<Image>(paint)});
    for (std::size_t i = 0; i < materials.size(); ++i) scene->add_material(material(i, *scene));
    scene->add_environment(sky);
    // Parents first, wherever they stand in the list.
    for (std::size_t left = objects.size(); left > 0;) {
      for (std::size_t i = 0; i < objects.size(); ++i) {
        const int parent = objects[i].parent;
        const bool waits = parent >= 0 && !scene->find_node(name_of(parent)).valid();
        if (waits || scene->find_node(name_of(number_of(i))).valid()) continue;
        scene->add_node(node(i, *scene));
        --left;
      }
    }
    for (Light light : lights) {
      if (light.name == "lamp" && lamp_carrier >= 0) light.node = scene->find_node(name_of(lamp_carrier));
      scene->add_light(light);
    }
    scene->add_light(ambient);
    scene->add_fog(fog);
    scene->add_view({"front", camera});
    return scene;
  }
};

class RandomScene {
 public:
  explicit RandomScene(unsigned seed) : random_(seed) {
    for (int i = 0; i < 4; ++i) wanted.materials.push_back(material("material " + std::to_string(i)));
    wanted.materials[3].alpha_mode = Material::AlphaMode::blend;
    for (int i = 0; i < 12; ++i) wanted.objects.push_back(object());
    wanted.objects[1].tags = {"aside"};  // for passes that leave some out
    wanted.lights = {directional(), point(), spot()};
  }

  void reseed(unsigned seed) { random_.seed(seed); }
  float number(float from, float to) { return std::uniform_real_distribution<float>(from, to)(random_); }
  std::size_t below(std::size_t count) { return random_() % count; }
  Vec3 vec(float size) { return {number(-size, size), number(-size, size), number(-size, size)}; }
  Vec3 color() { return {number(0, 1), number(0, 1), number(0, 1)}; }

  Material material(const std::string& name) {
    Material material{.name = name, .base_color = color(), .metallic = 0.5f, .roughness = number(0.1f, 1)};
    material.alpha = number(0.3f, 1);
    return material;
  }

  Transform transform() {
    return Transform::scale(Vec3::constant(number(0.5f, 1.5f)))
        .then(Transform::rotate(Vec3(1, 2, 3).normalized(), number(0, 6)))
        .then(Transform::translate(vec(2.5f)));
  }

  WantedScene::Object object() {
    WantedScene::Object made{below(2), below(wanted.materials.size()), -1, transform(), {}, below(3) == 0};
    if (!wanted.objects.empty() && below(3) == 0) made.parent = static_cast<int>(below(wanted.objects.size()));
    if (below(3) == 0) made.motion = Motion{.kind = Motion::Kind::spin, .axis = Vec3::unit_y(), .period = 3};
    return made;
  }

  Light directional() {
    return {
        .name = "sun", .kind = DirectionalLight{number(1, 4), {number(-1, 1), -1, number(-1, 1)}}, .color = color()};
  }
  Light point() { return {.name = "lamp", .kind = PointLight{number(1, 20), vec(3), number(3, 8)}, .color = color()}; }
  Light spot() {
    return {
        .name = "spot",
        .kind = SpotLight{number(10, 40), {number(-2, 2), 4, number(-2, 2)}, {0, -1, 0}, 20, 0.1f, number(0.3f, 0.8f)},
        .color = color()};
  }

  WantedScene wanted;

 private:
  std::mt19937 random_;
};
