#include <periscena/gl/program_cache.h>

#include "gl/api.h"
#include "gl/expansions.h"
#include "gl/glsl_tokens.h"
#include "gl/linked_program.h"
#include "gl/program_files.h"
#include "gl/reflection.h"

#include <periscena/base/error.h>

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <set>
#include <unordered_map>
#include <utility>

namespace periscena::gl {

using ShaderName = ObjectName<ObjectKind::shader>;
using ProgramName = ObjectName<ObjectKind::program>;

/// A program whose shaders the driver may still be compiling.
struct Compiling {
  std::vector<ShaderName> shaders;  ///< by stage
  ProgramName program;
};

namespace {

std::string shader_log(GLuint shader) {
  GLint length = 0;
  glGetShaderiv(shader, GL_INFO_LOG_LENGTH, &length);
  std::string log(static_cast<std::size_t>(std::max(0, length)), '\0');
  if (length > 0) glGetShaderInfoLog(shader, length, nullptr, log.data());
  return log.substr(0, log.find('\0'));
}

std::string program_log(GLuint program) {
  GLint length = 0;
  glGetProgramiv(program, GL_INFO_LOG_LENGTH, &length);
  std::string log(static_cast<std::size_t>(std::max(0, length)), '\0');
  if (length > 0) glGetProgramInfoLog(program, length, nullptr, log.data());
  return log.substr(0, log.find('\0'));
}

/// A stage of a program.
struct Stage {
  GLenum kind;
  const char* what;
  const ShaderText* source;
  std::shared_ptr<const ExpandedShader> shared;  ///< never null

  const ExpandedShader& expanded() const { return *shared; }
};

std::vector<Stage> stages_of(const ProgramDescription& description, Expansions& expansions) {
  const struct {
    GLenum kind;
    const char* what;
    const ShaderText& source;
  } all[] = {{GL_COMPUTE_SHADER, "compute", description.compute},
             {GL_VERTEX_SHADER, "vertex", description.vertex},
             {GL_FRAGMENT_SHADER, "fragment", description.fragment}};
  std::vector<Stage> stages;
  for (const auto& one : all) {
    const bool other = !description.compute.empty() && one.kind != GL_COMPUTE_SHADER;
    if (!one.source.empty() && !other) stages.push_back({one.kind, one.what, &one.source, expansions.of(one.source)});
  }
  return stages;
}

std::string text_of(const std::vector<Stage>& stages) {
  std::string text;
  for (const Stage& stage : stages)
    text += fmt::format("{} {}\n", stage.what, stage.expanded().text.size()) + stage.expanded().text;
  return text;
}

Compiling start_to_compile(const std::vector<Stage>& stages, bool for_file) {
  Compiling begun{{}, ProgramName(glCreateProgram())};
  if (for_file) glProgramParameteri(begun.program.get(), GL_PROGRAM_BINARY_RETRIEVABLE_HINT, GL_TRUE);
  for (const Stage& stage : stages) {
    ShaderName shader(glCreateShader(stage.kind));
    const char* text = stage.expanded().text.c_str();
    const auto length = static_cast<GLint>(stage.expanded().text.size());
    glShaderSource(shader.get(), 1, &text, &length);
    glCompileShader(shader.get());
    shader.set_label(stage.source->source()->name);
    glAttachShader(begun.program.get(), shader.get());
    begun.shaders.push_back(std::move(shader));
  }
  glLinkProgram(begun.program.get());
  return begun;
}

void expect_compiled(const Stage& stage, GLuint shader, const std::string& label) {
  GLint compiled = GL_FALSE;
  glGetShaderiv(shader, GL_COMPILE_STATUS, &compiled);
  if (compiled) return;
  const std::string what = fmt::format("the {} program of \"{}\"", stage.what, label);
  Diagnostics diagnostics = read_compile_log(shader_log(shader), stage.expanded(), what);
  if (!diagnostics.has_errors()) {
    diagnostics.error("shader", {stage.source->source(), nullptr, 0, 0, 1},
                      fmt::format("{} does not compile, and the driver gives no reason", what));
  }
  throw Mistake(std::move(diagnostics));
}

/// Uniforms that the GLSL itself gives a value: `uniform … name = …` and `uniform … name[…] = …`.
void add_initialised(std::string_view text, std::set<std::string>& names) {
  const std::vector<GlslToken> tokens = glsl_tokens(text);
  for (std::size_t i = 0; i < tokens.size(); ++i) {
    if (!tokens[i].is("uniform")) continue;
    std::string_view name;
    int brackets = 0;
    for (++i; i < tokens.size() && !tokens[i].is(";") && !tokens[i].is("{"); ++i) {
      if (tokens[i].is("[") || tokens[i].is("(")) ++brackets;
      if (tokens[i].is("]") || tokens[i].is(")")) --brackets;
      if (brackets > 0) continue;
      if (tokens[i].is("=")) names.emplace(name);
      if (is_word(tokens[i].text)) name = tokens[i].text;
    }
  }
}

/// The line that a link error speaks of: a function that it names in quotes, or a shader without main.
Place place_of_link_error(std::string_view log, const std::vector<Stage>& stages) {
  for (const Stage& stage : stages) {
    if (Place found = find_quoted_function(log, stage.expanded()); found.known()) return found;
  }
  const bool no_main = log.find("`main'") != log.npos && !stages.empty();
  return no_main ? Place{stages.back().source->source(), nullptr, 0, 0, 1} : Place{};
}

[[noreturn]] void refuse_to_link(const std::string& label, std::string log, const std::vector<Stage>& stages,
                                 Place place) {
  log = log.substr(0, log.find_last_not_of(" \n") + 1);
  const Place found = place_of_link_error(log, stages);
  const bool recursion = log.find("recursion") != log.npos, no_main = log.find("`main'") != log.npos;
  for (std::size_t at = log.find('\n'); at != log.npos; at = log.find('\n')) log.replace(at, 1, "; ");
  throw Mistake("program-link", found.known() ? found : place,
                fmt::format("program \"{}\" does not link: {}", label, log),
                recursion ? "GLSL has no recursion: write a loop"
                : no_main ? "add void main() { … }"
                          : "outputs of the vertex program and inputs of the fragment program must agree in name, type "
                            "and location");
}

bool is_linked(GLuint program) {
  GLint linked = GL_FALSE;
  glGetProgramiv(program, GL_LINK_STATUS, &linked);
  return linked == GL_TRUE;
}

ProgramBinary binary_of(GLuint program) {
  GLint length = 0;
  glGetProgramiv(program, GL_PROGRAM_BINARY_LENGTH, &length);
  ProgramBinary binary;
  if (length <= 0) return binary;
  binary.bytes.resize(static_cast<std::size_t>(length));
  GLenum format = 0;
  GLsizei written = 0;
  glGetProgramBinary(program, length, &written, &format, binary.bytes.data());
  binary.format = format;
  binary.bytes.resize(static_cast<std::size_t>(std::max(0, written)));
  return binary;
}

/// Formats that the driver takes today.
bool takes(GLenum format) {
  GLint count = 0;
  glGetIntegerv(GL_NUM_PROGRAM_BINARY_FORMATS, &count);
  std::vector<GLint> formats(static_cast<std::size_t>(std::max(0, count)));
  if (count > 0) glGetIntegerv(GL_PROGRAM_BINARY_FORMATS, formats.data());
  return std::find(formats.begin(), formats.end(), static_cast<GLint>(format)) != formats.end();
}

/// What a uniform holds; empty for arrays, and for types that no setter takes.
UniformBytes value_in(GLuint program, const UniformInfo& uniform) {
  if (uniform.array_size != 1) return {};
  const auto read = [&](std::size_t numbers, bool integers) {
    UniformBytes bytes(4 * numbers);
    if (integers)
      glGetUniformiv(program, uniform.location, reinterpret_cast<GLint*>(bytes.data()));
    else
      glGetUniformfv(program, uniform.location, reinterpret_cast<GLfloat*>(bytes.data()));
    return bytes;
  };
  switch (uniform.type) {
    case ValueType::boolean:
    case ValueType::integer: return read(1, true);
    case ValueType::ivec4: return read(4, true);
    case ValueType::number: return read(1, false);
    case ValueType::vec2: return read(2, false);
    case ValueType::vec3: return read(3, false);
    case ValueType::vec4: return read(4, false);
    case ValueType::mat3: return read(9, false);
    case ValueType::mat4: return read(16, false);
    default: return {};
  }
}

}  // namespace

struct ProgramCache::Contents {
  static constexpr std::size_t most_unused = 128;

  struct Entry {
    std::shared_ptr<LinkedProgram> program;  ///< null while it is compiling
    Compiling begun;
    std::uint64_t wanted = 0;  ///< when it was asked for last
  };

  ProgramFiles files;
  Expansions expansions = {};
  std::unordered_map<std::string, Entry> entries = {};       ///< by text
  std::vector<std::shared_ptr<const SourceText>> read = {};  ///< since they were taken last
  Counts counts = {};
  std::uint64_t now = 0;

  std::shared_ptr<LinkedProgram> load(const std::string& text) {
    const std::optional<ProgramBinary> binary = files.read(text);
    if (!binary) return nullptr;
    auto loaded = std::make_shared<LinkedProgram>();
    loaded->name = ProgramName(glCreateProgram());
    if (takes(binary->format)) {
      glProgramBinary(loaded->name.get(), binary->format, binary->bytes.data(),
                      static_cast<GLsizei>(binary->bytes.size()));
      if (is_linked(loaded->name.get())) return loaded;
    }
    files.drop(text);
    return nullptr;
  }

  std::shared_ptr<LinkedProgram> finish(Compiling begun, const std::vector<Stage>& stages, const std::string& label,
                                        Place place) {
    for (std::size_t i = 0; i < stages.size(); ++i) expect_compiled(stages[i], begun.shaders[i].get(), label);
    const GLuint program = begun.program.get();
    if (!is_linked(program)) refuse_to_link(label, program_log(program), stages, std::move(place));
    for (const ShaderName& shader : begun.shaders) glDetachShader(program, shader.get());
    auto linked = std::make_shared<LinkedProgram>();
    linked->name = std::move(begun.program);
    return linked;
  }

  /// Lets go of those that were wanted longest ago.
  void let_go() {
    std::vector<std::pair<std::uint64_t, const std::string*>> unused;
    for (const auto& [text, entry] : entries) {
      if (!entry.program || entry.program.use_count() == 1) unused.emplace_back(entry.wanted, &text);
    }
    if (unused.size() <= most_unused) return;
    std::sort(unused.begin(), unused.end());
    unused.resize(unused.size() - most_unused);
    for (const auto& [wanted, text] : unused) entries.erase(entries.find(*text));
  }
};

ProgramCache::ProgramCache(std::string driver, std::filesystem::path folder)
    : contents_(new Contents{.files = ProgramFiles(std::move(driver), std::move(folder))}) {}

ProgramCache::~ProgramCache() = default;

std::shared_ptr<LinkedProgram> ProgramCache::get(const ProgramDescription& description, Place place) {
  Contents& all = *contents_;
  const std::vector<Stage> stages = stages_of(description, all.expansions);
  for (const Stage& stage : stages)
    all.read.insert(all.read.end(), stage.expanded().files.begin(), stage.expanded().files.end());
  const std::string text = text_of(stages);
  std::string key = text;
  for (int twin = 1;; key = fmt::format("{}\n{}", text, twin++)) {
    const auto known = all.entries.find(key);
    if (known == all.entries.end() || !known->second.program) break;
    if (known->second.program->one_at_a_time && known->second.program.use_count() > 1) continue;
    known->second.wanted = ++all.now;
    ++all.counts.shared;
    return known->second.program;
  }
  auto pending = all.entries.extract(key);
  std::shared_ptr<LinkedProgram> linked = pending ? nullptr : all.load(text);
  if (linked) {
    ++all.counts.loaded;
  } else {
    Compiling begun = pending ? std::move(pending.mapped().begun) : start_to_compile(stages, all.files.used());
    linked = all.finish(std::move(begun), stages, description.name, std::move(place));
    ++all.counts.compiled;
    if (all.files.used()) all.files.write(text, binary_of(linked->name.get()));
  }
  linked->name.set_label(description.name);
  linked->interface = reflect(linked->name.get());
  linked->sent.resize(linked->interface.uniforms.size());
  std::set<std::string> initialised;
  for (const Stage& stage : stages) add_initialised(stage.expanded().text, initialised);
  bool all_known = true;
  for (const UniformInfo& uniform : linked->interface.uniforms) {
    linked->has_initial_value.push_back(initialised.contains(uniform.name));
    linked->initial.emplace_back();
    if (!linked->has_initial_value.back()) continue;
    linked->initial.back() = value_in(linked->name.get(), uniform);
    all_known = all_known && !linked->initial.back().empty();
  }
  // A value that can't be sent again for the next user is one user's own. Those that can be are sent seldom, when one
  // is gone: passes of one frame would send them to and fro.
  if (!all_known) return linked;
  linked->one_at_a_time = !initialised.empty();
  all.entries[std::move(key)] = {linked, {}, ++all.now};
  all.let_go();
  return linked;
}

void ProgramCache::prepare(std::span<const ProgramDescription> descriptions) {
  Contents& all = *contents_;
  for (const ProgramDescription& description : descriptions) {
    const std::vector<Stage> stages = stages_of(description, all.expansions);
    std::string text = text_of(stages);
    if (all.entries.contains(text) || all.files.contains(text)) continue;
    all.entries[std::move(text)] = {nullptr, start_to_compile(stages, all.files.used()), ++all.now};
  }
}

std::vector<std::shared_ptr<const SourceText>> ProgramCache::take_files() {
  return std::exchange(contents_->read, {});
}

ProgramCache::Counts ProgramCache::counts() const {
  return contents_->counts;
}

std::size_t ProgramCache::size() const {
  return contents_->entries.size();
}

}  // namespace periscena::gl
