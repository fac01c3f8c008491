#pragma once

#include "gl/random_scene.h"

#include <periscena/gl/frame_runner.h>
#include <periscena/periscena.h>

#include <memory>

// Frames of a scene that tests edit, and its picture when it is made so.

using namespace periscena;

inline FrameGraph forward_frame_by(const std::shared_ptr<Scene>& scene, batch::Batching batching,
                                   batch::Culling culling) {
  FrameGraph frame;
  frame.set_background({0.1f, 0.2f, 0.3f, 1});
  const auto sun = frame.target("sun", {.format = Format::depth32f, .size = {256, 256}});
  const auto lamps =
      frame.target("lamps", {.format = Format::depth32f, .size = {256, 256}, .layers = 4, .shape = TargetShape::array});
  passes::ShadowMap sun_map{.name = "sun map", .scene = scene, .light = "sun"};
  sun_map.depth = sun;
  frame.add(passes::shadow_map(sun_map));
  passes::ShadowMap lamp_maps{.name = "lamp maps", .scene = scene, .lights = {"lamp", "spot"}};
  lamp_maps.depth = lamps;
  frame.add(passes::shadow_map(lamp_maps));
  const auto light = frame.target("light", {.format = Format::rgba16f});
  passes::Forward forward{.name = "picture", .scene = scene, .view = "front", .environment = "sky"};
  forward.without_tags = {"aside"};
  forward.batching = batching;
  forward.culling = culling;
  forward.fog = "mist";
  forward.shadows = {sun, lamps};
  forward.color = light;
  forward.depth = frame.target("depth", {.format = Format::depth32f});
  frame.add(passes::forward(forward));
  passes::LightMarkers markers{.name = "lights", .scene = scene, .view = "front"};
  markers.color = light;
  markers.depth = forward.depth;
  frame.add(passes::light_markers(markers));
  frame.add(passes::tone_map({.exposure_ev100 = 1, .light = light, .color = frame.output()}));
  return frame;
}

inline FrameGraph forward_frame(const std::shared_ptr<Scene>& scene) {
  return forward_frame_by(scene, batch::Batching::automatic, batch::Culling::host);
}

inline FrameGraph merged_frame(const std::shared_ptr<Scene>& scene) {
  return forward_frame_by(scene, batch::Batching::merged, batch::Culling::host);
}

inline FrameGraph culled_on_device_frame(const std::shared_ptr<Scene>& scene) {
  return forward_frame_by(scene, batch::Batching::automatic, batch::Culling::device);
}

inline FrameGraph deferred_frame(const std::shared_ptr<Scene>& scene) {
  FrameGraph frame;
  const auto normal = frame.target("normal", {.format = Format::rgba16});
  const auto color = frame.target("color", {.format = Format::rgba8_srgb});
  const auto material = frame.target("material", {.format = Format::rgba8});
  const auto depth = frame.target("depth", {.format = Format::depth32f});
  passes::Geometry geometry{.name = "surfaces", .scene = scene, .view = "front"};
  geometry.normal = normal;
  geometry.base_color = color;
  geometry.material = material;
  geometry.depth = depth;
  frame.add(passes::geometry(geometry));
  const auto light = frame.target("light", {.format = Format::rgba16f});
  const auto open = frame.target("open", {.format = Format::r8});
  passes::AmbientOcclusion occlusion{.name = "corners", .scene = scene, .view = "front"};
  occlusion.depth = depth;
  occlusion.normal = normal;
  occlusion.occlusion = open;
  frame.add(passes::ambient_occlusion(occlusion));
  passes::Deferred deferred{.name = "lit", .scene = scene, .view = "front", .environment = "sky"};
  deferred.occlusion = open;
  deferred.normal = normal;
  deferred.base_color = color;
  deferred.material = material;
  deferred.depth = depth;
  deferred.fog = "mist";
  deferred.color = light;
  frame.add(passes::deferred(deferred));
  frame.add(passes::tone_map({.exposure_ev100 = 1, .light = light, .color = frame.output()}));
  return frame;
}

using FrameOf = FrameGraph (*)(const std::shared_ptr<Scene>&);

inline Image drawn(gl::Device& device, const std::shared_ptr<Scene>& scene, FrameOf frame_of, double seconds) {
  gl::FrameRunner runner(device, frame_of(scene).plan(96, 64, device.limits()).value());
  runner.run(seconds);
  return runner.read("output");
}

inline Image drawn_anew(gl::Device& device, const WantedScene& wanted, FrameOf frame_of, double seconds) {
  return drawn(device, wanted.made(), frame_of, seconds);
}
