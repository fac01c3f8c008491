#include "model/gltf/import.h"

#include <periscena/base/error.h>

#include <fmt/format.h>

#include <algorithm>

namespace periscena::gltf {
namespace {

Quat quaternion(const std::vector<float>& xyzw, const JsonReader& where) {
  const Quat q(xyzw[3], xyzw[0], xyzw[1], xyzw[2]);
  if (!(q.numbers().norm() > 1e-6f)) where.refuse("is a rotation of length 0", "rotations are quaternions of length 1");
  return q;
}

std::vector<std::string> texts(const JsonReader& json, const char* key) {
  std::vector<std::string> texts;
  for (const JsonReader& item : json.items(key)) texts.push_back(item.text());
  return texts;
}

Motion read_motion(const JsonReader& json) {
  Motion motion;
  const std::string kind = json.text("kind", "swing");
  motion.kind = kind == "spin" ? Motion::Kind::spin : kind == "slide" ? Motion::Kind::slide : Motion::Kind::swing;
  motion.axis = json.vec3("axis", motion.axis);
  motion.pivot = json.vec3("pivot", motion.pivot);
  motion.from = json.number("from", motion.from);
  motion.to = json.number("to", motion.to);
  motion.period = json.number("period", motion.period);
  motion.phase = json.number("phase", motion.phase);
  motion.hold_from = json.number("hold_from", motion.hold_from);
  motion.hold_to = json.number("hold_to", motion.hold_to);
  return motion;
}

template <class Value, class Vector>
Track<Value> read_track(Interpolation interpolation, const Stream<Matrix<float, 1, 1>>& times,
                        const Stream<Vector>& values) {
  Track<Value> track;
  track.interpolation = interpolation;
  for (const auto& time : times) track.times.push_back(time[0]);
  for (const Vector& value : values) {
    if constexpr (std::is_same_v<Value, Quat>) {
      track.values.emplace_back(value[3], value[0], value[1], value[2]);
    } else {
      track.values.push_back(value);
    }
  }
  return track;
}

}  // namespace

Transform Importer::placement(const JsonReader& json) {
  try {
    if (const auto matrix = json.find("matrix")) {
      if (json.has("translation") || json.has("rotation") || json.has("scale"))
        json.refuse("has both a matrix and parts of one");
      return Transform::from_matrix(Mat4::of_numbers(matrix->numbers(16).data()));
    }
    const auto rotation = json.find("rotation");
    return Transform::scale(json.vec3("scale", Vec3::ones()))
        .then(rotation ? rotate(quaternion(rotation->numbers(4), *rotation)) : Transform::identity())
        .then(translate(json.vec3("translation", Vec3::zero())));
  } catch (const Mistake& mistake) {
    json.refuse(fmt::format("can't be placed: {}", mistake.diagnostics()[0].message), mistake.diagnostics()[0].mend);
  }
}

std::vector<std::size_t> Importer::node_order() {
  const std::size_t count = document_.count("nodes");
  parents_.assign(count, std::nullopt);
  std::vector<std::vector<std::size_t>> children(count);
  for (std::size_t i = 0; i < count; ++i) {
    for (const JsonReader& child : document_.item("nodes", i).items("children")) {
      const std::size_t index = child.index(count, "nodes");
      if (parents_[index])
        child.refuse(fmt::format("is {}, which hangs below nodes[{}] already", index, *parents_[index]));
      parents_[index] = i;
      children[i].push_back(index);
    }
  }
  // From the roots of the scene down; what is never reached is no part of it.
  std::vector<std::size_t> roots;
  const auto chosen = document_.root().index("scene", document_.count("scenes"), "scenes");
  if (chosen || document_.count("scenes") > 0) {
    for (const JsonReader& node : document_.item("scenes", chosen.value_or(0)).items("nodes")) {
      const std::size_t index = node.index(count, "nodes");
      if (parents_[index]) node.refuse(fmt::format("is {}, which hangs below nodes[{}]", index, *parents_[index]));
      roots.push_back(index);
    }
  } else {
    for (std::size_t i = 0; i < count; ++i) {
      if (!parents_[i]) roots.push_back(i);
    }
  }
  // With one parent at most for each, what no root leads to hangs below itself.
  std::vector<std::size_t> below;
  for (std::size_t i = 0; i < count; ++i) {
    if (!parents_[i]) below.push_back(i);
  }
  for (std::size_t i = 0; i < below.size(); ++i)
    below.insert(below.end(), children[below[i]].begin(), children[below[i]].end());
  if (below.size() < count) {
    std::vector<bool> reached(count);
    for (const std::size_t node : below) reached[node] = true;
    const auto ring = static_cast<std::size_t>(std::find(reached.begin(), reached.end(), false) - reached.begin());
    document_.item("nodes", ring)
        .refuse("hangs below itself", "a node is below one other at most, and never in a ring");
  }
  std::vector<std::size_t> order, open(roots.rbegin(), roots.rend());
  std::vector<bool> seen(count);
  while (!open.empty()) {
    const std::size_t node = open.back();
    open.pop_back();
    if (seen[node]) document_.item("nodes", node).refuse("is in the scene twice");
    seen[node] = true;
    order.push_back(node);
    open.insert(open.end(), children[node].rbegin(), children[node].rend());
  }
  // As they stand in the file, where parents stand before their children.
  std::vector<std::size_t> sorted = order;
  std::sort(sorted.begin(), sorted.end());
  const bool in_order = std::all_of(sorted.begin(), sorted.end(),
                                    [&](std::size_t node) { return !parents_[node] || *parents_[node] < node; });
  return in_order ? sorted : order;
}

void Importer::add_nodes() {
  nodes_.resize(document_.count("nodes"));
  const std::vector<std::size_t> order = node_order();
  add_animations();
  for (const std::size_t node : order) add_node(node);
}

void Importer::add_node(std::size_t index) {
  const JsonReader json = document_.item("nodes", index);
  const NodeHandle parent = parents_[index] ? nodes_[*parents_[index]] : NodeHandle{};
  if (add_own_thing(json, parent)) return;
  document_.budget().spend(1, sizeof(Node) + 200, json);
  Scene& scene = result_.scene;
  Node node;
  const std::string name = json.text("name", "");
  if (!name.empty())
    node.name = node_names_.next(name, [&](const std::string& n) { return scene.find_node(n).valid(); });
  node.parent = parent;
  node.placement = placement(json);
  if (const auto keyed = keyed_.find(index); keyed != keyed_.end()) {
    if (json.has("matrix"))
      json.refuse("is animated, but has a matrix", "animated nodes have translation, rotation, scale");
    KeyedPlacement& keys = keyed->second;
    keys.scale = json.vec3("scale", Vec3::ones());
    if (const auto rotation = json.find("rotation")) keys.rotation = quaternion(rotation->numbers(4), *rotation);
    keys.translation = json.vec3("translation", Vec3::zero());
    if (const auto own = json.own()) keys.repeat_seconds = own->number("repeat_seconds", 0);
    node.keys = std::make_shared<const KeyedPlacement>(std::move(keys));
  }
  if (const auto own = json.own()) {
    node.tags = texts(*own, "tags");
    if (const auto motion = own->find("motion")) node.motion = read_motion(*motion);
  }
  if (json.has("skin"))
    warn("unsupported-skin", fmt::format("{} is skinned, which is not supported", json.path()), "it is drawn unbent");
  const auto instancing = json.extension("EXT_mesh_gpu_instancing");
  const auto mesh = json.index("mesh", shapes_.size(), "meshes");
  const bool single = mesh && shapes_[*mesh].size() == 1 && !instancing;
  if (single) {
    node.mesh = shapes_[*mesh][0].mesh;
    if (node.mesh.valid()) node.material = material_of(shapes_[*mesh][0]);
  }
  try {
    nodes_[index] = scene.add_node(node);
  } catch (const Mistake& mistake) {
    json.refuse(mistake.diagnostics()[0].message, mistake.diagnostics()[0].mend);
  }
  if (single) {
    for (const auto& [variant, material] : shapes_[*mesh][0].variants)
      variant_choices_[variant].emplace_back(nodes_[index], material);
  } else if (instancing && mesh) {
    add_instances(json, *instancing, nodes_[index]);
  } else if (mesh) {
    add_shapes(json, nodes_[index], name);
  }
  add_light(json, nodes_[index]);
}

void Importer::add_shapes(const JsonReader& json, NodeHandle parent, const std::string& name) {
  Scene& scene = result_.scene;
  for (const Shape& shape : shapes_[json.at("mesh").whole()]) {
    if (!shape.mesh.valid()) continue;
    const MaterialHandle material = material_of(shape);
    document_.budget().spend(1, sizeof(Node) + 200, json);
    Node node;
    if (!name.empty()) {
      node.name = node_names_.next(fmt::format("{}: {}", name, scene.materials()[material.index].name),
                                   [&](const std::string& n) { return scene.find_node(n).valid(); });
    }
    node.parent = parent;
    node.mesh = shape.mesh;
    node.material = material;
    const NodeHandle added = scene.add_node(node);
    for (const auto& [variant, other] : shape.variants) variant_choices_[variant].emplace_back(added, other);
  }
}

void Importer::add_instances(const JsonReader& json, const JsonReader& instancing, NodeHandle parent) {
  const JsonReader attributes = instancing.at("attributes");
  const std::size_t accessors = document_.count("accessors");
  Stream<Vec3> translations, scales;
  Stream<Vec4> rotations;
  if (const auto accessor = attributes.index("TRANSLATION", accessors, "accessors"))
    translations = accessors_.floats<Vec3>(*accessor);
  if (const auto accessor = attributes.index("ROTATION", accessors, "accessors"))
    rotations = accessors_.floats<Vec4>(*accessor);
  if (const auto accessor = attributes.index("SCALE", accessors, "accessors"))
    scales = accessors_.floats<Vec3>(*accessor);
  const std::size_t count = std::max({translations.size(), rotations.size(), scales.size()});
  for (const std::size_t own : {translations.size(), rotations.size(), scales.size()}) {
    if (own != 0 && own != count) attributes.refuse(fmt::format("have {} and {} values", own, count));
  }
  document_.budget().spend(count, sizeof(Node) + 200, json);
  for (std::size_t i = 0; i < count; ++i) {
    Node node;
    node.parent = parent;
    try {
      if (!scales.empty()) node.placement = Transform::scale(scales[i]);
      if (!rotations.empty())
        node.placement =
            node.placement.then(rotate(Quat(rotations[i][3], rotations[i][0], rotations[i][1], rotations[i][2])));
      if (!translations.empty()) node.placement = node.placement.then(translate(translations[i]));
    } catch (const Mistake& mistake) {
      instancing.refuse(fmt::format("can't place instance {}: {}", i, mistake.diagnostics()[0].message));
    }
    add_shapes(json, result_.scene.add_node(node), "");
  }
}

void Importer::add_light(const JsonReader& json, NodeHandle node) {
  const auto use = json.extension("KHR_lights_punctual");
  if (!use) return;
  const auto declared = document_.root().extension("KHR_lights_punctual");
  const auto lights = declared ? declared->find("lights") : std::nullopt;
  const std::size_t number = use->at("light").index(lights ? lights->size() : 0, "lights");
  const JsonReader source = lights->item(number);
  Light light;
  const std::string type = source.at("type").text();
  if (type != "directional" && type != "point" && type != "spot")
    source.at("type").refuse(fmt::format("is \"{}\"", type));
  light.kind = type == "point" ? Light::Kind::point : type == "spot" ? Light::Kind::spot : Light::Kind::directional;
  light.color = source.vec3("color", Vec3::ones());
  light.intensity = source.number("intensity", 1);
  if (source.has("range")) light.range = source.number("range", 1);
  if (const auto spot = source.find("spot")) {
    light.inner_cone = spot->number("innerConeAngle", 0);
    light.outer_cone = spot->number("outerConeAngle", pi / 4);
  }
  light.direction = {0, 0, -1};
  light.node = node;
  if (const auto own = source.own()) {
    light.position = own->vec3("position", light.position);
    light.direction = own->vec3("direction", light.direction);
    light.tags = texts(*own, "tags");
  }
  std::string name = source.text("name", "");
  if (name.empty()) name = json.text("name", "light");
  Scene& scene = result_.scene;
  light.name =
      light_names_.next(name, [&](const std::string& n) { return scene.find_light(n) || scene.find_ambient_light(n); });
  try {
    scene.add_light(light);
  } catch (const Mistake& mistake) {
    source.refuse(mistake.diagnostics()[0].message, mistake.diagnostics()[0].mend);
  }
}

bool Importer::add_own_thing(const JsonReader& json, NodeHandle parent) {
  const auto own = json.own();
  if (!own) return false;
  if (own->boolean("only_light", false)) {
    add_light(json, parent);
    return true;
  }
  const auto view = own->find("view");
  if (!view) return false;
  Camera camera;
  camera.eye = view->vec3("eye", camera.eye);
  camera.target = view->vec3("target", camera.target);
  camera.up = view->vec3("up", camera.up);
  camera.fov_y = view->number("fov_y", camera.fov_y);
  camera.near = view->number("near", camera.near);
  if (view->has("far")) camera.far = view->number("far", camera.far);
  camera.parallel_height = view->number("parallel_height", 0);
  if (view->boolean("ordinary_depth", false)) camera.depth = DepthOrder::ordinary;
  try {
    result_.scene.add_view({json.text("name", "view"), camera, parent});
  } catch (const Mistake& mistake) {
    view->refuse(mistake.diagnostics()[0].message, mistake.diagnostics()[0].mend);
  }
  return true;
}

void Importer::add_views() {
  Scene& scene = result_.scene;
  std::vector<Transform> worlds(scene.nodes().size(), Transform::identity());
  scene.world_transforms(0, worlds);
  const std::vector<bool> moving = scene.moving_nodes();
  for (std::size_t i = 0; i < nodes_.size(); ++i) {
    const JsonReader json = document_.item("nodes", i);
    const auto index = json.index("camera", document_.count("cameras"), "cameras");
    if (!index || !nodes_[i].valid()) continue;
    const JsonReader source = document_.item("cameras", *index);
    // A camera on something that moves follows it; the others are placed once.
    const NodeHandle followed = moving[nodes_[i].index] ? nodes_[i] : NodeHandle{};
    const Transform world = followed.valid() ? Transform::identity() : worlds[nodes_[i].index];
    Camera camera;
    camera.eye = world.apply_to_point(Vec3::zero());
    camera.target = camera.eye + world.apply_to_direction(Vec3(0, 0, -1)).normalized();
    camera.up = world.apply_to_direction(Vec3::unit_y()).normalized();
    if (source.text("type", "perspective") == "orthographic") {
      const JsonReader lens = source.at("orthographic");
      camera.parallel_height = 2 * lens.number("ymag", 1);
      camera.near = lens.number("znear", 0);
      camera.far = lens.number("zfar", 100);
    } else {
      const JsonReader lens = source.at("perspective");
      camera.fov_y = lens.number("yfov", 1);
      camera.near = lens.number("znear", 0.1f);
      if (lens.has("zfar")) camera.far = lens.number("zfar", 100);
    }
    std::string name = source.text("name", "");
    if (name.empty()) name = json.text("name", "");
    if (name.empty()) name = fmt::format("camera {}", *index);
    try {
      scene.add_view({view_names_.next(name, [&](const std::string& n) { return scene.find_view(n) != nullptr; }),
                      camera, followed});
    } catch (const Mistake& mistake) {
      warn("unusable-camera",
           fmt::format("{} can't be looked through: {}", source.path(), mistake.diagnostics()[0].message),
           "it is left out");
    }
  }
}

void Importer::add_animations() {
  for (std::size_t i = 0; i < document_.count("animations"); ++i) {
    const JsonReader animation = document_.item("animations", i);
    for (const JsonReader& channel : animation.at("channels").items()) read_channel(animation, channel);
  }
  for (auto& [node, keys] : keyed_) {
    try {
      keys.expect_sound(document_.item("nodes", node).text("name", fmt::format("nodes[{}]", node)));
    } catch (const Mistake& mistake) {
      document_.item("nodes", node).refuse(mistake.diagnostics()[0].message, mistake.diagnostics()[0].mend);
    }
  }
}

void Importer::read_channel(const JsonReader& animation, const JsonReader& channel) {
  const JsonReader target = channel.at("target");
  const auto node = target.index("node", document_.count("nodes"), "nodes");
  if (!node) return;
  const JsonReader samplers = animation.at("samplers");
  const JsonReader sampler = samplers.item(channel.at("sampler").index(samplers.size(), "samplers"));
  const std::string path = target.at("path").text(), way = sampler.text("interpolation", "LINEAR");
  if (way != "LINEAR" && way != "STEP" && way != "CUBICSPLINE")
    sampler.at("interpolation").refuse(fmt::format("is \"{}\", which is none", way));
  const Interpolation interpolation = way == "STEP"     ? Interpolation::step
                                      : way == "LINEAR" ? Interpolation::linear
                                                        : Interpolation::cubic;
  const std::size_t accessors = document_.count("accessors");
  const auto times = accessors_.floats<Matrix<float, 1, 1>>(sampler.at("input").index(accessors, "accessors"));
  const std::size_t output = sampler.at("output").index(accessors, "accessors");
  if (times.empty()) sampler.refuse("has no keys");
  document_.budget().spend(times.size(), 64, sampler);
  KeyedPlacement& keys = keyed_[*node];
  const auto warn_if_taken = [&](const auto& track) {
    if (track.empty()) return;
    warn("overlapping-animations",
         fmt::format("{} moves the {} of nodes[{}], which another does, too", channel.path(), path, *node),
         "the later one counts");
  };
  if (path == "translation") {
    warn_if_taken(keys.translation_track);
    keys.translation_track = read_track<Vec3>(interpolation, times, accessors_.floats<Vec3>(output));
  } else if (path == "scale") {
    warn_if_taken(keys.scale_track);
    keys.scale_track = read_track<Vec3>(interpolation, times, accessors_.floats<Vec3>(output));
  } else if (path == "rotation") {
    warn_if_taken(keys.rotation_track);
    keys.rotation_track = read_track<Quat>(interpolation, times, accessors_.floats<Vec4>(output));
  } else {
    if (keys == KeyedPlacement()) keyed_.erase(*node);
    warn("unsupported-animation", fmt::format("{} moves \"{}\", which is not supported", channel.path(), path),
         "translation, rotation and scale are");
  }
}

/// What a variant changes, as it was said and not as the meshes of the file spell it out.
void Importer::read_own_variant(const JsonReader& own, Variant& into) {
  into.objects = {texts(own, "tags"), texts(own, "without_tags")};
  const auto pair_of = [](const JsonReader& json) {
    const std::vector<JsonReader> two = json.items();
    if (two.size() != 2) json.refuse("must be two numbers");
    return std::pair(two[0], two[1]);
  };
  const std::size_t materials = result_.scene.materials().size(), nodes = result_.scene.nodes().size();
  if (own.has("materials") || own.has("choices")) into.choices.clear();
  for (const JsonReader& json : own.items("materials")) {
    const auto [from, to] = pair_of(json);
    into.materials.push_back({{static_cast<std::uint32_t>(from.index(materials, "materials"))},
                              {static_cast<std::uint32_t>(to.index(materials, "materials"))}});
  }
  for (const JsonReader& json : own.items("choices")) {
    const auto [node, material] = pair_of(json);
    into.choices.push_back({{static_cast<std::uint32_t>(node.index(nodes, "nodes"))},
                            {static_cast<std::uint32_t>(material.index(materials, "materials"))}});
  }
}

void Importer::add_own_scene() {
  Scene& scene = result_.scene;
  std::vector<std::string> names;
  if (const auto variants = document_.root().extension("KHR_materials_variants")) {
    for (const JsonReader& variant : variants->items("variants")) {
      Variant made;
      made.name = variant_names_.next(variant.at("name").text(),
                                      [&](const std::string& n) { return scene.find_variant(n) != nullptr; });
      made.choices = std::move(variant_choices_[scene.variants().size()]);
      if (const auto own = variant.own()) read_own_variant(*own, made);
      scene.add_variant(std::move(made));
    }
  }
  const auto own = document_.root().own();
  if (!own) return;
  for (const JsonReader& light : own->items("ambient_lights"))
    scene.add_light(
        AmbientLight{light.at("name").text(), light.vec3("sky", Vec3::zero()), light.vec3("ground", Vec3::zero())});
  for (const JsonReader& json : own->items("environments")) {
    Environment environment;
    environment.name = json.at("name").text();
    for (const JsonReader& view : json.items("images")) environment.images.push_back(own_image(view));
    environment.rotation = json.number("rotation", environment.rotation);
    environment.intensity = json.number("intensity", environment.intensity);
    scene.add_environment(std::move(environment));
  }
  for (const JsonReader& json : own->items("fogs")) {
    Fog fog;
    fog.name = json.at("name").text();
    const std::string kind = json.text("kind", "exponential");
    fog.kind = kind == "linear"        ? Fog::Kind::linear
               : kind == "exponential" ? Fog::Kind::exponential
                                       : Fog::Kind::exponential_squared;
    fog.color = json.vec3("color", fog.color);
    fog.start = json.number("start", fog.start);
    fog.end = json.number("end", fog.end);
    fog.density = json.number("density", fog.density);
    fog.half_height = json.number("half_height", fog.half_height);
    fog.base = json.number("base", fog.base);
    scene.add_fog(std::move(fog));
  }
}

}  // namespace periscena::gltf
