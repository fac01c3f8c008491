#include "gl/api.h"
#include "gl/clear.h"
#include "gl/formats.h"

#include <periscena/base/error.h>
#include <periscena/base/names.h>
#include <periscena/gl/pass_work.h>

#include <fmt/format.h>

#include <algorithm>

namespace periscena::gl {

namespace {

ValueKind output_kind(ValueType type) {
  switch (type) {
    case ValueType::integer:
    case ValueType::ivec2:
    case ValueType::ivec3:
    case ValueType::ivec4: return ValueKind::signed_integer;
    case ValueType::unsigned_integer:
    case ValueType::uvec2:
    case ValueType::uvec3:
    case ValueType::uvec4: return ValueKind::unsigned_integer;
    default: return ValueKind::floating;
  }
}

}  // namespace

void PassSetup::expect_output_type(const OutputInfo& output, const std::string& slot) const {
  for (const PlannedWrite& write : pass_.writes) {
    if (write.slot != slot) continue;
    const PlannedTarget& target = plan_.targets()[write.target];
    const ValueKind wanted = value_kind(target.description.format), given = output_kind(output.type);
    if (wanted == given) continue;
    throw Mistake(
        "output-type", pass_.place(),
        fmt::format("output \"{}\" of pass \"{}\" is {}, but target \"{}\" is {}, which takes {}", output.name,
                    pass_.name, to_string(given), target.name, to_string(target.description.format), to_string(wanted)),
        "declare it so, or choose another format: otherwise what is written is undefined");
  }
}

void PassSetup::match_outputs(const Program& program) {
  std::vector<std::string> writes;
  for (const PlannedWrite& write : pass_.writes) {
    if (is_color_slot(write.slot)) writes.push_back(write.slot);
  }
  const std::vector<std::string> outputs = program.interface().output_names();
  for (const std::string& write : writes) {
    if (std::find(outputs.begin(), outputs.end(), write) != outputs.end()) continue;
    throw Mistake("unknown-output", pass_.place(),
                  fmt::format("pass \"{}\" writes \"{}\", but its fragment program has no output of that name",
                              pass_.name, write),
                  outputs.empty() ? fmt::format("declare it: out vec4 {};", write) : name_hint(write, outputs));
  }
  output_order_.clear();
  for (const OutputInfo& output : program.interface().outputs) {
    const auto write = std::find(writes.begin(), writes.end(), output.name);
    if (write == writes.end()) {
      throw Mistake("lost-output", pass_.place(),
                    fmt::format("the fragment program of pass \"{}\" has an output \"{}\" that goes nowhere",
                                pass_.name, output.name),
                    fmt::format("write it: writes = {{ {} = \"…\" }}, or remove it", output.name));
    }
    expect_output_type(output, *write);
    const auto location = static_cast<std::size_t>(output.location);
    if (output_order_.size() <= location) output_order_.resize(location + 1, -1);
    output_order_[location] = static_cast<int>(write - writes.begin());
  }
}

void PassContext::draw_triangle() const {
  draw_generated(3);
}

namespace {

GLenum mode_of(Vertices make) {
  return make == Vertices::triangles ? GL_TRIANGLES : make == Vertices::lines ? GL_LINES : GL_POINTS;
}

}  // namespace

void PassContext::draw_generated(int vertices, Vertices make, int instances) const {
  state().bind_vertex_array(empty_);
  glDrawArraysInstanced(mode_of(make), 0, vertices, instances);
  const auto count = static_cast<std::uint64_t>(instances);
  const std::uint64_t triangles = make == Vertices::triangles ? static_cast<std::uint64_t>(vertices) / 3 * count : 0;
  counts_ += {.draw_calls = 1, .commands = 1, .instances = count, .triangles = triangles};
}

void PassContext::draw_indirect(const IndirectDraw& draw) const {
  state().bind_vertex_array(draw.vertices.name());
  state().bind_indirect_buffer(draw.commands.name());
  const std::uintptr_t offset = draw.first * sizeof(DrawCommand);
  const GLenum mode = mode_of(draw.make), indices = draw.index_bytes == 2 ? GL_UNSIGNED_SHORT : GL_UNSIGNED_INT;
  const auto count = static_cast<GLsizei>(draw.count);
  if (draw.drawn && device_.capabilities().indirect_count) {
    state().bind_count_buffer(draw.drawn->name());
    glMultiDrawElementsIndirectCountARB(mode, indices, reinterpret_cast<const void*>(offset),
                                        static_cast<GLintptr>(draw.drawn_at * sizeof(std::uint32_t)), count, 0);
  } else {
    glMultiDrawElementsIndirect(mode, indices, reinterpret_cast<const void*>(offset), count, 0);
  }
  const std::uint64_t commands = draw.drawn ? 0 : draw.count;
  counts_ += {.draw_calls = 1, .commands = commands, .instances = draw.instances, .triangles = draw.triangles};
}

void PassContext::capture(const VertexCapture& into, const VertexArray& from, int first, int vertices) const {
  state().bind_vertex_array(from.name());
  glBindTransformFeedback(GL_TRANSFORM_FEEDBACK, into.name());
  glEnable(GL_RASTERIZER_DISCARD);
  glBeginTransformFeedback(GL_POINTS);
  glDrawArrays(GL_POINTS, first, vertices);
  glEndTransformFeedback();
  glDisable(GL_RASTERIZER_DISCARD);
  glBindTransformFeedback(GL_TRANSFORM_FEEDBACK, 0);
}

void PassContext::compute(std::uint32_t across, std::uint32_t up) const {
  constexpr std::uint32_t most = 65535;  // OpenGL 4.5, table 23.60
  const std::uint32_t rows = (across + most - 1) / most;
  // OpenGL orders what is drawn before what then samples it. On Mesa 22.3's llvmpipe, compute programs have sampled
  // depth that was still being drawn, while the frame before was not yet done.
  glMemoryBarrier(GL_TEXTURE_FETCH_BARRIER_BIT);
  glDispatchCompute(std::min(across, most), rows * up, 1);
  barrier();
}

void PassContext::barrier() const {
  // For shaders, commands, attributes and textures that read it, and for writes of ours into other parts of the same
  // buffer (OpenGL 4.5, 7.12.2).
  glMemoryBarrier(GL_SHADER_STORAGE_BARRIER_BIT | GL_BUFFER_UPDATE_BARRIER_BIT | GL_COMMAND_BARRIER_BIT |
                  GL_VERTEX_ATTRIB_ARRAY_BARRIER_BIT | GL_TEXTURE_FETCH_BARRIER_BIT |
                  GL_SHADER_IMAGE_ACCESS_BARRIER_BIT);
}

void PassContext::write_sample(int sample) const {
  if (sample < 0) return glDisable(GL_SAMPLE_MASK);
  glEnable(GL_SAMPLE_MASK);
  glSampleMaski(0, 1u << sample);
}

Vec2 PassContext::sample_place(int sample) const {
  Vec2 place(0.5f, 0.5f);
  glGetMultisamplefv(GL_SAMPLE_POSITION, static_cast<GLuint>(sample), place.data());
  return place;
}

void PassContext::write_image(std::uint32_t unit, const Texture& texture, int level) const {
  glBindImageTexture(unit, texture.name(), level, GL_TRUE, 0, GL_WRITE_ONLY, gl_format(texture.format()).internal);
}

void PassContext::change_image(std::uint32_t unit, const Texture& texture, int level) const {
  glBindImageTexture(unit, texture.name(), level, GL_TRUE, 0, GL_READ_WRITE, gl_format(texture.format()).internal);
}

void PassContext::clear_image(const Texture& texture) const {
  glMemoryBarrier(GL_TEXTURE_UPDATE_BARRIER_BIT);  // after what shaders wrote into it before
  glClearTexImage(texture.name(), 0, GL_RED_INTEGER, GL_UNSIGNED_INT, nullptr);
}

void PassContext::clear(const TargetDescription& target) const {
  const FormatInfo& format = info(target.format);
  state().open_write_masks(false, format.depth, format.stencil);
  clear_attachment(framebuffer_, target, 0);
}

void PassContext::write(const Buffer& buffer, std::size_t offset, std::span<const std::byte> bytes) const {
  // In the first frame the device has nothing to do yet that writing could wait for.
  if (time_.number > 1) {
    uploads_.write(buffer, offset, bytes);
  } else {
    buffer.write(offset, bytes);
  }
  counts_.bytes_sent += bytes.size();
}

Counts& Counts::operator+=(const Counts& more) {
  draw_calls += more.draw_calls;
  commands += more.commands;
  instances += more.instances;
  triangles += more.triangles;
  culled += more.culled;
  state_changes += more.state_changes;
  bytes_sent += more.bytes_sent;
  return *this;
}

namespace {

class RawWork final : public PassWork {
 public:
  RawWork(std::function<void(PassContext&)> body, Touched touches) : body_(std::move(body)), touches_(touches) {}

  void run(PassContext& context) override {
    body_(context);
    State& state = context.state();
    state.forget(touches_);
    if (context.device().listens() && touches_ != Touched::everything) expect_nothing_else_touched(context);
    state.set_conventions();
  }

 private:
  static void expect_nothing_else_touched(const PassContext& context) {
    const std::string found = context.state().first_difference();
    if (found.empty()) return;
    context.state().forget();
    throw Mistake("undeclared-state", context.pass().place(),
                  fmt::format("pass \"{}\" changed more than it declares: {}", context.pass().name, found),
                  "add it to what raw_work() is told, or leave that out: then everything is taken as changed");
  }

  std::function<void(PassContext&)> body_;
  Touched touches_;
};

}  // namespace

Work work(WorkFactory make) {
  if (!make) return nullptr;
  return std::make_shared<const DeviceWork>(DeviceWork{std::move(make)});
}

Work raw_work(std::function<void(PassContext&)> body, Touched touches) {
  if (!body) return nullptr;
  return work([body = std::move(body), touches](PassSetup&) { return std::make_unique<RawWork>(body, touches); });
}

}  // namespace periscena::gl
