#pragma once

#include <periscena/scene/scene.h>

#include <string>
#include <utility>

/// Shows a mesh of its own in the scene's first material.
inline void show_white(periscena::Scene& scene, const std::string& name, periscena::Mesh mesh,
                       const periscena::Vec3& at) {
  periscena::Node node;
  node.name = name;
  node.mesh = scene.add_mesh(name, std::move(mesh));
  node.material = periscena::MaterialHandle{0};
  node.placement = periscena::Transform::translate(at);
  if (name == "floor") node.tags = {"ground"};
  scene.add_node(node);
}
