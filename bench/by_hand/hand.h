#pragma once

#include "by_hand/frames.h"
#include "by_hand/matrix.h"
#include "plain_gl.h"
#include "twin.h"

#include <vector>

/// What the hand-written twins need of their surroundings. Nothing of the library but images to compare.
namespace by_hand {

/// An OpenGL 4.5 core context without a window, current on this thread. Ends the process where there is none.
void open_device();

/// A program of GLSL as it stands. Ends the process, with the compiler's words, if it is wrong.
GLuint program(const char* vertex, const char* fragment);

/// What is drawn from positions, normals and, as told, tangents and texture coordinates.
struct Mesh {
  GLuint array = 0;
  GLsizei count = 0;
};
/// @param with_uv  texture coordinates at location 2
Mesh make_mesh(const frames::Shape& shape, bool with_uv);

inline Matrix4 camera_of(const frames::Pose& pose, int width, int height, float near, float far) {
  return perspective(pose.fov_degrees * frames::pi / 180, static_cast<float>(width) / static_cast<float>(height), near,
                     far) *
         look_at(pose.eye, pose.target);
}

/// What was drawn into a texture of sRGB bytes.
periscena::Image picture_of(GLuint texture, int width, int height);

/// One triangle over all of the picture; gives `uv`, 0..1, lower left first.
extern const char* const whole_picture;

/// Keeps a vertex array without attributes bound, and draws three corners.
void draw_whole_picture();

template <class T>
GLuint buffer_of(const std::vector<T>& data) {
  return make_buffer(data.data(), data.size() * sizeof(T), 0);
}

}  // namespace by_hand
