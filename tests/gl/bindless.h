#pragma once

#include <epoxy/gl.h>

#include <cstdint>
#include <map>
#include <string>
#include <utility>

/// A driver that seems to have GL_ARB_bindless_texture, which none at hand has: its entry points are replaced. Shaders
/// that ask for the extension are compiled as if they did not, so what they look up is not there; everything else is
/// real. One at a time, while a context is current.
struct Bindless {
  struct Handle {
    GLuint texture, sampler;
    bool resident = false;
    int made_resident = 0, let_go = 0;
  };
  inline static std::map<GLuint64, Handle> handles;
  inline static int misuses = 0;    ///< handles that were never given, or made resident twice
  inline static bool gives = true;  ///< handles, when asked

  Bindless() {
    handles.clear();
    misuses = 0;
    gives = true;
    // An entry point replaces itself by the driver's when it is first called.
    GLint count = 0;
    glGetIntegerv(GL_NUM_EXTENSIONS, &count);
    glGetStringi(GL_EXTENSIONS, 0);
    const GLuint shader = glCreateShader(GL_VERTEX_SHADER);
    const char* nothing = "";
    glShaderSource(shader, 1, &nothing, nullptr);
    glDeleteShader(shader);
    get_integer = epoxy_glGetIntegerv;
    get_string = epoxy_glGetStringi;
    shader_source = epoxy_glShaderSource;
    epoxy_glGetIntegerv = [](GLenum what, GLint* value) {
      get_integer(what, value);
      if (what == GL_NUM_EXTENSIONS) ++*value;
    };
    epoxy_glGetStringi = [](GLenum what, GLuint index) {
      GLint known = 0;
      get_integer(GL_NUM_EXTENSIONS, &known);
      const bool ours = what == GL_EXTENSIONS && index == static_cast<GLuint>(known);
      return ours ? reinterpret_cast<const GLubyte*>("GL_ARB_bindless_texture") : get_string(what, index);
    };
    epoxy_glShaderSource = [](GLuint name, GLsizei count_of, const GLchar* const* texts, const GLint* lengths) {
      std::string text;
      for (GLsizei i = 0; i < count_of; ++i)
        text += lengths ? std::string(texts[i], static_cast<std::size_t>(lengths[i])) : std::string(texts[i]);
      for (const std::string line : {"#extension GL_ARB_bindless_texture : require", "#define TEXTURE_HANDLES"}) {
        if (const auto at = text.find(line); at != std::string::npos) text.replace(at, line.size(), "");
      }
      const GLchar* whole = text.c_str();
      shader_source(name, 1, &whole, nullptr);
    };
    epoxy_glGetTextureSamplerHandleARB = [](GLuint texture, GLuint sampler) -> GLuint64 {
      if (!gives) return 0;
      for (const auto& [known, entry] : handles) {
        if (entry.texture == texture && entry.sampler == sampler) return known;
      }
      const GLuint64 made = (GLuint64{7} << 32) + handles.size() + 1;
      handles[made] = {texture, sampler};
      return made;
    };
    epoxy_glMakeTextureHandleResidentARB = [](GLuint64 handle) {
      Handle* entry = find(handle);
      misuses += !entry || entry->resident;
      if (entry) entry->resident = true, ++entry->made_resident;
    };
    epoxy_glMakeTextureHandleNonResidentARB = [](GLuint64 handle) {
      Handle* entry = find(handle);
      misuses += !entry || !entry->resident;
      if (entry) entry->resident = false, ++entry->let_go;
    };
  }
  Bindless(const Bindless&) = delete;
  Bindless& operator=(const Bindless&) = delete;
  ~Bindless() {
    epoxy_glGetIntegerv = get_integer;
    epoxy_glGetStringi = get_string;
    epoxy_glShaderSource = shader_source;
  }

  static int resident() {
    int count = 0;
    for (const auto& [handle, entry] : handles) count += entry.resident;
    return count;
  }

 private:
  static Handle* find(GLuint64 handle) {
    const auto known = handles.find(handle);
    return known == handles.end() ? nullptr : &known->second;
  }

  inline static PFNGLGETINTEGERVPROC get_integer = nullptr;
  inline static PFNGLGETSTRINGIPROC get_string = nullptr;
  inline static PFNGLSHADERSOURCEPROC shader_source = nullptr;
};
