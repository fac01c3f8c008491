#pragma once

#include "plain_gl.h"

#include <periscena/gl/shader_text.h>

#include <string>

// Programs of the library's GLSL, for those who call GL by hand.

inline GLuint compile(GLenum stage, const periscena::gl::ShaderText& text) {
  const std::string glsl = periscena::gl::expand(text).text;
  const GLuint shader = glCreateShader(stage);
  const char* source = glsl.c_str();
  glShaderSource(shader, 1, &source, nullptr);
  glCompileShader(shader);
  return shader;
}

inline GLuint link(const periscena::gl::ShaderText& vertex, const periscena::gl::ShaderText& fragment) {
  const GLuint program = glCreateProgram();
  glAttachShader(program, compile(GL_VERTEX_SHADER, vertex));
  glAttachShader(program, compile(GL_FRAGMENT_SHADER, fragment));
  glLinkProgram(program);
  GLint linked = GL_FALSE;
  glGetProgramiv(program, GL_LINK_STATUS, &linked);
  if (!linked) std::abort();
  return program;
}
