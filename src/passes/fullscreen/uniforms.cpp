#include "passes/fullscreen/uniforms.h"

#include <periscena/base/error.h>
#include <periscena/base/value.h>
#include <periscena/gl/program.h>

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace periscena::passes {
namespace {

int component_count(gl::ValueType type) {
  switch (type) {
    case gl::ValueType::boolean:
    case gl::ValueType::integer:
    case gl::ValueType::number: return 1;
    case gl::ValueType::vec2: return 2;
    case gl::ValueType::vec3: return 3;
    case gl::ValueType::vec4: return 4;
    default: return 0;
  }
}

}  // namespace

void set_uniform(gl::Program& program, const UniformValue& value) {
  const std::string& name = value.name.name;
  const Place& place = value.name.place;
  const gl::UniformInfo* info = program.interface().find_uniform(name);
  if (!info) program.uniform<float>(name, place);  // refuses with the nearest name
  const auto number = [&](std::size_t i) { return static_cast<float>(value.numbers[i]); };
  if (component_count(info->type) != static_cast<int>(value.numbers.size()) || info->array_size != 1) {
    throw Mistake("wrong-uniform-type", place,
                  fmt::format("uniform \"{}\" of \"{}\" is {}, but {} number{} given", name, program.label(),
                              to_string(info->type), value.numbers.size(), value.numbers.size() == 1 ? " is" : "s are"),
                  "give as many numbers as the GLSL declares");
  }
  switch (info->type) {
    case gl::ValueType::boolean: return program.set(program.uniform<bool>(name), value.numbers[0] != 0);
    case gl::ValueType::integer:
      if (value.numbers[0] != std::floor(value.numbers[0])) {
        throw Mistake("wrong-uniform-type", place,
                      fmt::format("uniform \"{}\" is int, but {} is not whole", name, value.numbers[0]),
                      "give a whole number");
      }
      return program.set(program.uniform<int>(name), static_cast<int>(value.numbers[0]));
    case gl::ValueType::number: return program.set(program.uniform<float>(name), number(0));
    case gl::ValueType::vec2: return program.set(program.uniform<Vec2>(name), Vec2(number(0), number(1)));
    case gl::ValueType::vec3: return program.set(program.uniform<Vec3>(name), Vec3(number(0), number(1), number(2)));
    default: return program.set(program.uniform<Vec4>(name), Vec4(number(0), number(1), number(2), number(3)));
  }
}

std::vector<UniformValue> read_uniforms(const Value& table, Diagnostics& problems) {
  std::vector<UniformValue> read;
  const Value::Table* members = table.table();
  if (!members) {
    problems.error("wrong-type", table.place,
                   fmt::format("\"uniforms\" wants a table, but this is {}", table.describe()),
                   "write uniforms = { strength = 0.5, tint = [1, 0.9, 0.8] }");
    return read;
  }
  for (const ValueMember& member : *members) {
    std::vector<double> numbers;
    const auto add = [&](const Value& value) {
      double number = 0;
      if (const bool* yes = std::get_if<bool>(&value.data)) {
        numbers.push_back(*yes ? 1 : 0);
      } else if (value.number(number) && std::isfinite(number)) {
        numbers.push_back(number);
      } else {
        problems.error(
            "wrong-type", value.place,
            fmt::format("uniform \"{}\" wants finite numbers, but this is {}", member.name, value.describe()),
            "give a number, a list of 2 to 4 numbers, true or false");
      }
    };
    if (const Value::Array* list = member.value.array()) {
      std::for_each(list->begin(), list->end(), add);
    } else {
      add(member.value);
    }
    read.emplace_back(Reference(member.name, member.place), std::move(numbers));
  }
  return read;
}

Value write_uniforms(const std::vector<UniformValue>& values) {
  Value::Table table;
  for (const UniformValue& value : values) {
    Value::Array list;
    for (const double number : value.numbers) list.push_back({number, {}});
    table.push_back({value.name.name, value.name.place, list.size() == 1 ? list[0] : Value{std::move(list), {}}});
  }
  return {std::move(table), {}};
}

bool differ_by_uniforms(const Fullscreen& a, const Fullscreen& b) {
  const auto same_name = [](const Reference& x, const Reference& y) { return x.name == y.name; };
  const auto same_uniform = [&](const UniformValue& x, const UniformValue& y) {
    return x.name.name == y.name.name && x.numbers.size() == y.numbers.size();
  };
  const auto same_target = [&](const TargetUse& x, const TargetUse& y) {
    return x.handle == y.handle && same_name(x.reference, y.reference);
  };
  const auto equal = [](const auto& x, const auto& y, const auto& same) {
    return std::equal(x.begin(), x.end(), y.begin(), y.end(), same);
  };
  return a.shader.source() == b.shader.source() && a.shader.first_lines() == b.shader.first_lines() &&
         a.scene == b.scene && same_name(a.view, b.view) && same_name(a.environment, b.environment) &&
         same_name(a.fog, b.fog) && a.lights.all() == b.lights.all() &&
         equal(a.lights.names(), b.lights.names(), same_name) && equal(a.shadows, b.shadows, same_target) &&
         equal(a.uniforms, b.uniforms, same_uniform) && a.cache == b.cache && a.lenient == b.lenient &&
         a.strange == b.strange;
}

}  // namespace periscena::passes
