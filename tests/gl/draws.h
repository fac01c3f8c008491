#pragma once

#include "gl/device.h"
#include "thrown.h"

#include <periscena/gl/frame_runner.h>
#include <periscena/passes/fullscreen.h>
#include <periscena/passes/transfer.h>

#include <initializer_list>

/// A fullscreen pass of this GLSL; `#include "periscena/fullscreen.glsl"` is there already.
inline periscena::Pass draw(const std::string& name, const std::string& glsl, std::vector<periscena::Read> reads,
                            std::vector<periscena::Write> writes) {
  periscena::passes::Fullscreen pass;
  pass.name = name;
  pass.shader = periscena::gl::ShaderText::from_text(name + ".frag", "#include \"periscena/fullscreen.glsl\"\n" + glsl,
                                                     periscena::passes::pass_shaders());
  pass.reads = std::move(reads);
  pass.writes = std::move(writes);
  return periscena::passes::fullscreen(pass);
}

/// One output "color" that is set to an expression.
inline periscena::Pass fill(const std::string& name, const std::string& value, periscena::Write write,
                            const std::string& type = "vec4", std::vector<periscena::Read> reads = {},
                            const std::string& declarations = "") {
  write.slot = "color";
  return draw(name, declarations + "out " + type + " color;\nvoid main() { color = " + value + "; }\n",
              std::move(reads), {write});
}

/// A plan that has to be right.
inline periscena::FramePlan planned(const periscena::FrameGraph& frame, periscena::gl::Device& device, int width = 8,
                                    int height = 8) {
  const periscena::PlanResult result = frame.plan(width, height, device.limits());
  INFO(to_text(result.diagnostics()));
  REQUIRE(result.ok());
  return result.value();
}
