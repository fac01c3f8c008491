#pragma once

#include <periscena/math/camera_control.h>
#include <periscena/scene/scene.h>

namespace periscena {

/// The box around what objects of a scene show, in the world; empty when they show nothing. What is not finite is left
/// out. @param seconds  of the frame's time
Box bounds_of(const Scene& scene, const Selection& objects = {}, double seconds = 0);

/// The same of one node and all below it. @throws Mistake "stale-handle"
Box bounds_of(const Scene& scene, NodeHandle node, double seconds = 0, Place place = Place::here());

/// Includes every vertex of what they show: of a scene's objects, or of one node and all below it.
void include_vertices(const Scene& scene, CameraFit& into, const Selection& objects = {}, double seconds = 0);
void include_vertices(const Scene& scene, NodeHandle node, CameraFit& into, double seconds = 0,
                      Place place = Place::here());

}  // namespace periscena
