#pragma once

#include "gl/random_scene.h"
#include "thrown.h"

#include <fmt/format.h>
#include <catch2/catch.hpp>

#include <algorithm>

/// A scene that is edited, and what it is to be, kept alike. Objects 0 and 1 stay: a lamp follows the first, and the
/// second has the tag that passes leave out.
class EditedScene {
 public:
  explicit EditedScene(unsigned seed) : random(seed) {
    for (std::size_t i = 0; i < wanted.objects.size(); ++i) wanted.objects[i].number = static_cast<int>(i);
    wanted.lamp_carrier = 0;
    next_ = static_cast<int>(wanted.objects.size());
    scene = wanted.made();
  }

  /// Any change, chosen by dice from what there is. So some edits of a list can be left out, and the others still be
  /// made.
  /// @return what it was
  std::string edit(unsigned dice) {
    random.reseed(dice);
    if (wanted.objects.size() < 4) return add();
    switch (random.below(22)) {
      case 0:
      case 1: return move();
      case 2: return release();
      case 3: return look();
      case 4: return light();
      case 5: return ambient();
      case 6: return fog();
      case 7:
      case 8: return material();
      case 9:
      case 10: return add();
      case 11:
      case 12: return remove();
      case 13: return set_mesh();
      case 14: return show();
      case 15: return tag();
      case 16:
      case 17: return hang();
      case 18: return reshape();
      case 19: return paint();
      case 20: return turn_sky();
      default: return random.below(2) ? come_and_go_of_lights() : come_and_go_of_meshes();
    }
  }

  RandomScene random;
  WantedScene& wanted = random.wanted;
  std::shared_ptr<Scene> scene;

 private:
  using Object = WantedScene::Object;

  NodeHandle handle(const Object& object) const { return scene->find_node(WantedScene::name_of(object.number)); }
  Object& any() { return wanted.objects[random.below(wanted.objects.size())]; }
  Object& any_but_two() { return wanted.objects[2 + random.below(wanted.objects.size() - 2)]; }
  static std::string said(const char* what, const Object& object) { return fmt::format("{} {}", what, object.number); }

  std::string move() {
    Object& object = any();
    object.local = random.transform();
    object.dynamic = true;
    scene->set_local_transform(handle(object), object.local);
    return said("move", object);
  }

  std::string release() {
    Object& object = any();
    object.dynamic = false;
    scene->release(handle(object));
    return said("release", object);
  }

  std::string look() {
    wanted.camera.eye = random.vec(2) + Vec3(0, 3, 9);
    scene->set_camera(scene->view_handle("front"), wanted.camera);
    return "camera";
  }

  std::string light() {
    Light& light = wanted.lights[random.below(wanted.lights.size())];
    const std::string name = light.name;
    light = name == "sun" ? random.directional() : name == "spot" ? random.spot() : random.point();
    light.name = name;
    Light now = light;
    if (name == "lamp") now.node = scene->find_node(WantedScene::name_of(wanted.lamp_carrier));
    scene->change_light(scene->light_handle(name), now);
    return "light " + name;
  }

  std::string ambient() {
    wanted.ambient.sky = random.color();
    scene->change_light(scene->ambient_light_handle("room"), wanted.ambient);
    return "ambient light";
  }

  std::string fog() {
    wanted.fog.density = random.number(0, 0.2f);
    wanted.fog.color = random.color();
    scene->change_fog(scene->fog_handle("mist"), wanted.fog);
    return "fog";
  }

  std::string turn_sky() {
    wanted.sky.rotation = random.number(0, 6);
    wanted.sky.intensity = random.number(0, 2);
    scene->change_environment(scene->environment_handle("sky"), wanted.sky);
    return "environment";
  }

  std::string material() {
    const std::size_t i = random.below(wanted.materials.size());
    Material& material = wanted.materials[i];
    const Material::AlphaMode mode = material.alpha_mode;
    material = random.material(material.name);
    material.alpha_mode = mode;
    if (random.below(3) == 0) material.metallic = 0;
    scene->change_material(scene->find_material(material.name), wanted.material(i, *scene));
    return material.name;
  }

  std::size_t any_mesh() { return random.below(2 + wanted.more_meshes.size()); }
  std::size_t mesh_numbered(std::size_t which) const {
    return which < 2 ? which : static_cast<std::size_t>(wanted.more_meshes[which - 2]) + 2;
  }

  std::string add() {
    if (wanted.objects.size() > 30) return "nothing";
    Object object = random.object();
    object.mesh = mesh_numbered(any_mesh());
    if (object.parent >= 0) object.parent = wanted.number_of(static_cast<std::size_t>(object.parent));
    object.number = next_++;
    wanted.objects.push_back(object);
    scene->add_node(wanted.node(wanted.objects.size() - 1, *scene));
    return said("add", object);
  }

  bool stands_below(int number, int above) const {
    while (number >= 0 && number != above) {
      const auto& all = wanted.objects;
      number = std::find_if(all.begin(), all.end(), [&](const auto& one) { return one.number == number; })->parent;
    }
    return number == above;
  }

  std::string remove() {
    const Object object = any_but_two();
    if (stands_below(0, object.number) || stands_below(1, object.number)) return "nothing";
    scene->remove(handle(object));
    std::vector<Object> left;
    for (const Object& one : wanted.objects) {
      if (!stands_below(one.number, object.number)) left.push_back(one);
    }
    wanted.objects = std::move(left);
    return said("remove", object);
  }

  std::string set_mesh() {
    Object& object = any();
    object.mesh = mesh_numbered(any_mesh());
    object.material = random.below(wanted.materials.size());
    scene->set_mesh(handle(object), scene->find_mesh(WantedScene::mesh_name_of(object.mesh)),
                    scene->find_material(wanted.materials[object.material].name));
    return said("another mesh for", object);
  }

  std::string show() {
    Object& object = any_but_two();
    object.visible = !object.visible;
    scene->set_visible(handle(object), object.visible);
    return said(object.visible ? "show" : "hide", object);
  }

  std::string tag() {
    Object& object = any_but_two();
    object.tags = random.below(2) ? std::vector<std::string>{"aside", "other"} : std::vector<std::string>{};
    scene->set_tags(handle(object), object.tags);
    return said("tags of", object);
  }

  std::string hang() {
    Object& object = any_but_two();
    const int parent = random.below(4) == 0 ? -1 : any().number;
    const NodeHandle to = parent < 0 ? NodeHandle{} : scene->find_node(WantedScene::name_of(parent));
    if (parent >= 0 && stands_below(parent, object.number)) {
      CHECK(thrown_slug([&] { scene->set_parent(handle(object), to); }) == "parent-cycle");
      return "nothing";
    }
    object.parent = parent;
    scene->set_parent(handle(object), to);
    return said("another parent for", object);
  }

  std::string reshape() {
    wanted.box_size = random.number(0.2f, 0.6f);
    wanted.box_dynamic = true;
    scene->change_mesh(scene->find_mesh("box"), shapes::box(Vec3::constant(wanted.box_size)));
    return "vertices of the box";
  }

  std::string paint() {
    const auto left = static_cast<int>(random.below(16)), top = static_cast<int>(random.below(8));
    Image part(1 + static_cast<int>(random.below(static_cast<std::size_t>(16 - left))),
               1 + static_cast<int>(random.below(static_cast<std::size_t>(8 - top))), Format::rgba8_srgb);
    const Vec3 color = 255 * random.color();
    for (int y = 0; y < part.height(); ++y) {
      for (int x = 0; x < part.width(); ++x) {
        part.set(x, y, {color.x(), color.y(), color.z(), 255});
        wanted.paint.set(left + x, top + y, {color.x(), color.y(), color.z(), 255});
      }
    }
    scene->change_texture(scene->find_texture("paint"), part, left, top);
    return "texture";
  }

  /// Six at most: with eight there are lists of lights, and Mesa's software Vulkan driver crashes at those next to
  /// ambient light.
  std::string come_and_go_of_lights() {
    if (wanted.lights.size() > 5 || (wanted.lights.size() > 3 && random.below(2))) {
      const auto which =
          wanted.lights.begin() + 3 + static_cast<std::ptrdiff_t>(random.below(wanted.lights.size() - 3));
      const std::string name = which->name;
      scene->remove(scene->light_handle(name));
      wanted.lights.erase(which);
      return "remove " + name;
    }
    Light added = random.point();
    added.name = fmt::format("light {}", next_++);
    scene->add_light(added);
    wanted.lights.push_back(added);
    return "add " + added.name;
  }

  std::string come_and_go_of_meshes() {
    const auto used = [&](int number) {
      return std::any_of(wanted.objects.begin(), wanted.objects.end(),
                         [&](const Object& one) { return one.mesh == static_cast<std::size_t>(number) + 2; });
    };
    auto& all = wanted.more_meshes;
    const auto unused = std::find_if(all.begin(), all.end(), [&](int number) { return !used(number); });
    if (unused != all.end() && random.below(2)) {
      const std::string name = WantedScene::mesh_name_of(static_cast<std::size_t>(*unused) + 2);
      scene->remove(scene->find_mesh(name));
      all.erase(unused);
      return "remove " + name;
    }
    if (all.size() > 5) return "nothing";
    all.push_back(next_++);
    const std::string name = WantedScene::mesh_name_of(static_cast<std::size_t>(all.back()) + 2);
    scene->add_mesh(name, WantedScene::mesh_of(all.back()));
    return "add " + name;
  }

  int next_ = 0;
};
