// Bloom and a tone curve over lamps at night, by hand.

#include "by_hand/hand.h"

#include <algorithm>

namespace {

// (1 3 3 1) / 8 along rows and columns, in four fetches between pixels.
constexpr const char* smaller = R"(#version 450 core
layout(binding = 0) uniform sampler2D source;
layout(location = 0) uniform vec2 pixel;
layout(location = 0) out vec3 color;
void main() {
  vec2 middle = 2.0 * gl_FragCoord.xy * pixel, off = 0.75 * pixel;
  color = 0.25 * (textureLod(source, middle - off, 0.0).rgb + textureLod(source, middle + vec2(off.x, -off.y), 0.0).rgb +
                  textureLod(source, middle + vec2(-off.x, off.y), 0.0).rgb + textureLod(source, middle + off, 0.0).rgb);
}
)";

constexpr const char* larger = R"(#version 450 core
layout(binding = 0) uniform sampler2D source;
layout(location = 0) uniform vec2 pixel;
layout(location = 1) uniform float share;
layout(location = 0) out vec4 color;
void main() { color = vec4(textureLod(source, 0.5 * gl_FragCoord.xy * pixel, 0.0).rgb, share); }
)";

constexpr const char* finish = R"(#version 450 core
layout(binding = 0) uniform sampler2D source;
layout(binding = 1) uniform sampler2D spread;
layout(location = 0) uniform vec2 pixel;
layout(location = 1) uniform vec2 strength_exposure;
layout(location = 0) out vec4 color;
void main() {
  vec3 here = texelFetch(source, ivec2(gl_FragCoord.xy), 0).rgb;
  vec3 x = strength_exposure.y * mix(here, textureLod(spread, 0.5 * gl_FragCoord.xy * pixel, 0.0).rgb, strength_exposure.x);
  color = vec4(x * (2.6 * x + 0.05) / (x * (2.45 * x + 0.62) + 0.16), 1.0);
}
)";

struct Level {
  int width, height;
  GLuint texture, framebuffer;
};

}  // namespace

int main(int argc, char** argv) {
  TwinOptions options = read_twin_options(argc, argv);
  return run_twin(options, [&options]() -> Twin {
    by_hand::open_device();
    const auto made = [](int width, int height) {
      const GLuint texture = make_texture(GL_RGBA16F, width, height);
      return Level{width, height, texture, make_framebuffer(texture)};
    };
    const float deviation = 0.5f * frames::bloom_radius * static_cast<float>(options.height);
    const float wanted = std::max(1.0f, std::log2(deviation * std::sqrt(2.0f)));
    std::vector<Level> levels{made(options.width, options.height)};  // the first is the picture
    // GL has the lowest row first.
    const std::vector<float> lamps = frames::lamps(options.width, options.height);
    for (int y = 0; y < options.height; ++y)
      glTextureSubImage2D(levels[0].texture, 0, 0, options.height - 1 - y, options.width, 1, GL_RGBA, GL_FLOAT,
                          &lamps[static_cast<std::size_t>(4 * y * options.width)]);
    for (int i = 0; static_cast<float>(i) < wanted; ++i)
      levels.push_back(made((levels.back().width + 1) / 2, (levels.back().height + 1) / 2));
    const float last_share = wanted - std::floor(wanted - 1e-6f);
    const GLuint output = make_texture(GL_SRGB8_ALPHA8, options.width, options.height);
    const GLuint target = make_framebuffer(output);
    const GLuint programs[] = {by_hand::program(by_hand::whole_picture, smaller),
                               by_hand::program(by_hand::whole_picture, larger),
                               by_hand::program(by_hand::whole_picture, finish)};
    glProgramUniform2f(programs[2], 0, 1 / static_cast<float>(levels[1].width),
                       1 / static_cast<float>(levels[1].height));
    glProgramUniform2f(programs[2], 1, frames::bloom_strength, 1 / (1.2f * std::exp2(frames::bloom_ev100)));
    const GLuint linear = make_sampler(GL_LINEAR);
    glBindSampler(0, linear);
    glBindSampler(1, linear);
    glEnable(GL_FRAMEBUFFER_SRGB);
    glBlendFunc(GL_SRC_ALPHA, GL_ONE_MINUS_SRC_ALPHA);
    const auto into = [](const Level& level) {
      glBindFramebuffer(GL_FRAMEBUFFER, level.framebuffer);
      glViewport(0, 0, level.width, level.height);
    };
    const auto from = [](GLuint program, const Level& level) {
      glBindTextureUnit(0, level.texture);
      const float pixel[2] = {1 / static_cast<float>(level.width), 1 / static_cast<float>(level.height)};
      glProgramUniform2fv(program, 0, 1, pixel);
    };
    return {[=](double) {
              glUseProgram(programs[0]);
              for (std::size_t i = 1; i < levels.size(); ++i) {
                into(levels[i]);
                from(programs[0], levels[i - 1]);
                by_hand::draw_whole_picture();
              }
              glUseProgram(programs[1]);
              glEnable(GL_BLEND);
              for (std::size_t i = levels.size() - 1; i > 1; --i) {
                into(levels[i - 1]);
                from(programs[1], levels[i]);
                glProgramUniform1f(programs[1], 1, frames::bloom_spread * (i == levels.size() - 1 ? last_share : 1.0f));
                by_hand::draw_whole_picture();
              }
              glDisable(GL_BLEND);
              glBindFramebuffer(GL_FRAMEBUFFER, target);
              glViewport(0, 0, levels[0].width, levels[0].height);
              glUseProgram(programs[2]);
              glBindTextureUnit(0, levels[0].texture);
              glBindTextureUnit(1, levels[1].texture);
              by_hand::draw_whole_picture();
            },
            [=] { return by_hand::picture_of(output, levels[0].width, levels[0].height); }};
  });
}
