#pragma once

// The whole library.

#include <periscena/base/error.h>
#include <periscena/base/file.h>
#include <periscena/base/names.h>
#include <periscena/batch/draw_list.h>
#include <periscena/frame/frame_file.h>
#include <periscena/gl/frame_runner.h>
#include <periscena/gl/query.h>
#include <periscena/image/files.h>
#include <periscena/inspect/report.h>
#include <periscena/inspect/shadows.h>
#include <periscena/math/bounds.h>
#include <periscena/math/hierarchy.h>
#include <periscena/math/light_fit.h>
#include <periscena/math/screen_bounds.h>
#include <periscena/passes/deferred.h>
#include <periscena/passes/forward.h>
#include <periscena/passes/fullscreen.h>
#include <periscena/passes/geometry.h>
#include <periscena/passes/heat.h>
#include <periscena/passes/light_buffer.h>
#include <periscena/passes/light_markers.h>
#include <periscena/passes/overdraw.h>
#include <periscena/passes/particles.h>
#include <periscena/passes/shadow_map.h>
#include <periscena/passes/sky.h>
#include <periscena/passes/sprites.h>
#include <periscena/passes/text.h>
#include <periscena/passes/tone_map.h>
#include <periscena/passes/transfer.h>
#include <periscena/passes/world_text.h>
#include <periscena/scene/blocks.h>
#include <periscena/scene/gltf.h>
#include <periscena/scene/scene.h>
#include <periscena/scene/shading.h>
