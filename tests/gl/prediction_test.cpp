#include "gl/draws.h"

#include <periscena/gl/framebuffer.h>
#include <periscena/graph/attachments.h>

#include <epoxy/gl.h>
#include <fmt/format.h>

#include <random>

using namespace periscena;

namespace {

/// A set of images to attach, right or wrong, and the objects that stand for them.
struct RandomSet {
  std::vector<Attachment> attachments;
  std::vector<gl::Texture> textures;
  std::vector<gl::Renderbuffer> renderbuffers;
  std::vector<int> made;  ///< by attachment: texture index, or −1 − renderbuffer index
};

class Maker {
 public:
  explicit Maker(unsigned seed) : random_(seed) {}

  RandomSet make() {
    RandomSet set;
    // Most sets are nearly right, so that each fault stands alone: start from common traits, then spoil some.
    const Attachment common = traits(pick(6) == 0);
    const int colors = pick(10) == 0 ? 0 : 1 + pick(3);
    for (int i = 0; i < colors; ++i) add(set, "color" + std::to_string(i), color_format(), common);
    if (pick(2) == 0) add(set, "depth", depth_format(), common);
    if (pick(12) == 0) add(set, "stencil", Format::stencil8, common);
    if (pick(40) == 0) {
      while (set.attachments.size() < 9) add(set, "color" + std::to_string(set.attachments.size()), Format::r8, common);
    }
    return set;
  }

  int pick(int count) { return static_cast<int>(random_() % static_cast<unsigned>(count)); }

 private:
  Format color_format() {
    const auto formats = all_formats();
    for (;;) {
      const FormatInfo& format = formats[static_cast<std::size_t>(pick(static_cast<int>(formats.size())))];
      if (format.color() || pick(12) == 0) return format.format;
    }
  }

  Format depth_format() {
    if (pick(12) == 0) return Format::rgba8;
    constexpr Format formats[] = {Format::depth16,          Format::depth24,           Format::depth32f,
                                  Format::depth24_stencil8, Format::depth32f_stencil8, Format::stencil8};
    return formats[pick(6)];
  }

  Attachment traits(bool wild) {
    Attachment a;
    a.width = a.height = 8 << pick(2);
    a.samples = pick(3) == 0 ? 4 : 1;
    const int shape = pick(4);
    a.shape = shape == 1 ? TargetShape::array : shape == 2 && a.samples == 1 ? TargetShape::cube : TargetShape::flat;
    a.layers = a.shape == TargetShape::cube ? 6 : a.shape == TargetShape::array ? 1 + pick(3) : 1;
    a.levels = a.samples == 1 ? 1 + pick(3) : 1;
    a.level = pick(a.levels);
    a.layer = a.shape != TargetShape::flat && pick(2) == 0 ? pick(a.layers) : all_layers;
    if (wild && pick(3) == 0) a.level = a.levels;
    if (wild && pick(3) == 0 && a.shape != TargetShape::flat) a.layer = a.layers;
    return a;
  }

  void add(RandomSet& set, const std::string& slot, Format format, const Attachment& common) {
    const bool spoilt = pick(8) == 0;
    Attachment a = spoilt ? traits(true) : common;
    if (format == Format::stencil8 && !spoilt) {
      a.shape = TargetShape::flat;
      a.layers = a.levels = 1;
      a.level = 0;
      a.layer = all_layers;
    }
    a.slot = slot;
    a.target = slot;
    a.format = format;
    const bool plain = a.shape == TargetShape::flat && a.levels == 1 && a.level == 0;
    if (plain && pick(2) == 0) {
      set.made.push_back(-1 - static_cast<int>(set.renderbuffers.size()));
      set.renderbuffers.emplace_back(a.width, a.height, format, a.samples, slot);
    } else {
      set.made.push_back(static_cast<int>(set.textures.size()));
      set.textures.emplace_back(
          gl::TextureDescription{a.width, a.height, format, a.shape, a.layers, a.levels, a.samples}, slot);
    }
    set.attachments.push_back(std::move(a));
  }

  std::mt19937 random_;
};

GLenum attach_all(GLuint framebuffer, const RandomSet& set) {
  std::vector<GLenum> draw_buffers;
  for (std::size_t i = 0; i < set.attachments.size(); ++i) {
    const Attachment& a = set.attachments[i];
    GLenum point = GL_COLOR_ATTACHMENT0 + static_cast<GLenum>(draw_buffers.size());
    if (a.slot == "depth") {
      point = info(a.format).stencil && info(a.format).depth ? GL_DEPTH_STENCIL_ATTACHMENT : GL_DEPTH_ATTACHMENT;
    } else if (a.slot == "stencil") {
      point = GL_STENCIL_ATTACHMENT;
    } else {
      draw_buffers.push_back(point);
    }
    if (set.made[i] < 0) {
      glNamedFramebufferRenderbuffer(framebuffer, point, GL_RENDERBUFFER,
                                     set.renderbuffers[static_cast<std::size_t>(-1 - set.made[i])].name());
    } else if (a.layer == all_layers) {
      glNamedFramebufferTexture(framebuffer, point, set.textures[static_cast<std::size_t>(set.made[i])].name(),
                                a.level);
    } else {
      glNamedFramebufferTextureLayer(framebuffer, point, set.textures[static_cast<std::size_t>(set.made[i])].name(),
                                     a.level, a.layer);
    }
  }
  if (draw_buffers.size() <= 8) {
    const GLenum nowhere = GL_NONE;
    glNamedFramebufferDrawBuffers(framebuffer, std::max<GLsizei>(1, static_cast<GLsizei>(draw_buffers.size())),
                                  draw_buffers.empty() ? &nowhere : draw_buffers.data());
  }
  if (draw_buffers.empty()) glNamedFramebufferReadBuffer(framebuffer, GL_NONE);
  const GLenum error = glGetError();
  return error != GL_NO_ERROR ? error : glCheckNamedFramebufferStatus(framebuffer, GL_DRAW_FRAMEBUFFER);
}

/// A program that writes 1 to every colour and 0.5 to depth, as the attachments want it.
gl::Program program_for(gl::Device& device, const RandomSet& set) {
  std::string outputs, body;
  int location = 0;
  for (const Attachment& a : set.attachments) {
    if (a.slot == "depth" || a.slot == "stencil") continue;
    const char* type = value_kind(a.format) == ValueKind::floating         ? "vec4"
                       : value_kind(a.format) == ValueKind::signed_integer ? "ivec4"
                                                                           : "uvec4";
    outputs +=
        "layout(location = " + std::to_string(location) + ") out " + type + " o" + std::to_string(location) + ";\n";
    body += "o" + std::to_string(location) + " = " + type + "(1); ";
    ++location;
  }
  const std::string text = outputs + "void main() { " + body + "}\n";
  return gl::Program(device,
                     {"p",
                      gl::ShaderText::from_text("v",
                                                "void main() { gl_Position = vec4(gl_VertexID == 1 ? 3.0 : -1.0, "
                                                "gl_VertexID == 2 ? 3.0 : -1.0, 0.5, 1.0); }\n"),
                      gl::ShaderText::from_text("f", text)});
}

}  // namespace

TEST_CASE_METHOD(TestDevice,
                 "what OpenGL calls incomplete, and nothing else, is called so before: 3000 random attachment sets") {
  Maker maker(2024);
  std::map<std::string, int> told;
  const gl::VertexArray empty("empty");
  int complete = 0, drawn = 0, lapses = 0;
  for (int round = 0; round < 3000; ++round) {
    const RandomSet set = maker.make();
    const auto faults = check_attachments(set.attachments, "the set", device.limits());
    GLuint framebuffer = 0;
    glCreateFramebuffers(1, &framebuffer);
    const bool accepted = attach_all(framebuffer, set) == GL_FRAMEBUFFER_COMPLETE;
    std::string description;
    for (const Attachment& a : set.attachments) {
      description += fmt::format("{}: {} {}x{} {} layers {} levels {} samples {}, level {} layer {}\n", a.slot,
                                 to_string(a.format), a.width, a.height, to_string(a.shape), a.layers, a.levels,
                                 a.samples, a.level, a.layer);
    }
    for (const AttachmentFault& fault : faults) {
      description += fault.diagnostic.slug + ": " + fault.diagnostic.message + "\n";
      ++told[fault.diagnostic.slug];
    }
    INFO(description);
    const bool called_incomplete =
        std::any_of(faults.begin(), faults.end(), [](const AttachmentFault& fault) { return fault.incomplete; });
    // Mesa does not look at the layer of multisampled arrays, where the specification (9.4.1) has it refused.
    const bool known_lapse =
        called_incomplete && std::all_of(faults.begin(), faults.end(), [&](const AttachmentFault& f) {
          return !f.incomplete || (f.diagnostic.slug == "no-such-layer" && set.attachments[0].samples > 1);
        });
    if (!known_lapse) CHECK(called_incomplete != accepted);
    lapses += known_lapse && accepted;
    complaints.clear();  // attaching what can't be attached is what is tried here
    complete += accepted;
    // What we find nothing wrong with must also draw, into every one of its images.
    if (faults.empty() && drawn < 400) {
      ++drawn;
      glBindFramebuffer(GL_FRAMEBUFFER, framebuffer);
      const Attachment& first = set.attachments.front();
      glViewport(0, 0, first.width >> first.level, first.height >> first.level);
      glUseProgram(program_for(device, set).name());
      glBindVertexArray(empty.name());
      glDisable(GL_DEPTH_TEST);
      glDrawArrays(GL_TRIANGLES, 0, 3);
      for (std::size_t i = 0; i < set.attachments.size(); ++i) {
        const Attachment& a = set.attachments[i];
        if (a.slot == "depth" || a.slot == "stencil") continue;
        if (a.samples == 1 && set.made[i] >= 0) {
          const gl::Texture& texture = set.textures[static_cast<std::size_t>(set.made[i])];
          const double got = texture.read(a.level, std::max(0, a.layer)).at(3 >> a.level, 1 >> a.level)[0];
          CHECK((got == 1 || got == 255));
        }
      }
      CHECK(complaints.empty());
      glBindFramebuffer(GL_FRAMEBUFFER, 0);
    }
    glDeleteFramebuffers(1, &framebuffer);
  }
  // Both verdicts, and every cause, must really have come up.
  CHECK(complete > 600);
  CHECK(complete < 2700);
  CHECK(drawn == 400);
  CHECK(lapses < 30);
  for (const char* slug : {"wrong-attachment", "sample-mismatch", "layer-mismatch", "no-such-level", "no-such-layer",
                           "size-mismatch", "writes-nothing", "over-device-limit", "split-depth-stencil"}) {
    INFO(slug);
    CHECK(told[slug] >= 5);
  }
}

TEST_CASE_METHOD(TestDevice, "random frames that were planned run without a word from the driver") {
  std::mt19937 random(7);
  const auto pick = [&](int count) { return static_cast<int>(random() % static_cast<unsigned>(count)); };
  int ran = 0, refused = 0;
  for (int round = 0; round < 300; ++round) {
    FrameGraph frame;
    std::vector<TargetHandle> targets;
    std::vector<TargetDescription> descriptions;
    for (int i = 0; i < 2 + pick(4); ++i) {
      TargetDescription d;
      d.format = all_formats()[static_cast<std::size_t>(pick(static_cast<int>(all_formats().size())))].format;
      d.samples = pick(4) == 0 ? 4 : 0;
      d.levels = pick(6) == 0 ? 2 : 1;
      d.layers = pick(6) == 0 ? 3 : 1;
      if (pick(3) == 0) d.size = TargetSize::of_frame(0.5f);
      targets.push_back(frame.target("t" + std::to_string(i), d));
      descriptions.push_back(d);
      frame.keep(targets.back());
    }
    for (std::size_t i = 0; i < targets.size(); ++i) {
      Pass pass;
      pass.name = "p" + std::to_string(i);
      for (int k = 0; k < 1 + pick(2); ++k) {
        const std::size_t t = (i + static_cast<std::size_t>(k)) % targets.size();
        const FormatInfo& format = info(descriptions[t].format);
        pass.writes.push_back({format.depth     ? "depth"
                               : format.stencil ? "stencil"
                                                : "c" + std::to_string(k),
                               targets[t]});
        if (descriptions[t].layers > 1 && pick(2) == 0) pass.writes.back().layer = pick(3);
      }
      pass.work = gl::raw_work([](gl::PassContext& context) {
        context.state().apply({});
        static_cast<void>(context);
      });
      frame.add(std::move(pass));
    }
    const PlanResult result = frame.plan(12, 10, device.limits());
    if (!result.ok()) {
      ++refused;
      continue;
    }
    ++ran;
    INFO(round);
    gl::FrameRunner runner(device, result.value());
    runner.run(0);
    for (const PlannedTarget& target : result.value().targets()) {
      if (target.lasts && target.samples == 1) runner.read(target.name);
    }
    REQUIRE(complaints.empty());
  }
  CHECK(ran > 40);
  CHECK(refused > 40);
}

TEST_CASE_METHOD(TestDevice, "sharing memory changes no pixel: random frames with and without it") {
  std::mt19937 random(11);
  constexpr Format formats[] = {Format::rgba16f, Format::rg32f, Format::rgba8,
                                Format::r32f,    Format::rg16f, Format::rgb10a2};
  int shared = 0;
  for (int round = 0; round < 12; ++round) {
    const auto seed = static_cast<unsigned>(random());
    const auto picture = [&](bool keep_all) {
      std::mt19937 dice(seed);
      const auto roll = [&](int count) { return static_cast<int>(dice() % static_cast<unsigned>(count)); };
      FrameGraph frame;
      std::vector<TargetHandle> made;
      for (int i = 0; i < 14; ++i) {
        const bool last = i == 13;
        const TargetHandle target =
            last ? frame.output()
                 : frame.target("t" + std::to_string(i), {.format = formats[roll(6)],
                                                          .samples = roll(5) == 0 ? 4 : 0,
                                                          .clear_color = {0.1f, 0.2f, 0.3f, 0.4f}});
        std::vector<Read> reads;
        std::string sum = fmt::format("vec4(0.0{0}, 0.01 * gl_FragCoord.x, 0.1, 1.0)", 1 + roll(9)), samplers;
        for (int k = 0; k < 2 && !made.empty(); ++k) {
          const auto which = static_cast<std::size_t>(std::max(0, static_cast<int>(made.size()) - 1 - roll(3)));
          const std::string name = "s" + std::to_string(k);
          reads.push_back({name, made[which]});
          samplers += "uniform sampler2D " + name + ";\n";
          sum += " + 0.4 * texture(" + name + ", uv)";
        }
        // Half of them leave pixels to the clear value.
        const std::string text = samplers + "out vec4 color;\nvoid main() { " +
                                 (roll(2) && !last ? "if (gl_FragCoord.y < 3.0) discard; " : "") + "color = " + sum +
                                 "; }\n";
        frame.add(draw("p" + std::to_string(i), text, reads, {{"color", target}}));
        if (!last) made.push_back(target);
        if (!last && keep_all) frame.keep(target);
      }
      const FramePlan plan = planned(frame, device, 12, 9);
      if (!keep_all) shared += plan.bytes() < plan.unshared_bytes();
      gl::FrameRunner runner(device, plan);
      runner.run(0);
      runner.run(0);
      return runner.read("output");
    };
    INFO(round);
    REQUIRE(picture(false) == picture(true));
  }
  REQUIRE(shared >= 8);
}
