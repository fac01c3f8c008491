#include <periscena/inspect/emptiness.h>

#include <periscena/base/names.h>
#include <periscena/math/bounds.h>
#include <periscena/scene/shadow_truth.h>

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>

namespace periscena::inspect {
namespace {

/// What a pass draws, and what lights it.
struct Drawing {
  std::string who;  ///< `pass "scene"`
  Place place;
  DrawnSurfaces drawn;
  std::optional<LitBy> lit;  ///< none when the pass computes no light
};

std::optional<Drawing> drawing_of(const Pass& pass) {
  Drawing drawing{fmt::format("pass \"{}\"", pass.name), pass.place, {}, {}};
  if (const auto* lit = std::get_if<LitFacts>(&pass.facts)) {
    drawing.drawn = lit->drawn;
    drawing.lit = lit->lit;
  } else if (const auto* geometry = std::get_if<GeometryFacts>(&pass.facts)) {
    drawing.drawn = geometry->drawn;
  }
  if (!drawing.drawn.scene || !drawing.drawn.scene->find_view(drawing.drawn.view.name)) return std::nullopt;
  return drawing;
}

/// Looks at one pass at one moment.
class Look {
 public:
  Look(const Drawing& drawing, int width, int height, double seconds)
      : drawing_(drawing),
        scene_(*drawing.drawn.scene),
        seconds_(seconds),
        worlds_(scene_.nodes().size(), Transform::identity()),
        materials_(scene_.materials_of_nodes(scene_.find_variant(drawing.drawn.objects.variant.name))) {
    scene_.world_transforms(seconds, worlds_);
    const View& view = *scene_.find_view(drawing.drawn.view.name);
    camera_ = view.node.valid() ? view.placed(worlds_[view.node.index]) : view.camera;
    aspect_ = static_cast<float>(width) / static_cast<float>(height);
  }

  void find(Diagnostics& found) {
    std::vector<std::uint32_t> drawn = shown();
    if (drawn.empty()) {
      return found.warning("empty-scene", drawing_.place, said("draws a scene without objects"),
                           "add an [[object]] that shows a mesh, or name a scene: [frame] scene = \"…\"");
    }
    const std::string all = objects(drawn);
    drawn = chosen(drawn);
    if (drawn.empty()) {
      return found.warning(
          "nothing-chosen", drawing_.place,
          said(fmt::format("draws nothing of the scene: its tags, variant or surfaces leave none of {}", all)),
          "give the objects that it should draw one of its tags, or leave the key out");
    }
    const std::vector<std::uint32_t> in_view = seen(drawn);
    if (in_view.empty()) return tell_out_of_view(found, drawn);
    const std::vector<std::uint32_t> faces = facing(in_view);
    if (faces.empty()) return tell_faces_away(found, in_view);
    if (drawing_.lit && !is_any_lit(faces)) tell_dark(found, faces);
  }

 private:
  const Node& node(std::uint32_t i) const { return scene_.nodes()[i]; }
  const Mesh& mesh(std::uint32_t i) const { return scene_.meshes()[node(i).mesh.index]; }
  const Material& material(std::uint32_t i) const { return scene_.materials()[materials_[i].index]; }

  std::string said(const std::string& cause) const { return fmt::format("{} {}", drawing_.who, cause); }

  /// ` ("gate", "boat" and 3 more)`; empty when none of them has a name.
  std::string named(const std::vector<std::uint32_t>& nodes) const {
    std::vector<std::string> names;
    for (const std::uint32_t i : nodes) {
      if (!node(i).name.empty()) names.push_back(node(i).name);
    }
    return names.empty() ? std::string() : fmt::format(" ({})", quoted_list(names, 3));
  }

  std::string objects(const std::vector<std::uint32_t>& nodes) const {
    return counted(nodes.size(), "object") + named(nodes);
  }

  std::vector<std::uint32_t> shown() const {
    std::vector<std::uint32_t> found;
    const std::vector<bool> hidden = scene_.hidden_nodes();
    for (std::uint32_t i = 0; i < scene_.nodes().size(); ++i) {
      if (!hidden[i] && node(i).mesh.valid() && !mesh(i).indices.empty()) found.push_back(i);
    }
    return found;
  }

  std::vector<std::uint32_t> chosen(const std::vector<std::uint32_t>& from) const {
    const std::vector<bool> by_tags = chosen_objects(scene_, drawing_.drawn.objects);
    return kept(from, [&](std::uint32_t i) {
      const bool blended = material(i).alpha_mode == Material::AlphaMode::blend;
      return by_tags[i] &&
             (drawing_.drawn.surfaces == Surfaces::all || blended == (drawing_.drawn.surfaces == Surfaces::blended));
    });
  }

  template <class Keep>
  static std::vector<std::uint32_t> kept(const std::vector<std::uint32_t>& from, Keep keep) {
    std::vector<std::uint32_t> left;
    std::copy_if(from.begin(), from.end(), std::back_inserter(left), keep);
    return left;
  }

  Sphere ball(std::uint32_t i) const {
    return Box::around(mesh(i).positions.values()).sphere().transformed(worlds_[i]);
  }

  std::vector<std::uint32_t> seen(const std::vector<std::uint32_t>& from) const {
    const Mat4 to_clip = camera_.projection(aspect_).matrix() * camera_.view().matrix();
    const Frustum frustum = Frustum::of(to_clip, camera_.depth);
    return kept(from, [&](std::uint32_t i) { return frustum.may_see(ball(i)); });
  }

  void tell_out_of_view(Diagnostics& found, const std::vector<std::uint32_t>& drawn) const {
    std::vector<std::uint32_t> behind, near, far, beside;
    Box all;
    const Transform to_camera = camera_.view();
    for (const std::uint32_t i : drawn) {
      const Sphere around = ball(i);
      all.include(around.center);
      const float depth = -to_camera.apply_to_point(around.center).z();
      auto& where = depth + around.radius <= 0             ? behind
                    : depth + around.radius < camera_.near ? near
                    : depth - around.radius > camera_.far  ? far
                                                           : beside;
      where.push_back(i);
    }
    std::string where;
    const auto add = [&](const std::vector<std::uint32_t>& nodes, const std::string& what) {
      if (!nodes.empty())
        where += fmt::format("{}{} {}{}", where.empty() ? "" : ", ", nodes.size(), what, named(nodes));
    };
    add(behind, "behind it");
    add(near, fmt::format("nearer than its near of {:.4g} m", camera_.near));
    add(far, fmt::format("beyond its far of {:.4g} m", camera_.far));
    add(beside, "beside it");
    const Vec3 middle = all.center();
    found.warning("nothing-in-view", drawing_.place,
                  said(fmt::format("sees none of its objects through \"{}\": {}", drawing_.drawn.view.name, where)),
                  fmt::format("look at the middle of them: target = [{:.4g}, {:.4g}, {:.4g}]", middle.x(), middle.y(),
                              middle.z()));
  }

  /// A triangle in the world, counterclockwise from its front.
  struct Triangle {
    std::array<std::uint32_t, 3> indices;
    Vec3 at, normal;  ///< a corner; any length
  };

  /// Calls `each` with every triangle; stops at true.
  template <class Each>
  bool any_triangle(std::uint32_t object, Each each) const {
    const Mesh& shown = mesh(object);
    const Transform& world = worlds_[object];
    for (std::size_t i = 0; i + 2 < shown.indices.size(); i += 3) {
      Triangle triangle{{shown.indices[i], shown.indices[i + 1], shown.indices[i + 2]}, {}, {}};
      if (world.mirrors()) std::swap(triangle.indices[1], triangle.indices[2]);
      const auto corner = [&](std::size_t k) { return world.apply_to_point(shown.positions[triangle.indices[k]]); };
      triangle.at = corner(0);
      triangle.normal = (corner(1) - triangle.at).cross(corner(2) - triangle.at);
      if (each(triangle)) return true;
    }
    return false;
  }

  /// From a point to the camera, any length.
  Vec3 to_eye(const Vec3& point) const {
    return camera_.parallel_height > 0 ? Vec3(camera_.eye - camera_.target) : Vec3(camera_.eye - point);
  }

  std::vector<std::uint32_t> facing(const std::vector<std::uint32_t>& from) const {
    return kept(from, [&](std::uint32_t i) {
      if (mesh(i).primitive != Primitive::triangles || material(i).double_sided) return true;
      return any_triangle(i, [&](const Triangle& one) { return one.normal.dot(to_eye(one.at)) > 0; });
    });
  }

  void tell_faces_away(Diagnostics& found, const std::vector<std::uint32_t>& in_view) const {
    found.warning("faces-away", drawing_.place,
                  said(fmt::format("draws nothing: every face in view of \"{}\" is turned away, of {}",
                                   drawing_.drawn.view.name, objects(in_view))),
                  "triangles are seen from where their corners run counter-clockwise; turn them, look from the other "
                  "side, or set double_sided = true on the material");
  }

  /// Does it shine by itself, or is it lit from all around?
  bool shines(std::uint32_t i) const {
    const Material& made = material(i);
    return made.shading == Material::Shading::unlit || made.emission.largest() > 0 || !made.surface.empty() ||
           !made.shows.empty() || mesh(i).primitive != Primitive::triangles;
  }

  bool is_any_lit(const std::vector<std::uint32_t>& in_view) const {
    const Environment* environment = scene_.find_environment(drawing_.lit->environment.name);
    if (environment && environment->intensity > 0) return true;
    for (const AmbientLight& light : scene_.ambient_lights()) {
      if (drawing_.lit->lights.contains(light.name) && std::max(light.sky.largest(), light.ground.largest()) > 0)
        return true;
    }
    for (const Light* light : chosen_lights(scene_, drawing_.lit->lights)) {
      if (light->strength() <= 0 || light->color.largest() <= 0) continue;
      const Light placed = PlacedLight::of(scene_, *light, seconds_).light;
      for (const std::uint32_t i : in_view) {
        if (reaches(placed, i)) return true;
      }
    }
    return std::any_of(in_view.begin(), in_view.end(), [&](std::uint32_t i) { return shines(i); });
  }

  bool reaches(const Light& light, std::uint32_t object) const {
    const Sphere around = ball(object);
    if (!light.is_directional() && light.way_from(around.center).norm() - around.radius >= light.range()) return false;
    const bool both_sides = material(object).double_sided;
    const Mesh& shown = mesh(object);
    const Mat3 turned = worlds_[object].normal_matrix();
    return any_triangle(object, [&](const Triangle& one) {
      const Vec3 to_light = light.way_from(one.at);
      const bool in_cone = light.has_in_cone(one.at);
      if (!in_cone || both_sides) return in_cone;
      if (one.normal.dot(to_eye(one.at)) <= 0) return false;
      if (shown.normals.empty()) return one.normal.dot(to_light) > 0;
      return std::any_of(one.indices.begin(), one.indices.end(),
                         [&](std::uint32_t i) { return Vec3(turned * shown.normals[i]).dot(to_light) > 0; });
    });
  }

  void tell_dark(Diagnostics& found, const std::vector<std::uint32_t>& in_view) const {
    const std::size_t lights = chosen_lights(scene_, drawing_.lit->lights).size();
    const std::string cause =
        fmt::format("draws {} in the dark: {}", objects(in_view),
                    lights == 0   ? "no light is chosen, and nothing shines by itself"
                    : lights == 1 ? "its light reaches no face that is in view"
                                  : fmt::format("none of its {} lights reaches a face that is in view", lights));
    found.warning("no-light", drawing_.place, said(cause),
                  lights == 0 ? "add a [light.NAME], name it in the pass' lights, or give the pass an environment"
                              : "look at their intensity, range and direction; light_markers draws where they are");
  }

  const Drawing& drawing_;
  const Scene& scene_;
  double seconds_;
  std::vector<Transform> worlds_;
  std::vector<MaterialHandle> materials_;
  Camera camera_;
  float aspect_ = 1;
};

}  // namespace

Diagnostics find_empty_passes(const FrameGraph& frame, const FramePlan& plan, double seconds) {
  Diagnostics found;
  for (const auto& pass : frame.passes()) {
    const bool runs = std::any_of(plan.passes().begin(), plan.passes().end(),
                                  [&](const PlannedPass& planned) { return planned.name == pass->name; });
    const std::optional<Drawing> drawing = runs ? drawing_of(*pass) : std::nullopt;
    if (drawing) Look(*drawing, plan.width(), plan.height(), seconds).find(found);
  }
  return found;
}

}  // namespace periscena::inspect
