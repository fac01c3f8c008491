#pragma once

#include <periscena/graph/frame_graph.h>
#include <periscena/passes/forward.h>
#include <periscena/scene/scene.h>

#include <fmt/format.h>

#include <memory>
#include <random>
#include <vector>

using namespace periscena;

inline constexpr int object_count = 20000, material_count = 50, frame_width = 96, frame_height = 54;

struct Turn {
  Vec3 at;
  float period;
};

/// A field of boxes, balls and posts, each turning on its own when they move.
struct Field {
  std::shared_ptr<Scene> scene = std::make_shared<Scene>();
  std::vector<Turn> turns;
  Camera camera;

  explicit Field(bool moving) {
    std::mt19937 dice(11);
    std::uniform_real_distribution<float> share(0, 1);
    camera.eye = {0, 22, 60};
    camera.target = {0, 0, 0};
    scene->add_view({"front", camera});
    scene->add_light(Light{.name = "sun", .kind = DirectionalLight{.illuminance = 3, .direction = {0.4f, -1, -0.3f}}});
    std::vector<MeshHandle> meshes;
    for (int i = 0; i < 12; ++i) {
      const float size = 0.15f + 0.02f * static_cast<float>(i);
      meshes.push_back(scene->add_mesh(fmt::format("mesh {}", i), i % 3 == 0   ? shapes::box({size, 2 * size, size})
                                                                  : i % 3 == 1 ? shapes::sphere(size, 8)
                                                                               : shapes::cylinder(size, 0.5f, 8)));
    }
    std::vector<TextureHandle> textures;
    for (int i = 0; i < 10; ++i) {
      const int size = i % 2 ? 32 : 64;
      auto image = std::make_shared<Image>(size, size, Format::rgba8);
      for (int p = 0; p < size * size; ++p) image->set(p % size, p / size, {255 * share(dice), 200, 180, 255});
      textures.push_back(scene->add_texture({.name = fmt::format("texture {}", i), .image = image}));
    }
    for (int i = 0; i < material_count; ++i) {
      Material material{.name = fmt::format("material {}", i),
                        .base_color = Vec3(share(dice), share(dice), share(dice)),
                        .roughness = share(dice)};
      if (i % 3) material.base_color_map.texture = textures[static_cast<std::size_t>(i) % textures.size()];
      scene->add_material(material);
    }
    for (int i = 0; i < object_count; ++i) {
      Node node;
      node.mesh = meshes[static_cast<std::size_t>(i * 7) % meshes.size()];
      node.material = scene->find_material(fmt::format("material {}", i % material_count));
      turns.push_back({{static_cast<float>(i % 200) - 100, 0, 50 - static_cast<float>(i / 200)}, 2 + 3 * share(dice)});
      node.placement = Transform::translate(turns.back().at);
      if (moving)
        node.motion = Motion{.kind = Motion::Kind::spin, .axis = Vec3::unit_y(), .period = turns.back().period};
      scene->add_node(node);
    }
  }

  FrameGraph frame(batch::Batching batching) const {
    FrameGraph frame;
    frame.add(passes::forward({.scene = scene,
                               .view = "front",
                               .batching = batching,
                               .color = frame.output(),
                               .depth = frame.target("depth", {.format = Format::depth32f})}));
    return frame;
  }
};
