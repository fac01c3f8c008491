#include "frame/sections.h"

#include <periscena/math/camera_control.h>
#include <periscena/scene/scene_bounds.h>

#include <limits>

namespace periscena {
namespace {

struct ViewKeys {
  Reference object, fit_object;
  Vec3 eye = Vec3(0, 0, 5), target = Vec3::zero(), up = Vec3::unit_y();
  float fov_y_degrees = 50, near = 0.1f, parallel_height = 0;
  std::optional<float> far, keep_aspect;
  std::string depth = "reversed";
  std::optional<std::string> keep;
  bool fit = false;
  float fit_margin = 0.05f;
};

const Keys<ViewKeys>& view_keys() {
  static const auto keys = [] {
    Keys<ViewKeys> k;
    k.key("eye", &ViewKeys::eye, {.unit = "metres"}, "Where the camera is")
        .key("target", &ViewKeys::target, {.unit = "metres"}, "What is in the middle of the picture")
        .key("up", &ViewKeys::up, {}, "What is up in the picture; not along the view")
        .key("fov_y_degrees", &ViewKeys::fov_y_degrees, {.unit = "degrees"},
             "Vertical field of view, more than 0 and less than 180")
        .key("near", &ViewKeys::near, {.unit = "metres"},
             "Nearer things are cut off; more than 0 for a perspective lens")
        .key("far", &ViewKeys::far, {.unit = "metres"}, "Farther things are cut off; left out, nothing is")
        .key("parallel_height", &ViewKeys::parallel_height, {.unit = "metres", .minimum = 0},
             "More than 0 makes the lens parallel: what the picture shows from bottom to top; it wants a far")
        .key("depth", &ViewKeys::depth, {.choices = {"reversed", "ordinary"}},
             "Reversed: near is 1, far is 0; ordinary: the other way")
        .key("keep", &ViewKeys::keep, {.choices = {"height", "width", "both"}},
             "What the view goes on seeing in a picture of another shape: as much from bottom to top, as much from "
             "side to side, or all that it sees at keep_aspect; left out, height, and both where it fits something")
        .key("keep_aspect", &ViewKeys::keep_aspect, {.minimum = 0.01},
             "The shape, width divided by height, at which fov_y_degrees and parallel_height hold, where keep is not "
             "height; left out, 16 / 9, and the picture's own where it fits something")
        .key("fit", &ViewKeys::fit, {},
             "true: the camera is moved along and across its line of sight until the whole scene, as it is at time 0, "
             "fills the picture; eye and target say from which side it looks")
        .key("fit_object", &ViewKeys::fit_object, {}, "The same for an object and all below it, instead of the scene")
        .key("fit_margin", &ViewKeys::fit_margin, {.minimum = 0, .maximum = 0.4},
             "What a view that fits leaves free on each side, as a share of the picture's smaller side")
        .key("object", &ViewKeys::object, {},
             "The object that the view follows: eye, target and up are in its coordinates; left out, the world's");
    return k;
  }();
  return keys;
}

bool fits(const ViewKeys& given) {
  return given.fit || !given.fit_object.empty();
}

/// What a view that fits is to fit. @return nothing when that can't be said; the whole scene for an invalid one
std::optional<NodeHandle> find_fitted(const ViewKeys& given, const std::string& what, const Scene& scene,
                                      Diagnostics& found) {
  if (!given.object.empty()) {
    found.error("unclear-view", given.object.place,
                fmt::format("{} follows an object, and is to be fitted to what it sees", what),
                "leave out object, or leave out fit and fit_object");
    return std::nullopt;
  }
  if (given.fit_object.empty()) return NodeHandle{};
  const NodeHandle node = scene.find_node(given.fit_object.name);
  expect_found(
      given.fit_object, node.valid(), what, "object", [&] { return names_of(scene.nodes()); }, found);
  return node.valid() ? std::optional(node) : std::nullopt;
}

Camera fitted_camera(const Camera& camera, const Scene& scene, NodeHandle object, float aspect, float margin) {
  CameraFit fit(camera, aspect, margin);
  if (object.valid()) {
    include_vertices(scene, object, fit);
  } else {
    include_vertices(scene, fit);
  }
  return fit.camera();
}

/// @param aspect  at which its field of view holds, unless it says so itself
Camera camera_of(const ViewKeys& given, float aspect) {
  const std::string keep = given.keep.value_or(fits(given) ? "both" : "height");
  return {given.eye,
          given.target,
          given.up,
          radians(given.fov_y_degrees),
          given.near,
          given.far.value_or(std::numeric_limits<float>::infinity()),
          given.parallel_height,
          given.depth == "reversed" ? DepthOrder::reversed : DepthOrder::ordinary,
          keep == "both"    ? Keep::both
          : keep == "width" ? Keep::width
                            : Keep::height,
          given.keep_aspect.value_or(aspect)};
}

void put_view(const View& view, Scene& scene) {
  const ViewHandle known = scene.view_handle(view.name);
  if (known.valid())
    scene.change_view(known, view);
  else
    scene.add_view(view);
}

}  // namespace

void read_view(const ValueMember& section, float aspect, Scene& scene, Diagnostics& diagnostics) {
  const std::string what = fmt::format("view \"{}\"", section.name);
  ViewKeys given;
  Diagnostics found;
  view_keys().read(section.value, what, given, found);
  report_unknown_keys(section.value, what, view_keys().names(), found);
  View view{section.name, {}};
  if (!given.object.empty()) view.node = scene.find_node(given.object.name);
  expect_found(
      given.object, view.node.valid(), what, "object", [&] { return names_of(scene.nodes()); }, found);
  const std::optional<NodeHandle> fitted =
      fits(given) ? find_fitted(given, what, scene, found) : std::optional<NodeHandle>();
  if (!found.has_errors()) {
    const std::size_t before = found.size();
    collect_mistakes(section.place, found, [&] {
      view.camera = camera_of(given, fitted ? aspect : 16.0f / 9);
      if (fitted) view.camera = fitted_camera(view.camera, scene, *fitted, aspect, given.fit_margin);
      put_view(view, scene);
    });
    if (found.size() == before) return diagnostics.append(found);
  }
  diagnostics.append(found);
  // Passes that look through it should not be told off as well.
  view.camera = {};
  Diagnostics ignored;
  collect_mistakes(section.place, ignored, [&] { put_view(view, scene); });
}

void read_views(const Value& root, float aspect, Scene& scene, Diagnostics& diagnostics) {
  for (const ValueMember* section : named_tables(root, "view", diagnostics))
    read_view(*section, aspect, scene, diagnostics);
}

SectionInfo view_section() {
  return {"[view.NAME]", "A camera for passes to look through. It replaces one that the scene file has by that name.",
          view_keys().infos(), "[view.towpath]\neye    = [6, 2, 9]\ntarget = [0, 1, 0]\n"};
}

}  // namespace periscena
