// What is read of GLSL without a compiler. Half of the changes go by tokens: one left out, doubled, or for another.
#include "reader.h"

#include "gl/glsl_tokens.h"

#include <periscena/gl/shader_interface.h>

#include <random>
#include <vector>

extern "C" std::size_t LLVMFuzzerMutate(std::uint8_t* data, std::size_t size, std::size_t max_size);

extern "C" std::size_t LLVMFuzzerCustomMutator(std::uint8_t* data, std::size_t size, std::size_t max_size,
                                               unsigned seed) {
  static const std::vector<std::string> words{"uniform",
                                              "out",
                                              "in",
                                              "layout",
                                              "(",
                                              ")",
                                              "{",
                                              "}",
                                              ";",
                                              "location",
                                              "=",
                                              "1",
                                              "const",
                                              "vec4",
                                              "float",
                                              "pow",
                                              "2.2",
                                              "#define",
                                              "#if",
                                              "#endif",
                                              "\n",
                                              "//",
                                              "/*",
                                              "*/",
                                              "void",
                                              "main",
                                              "sampler2DMS",
                                              "highp",
                                              "discard",
                                              "#version 450\n",
                                              "#include \"a\"\n",
                                              "[",
                                              "]",
                                              ",",
                                              "0.04045"};
  if (seed % 2 == 0) return LLVMFuzzerMutate(data, size, max_size);
  std::mt19937 random(seed);
  const std::string text(reinterpret_cast<const char*>(data), size);
  std::vector<std::string> tokens;
  for (const periscena::gl::GlslToken& token : periscena::gl::glsl_tokens(text)) {
    if (token.first_of_line) tokens.emplace_back("\n");
    tokens.emplace_back(token.text);
  }
  for (unsigned i = 0; i <= random() % 4; ++i) {
    const std::size_t at = tokens.empty() ? 0 : random() % tokens.size();
    const auto place = tokens.begin() + static_cast<std::ptrdiff_t>(at);
    switch (random() % 4) {
      case 0:
        if (!tokens.empty()) tokens.erase(place);
        break;
      case 1: tokens.insert(place, tokens.empty() ? words[0] : tokens[random() % tokens.size()]); break;
      case 2: tokens.insert(place, words[random() % words.size()]); break;
      default:
        if (!tokens.empty()) tokens[at] = words[random() % words.size()];
    }
  }
  std::string made;
  for (const std::string& token : tokens) made += token + (token == "\n" ? "" : " ");
  made.resize(std::min(made.size(), max_size));
  std::copy(made.begin(), made.end(), data);
  return made.size();
}

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
  return expect_read_or_refused([&] {
    const auto shader = periscena::gl::ShaderText::from_text("fuzz", {reinterpret_cast<const char*>(data), size});
    periscena::gl::read_interface(shader);
    const periscena::gl::ShaderWords words(shader);
    words.declared("uniform");
    words.declared("out");
    words.has_block("uniform", "Lighting");
  });
}
