#pragma once

#include <periscena/gl/shader_text.h>

#include <fmt/format.h>

#include <memory>
#include <string>
#include <unordered_map>

namespace periscena::gl {

/// Expanded GLSL. What no file is a part of is expanded once.
class Expansions {
 public:
  std::shared_ptr<const ExpandedShader> of(const ShaderText& shader) {
    if (shader.is_file() || !shader.folder().empty()) return std::make_shared<const ExpandedShader>(expand(shader));
    std::string key = fmt::format("{}\n{}\n", shader.source()->name, static_cast<const void*>(shader.library().data()));
    for (const std::string& line : shader.first_lines()) key += line + '\n';
    key += shader.source()->text;
    if (const auto known = known_.find(key); known != known_.end()) return known->second;
    auto made = std::make_shared<const ExpandedShader>(expand(shader));
    if (!made->files.empty()) return made;
    if (known_.size() >= most) known_.clear();
    known_.emplace(std::move(key), made);
    return made;
  }

 private:
  static constexpr std::size_t most = 512;

  std::unordered_map<std::string, std::shared_ptr<const ExpandedShader>> known_;
};

}  // namespace periscena::gl
