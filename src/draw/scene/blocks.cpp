#include "draw/scene/blocks.h"

namespace periscena::draw {

CameraBlock CameraBlock::of(const Camera& camera, float aspect) {
  const Transform view = camera.view();
  const Projection projection = camera.projection(aspect);
  CameraBlock block;
  block.view = view.matrix();
  block.projection = projection.matrix();
  block.view_projection = block.projection * block.view;
  block.inverse_view_projection = view.inverse().matrix() * projection.inverse();
  block.eye = camera.eye;
  block.near = projection.near();
  block.far = projection.far();
  const bool parallel = !projection.is_perspective();
  const Vec3 towards = parallel ? view.inverse().apply_to_direction(Vec3::unit_z()).normalized() : camera.eye;
  block.towards_eye = Vec4(towards.x(), towards.y(), towards.z(), parallel ? 0.0f : 1.0f);
  return block;
}

void CameraBlock::shift(const Vec2& by) {
  if (by.is_zero(0)) return;
  Mat4 there = Mat4::identity(), back = Mat4::identity();
  there.set_column(3, by);
  back.set_column(3, -by);
  projection = there * projection;
  view_projection = there * view_projection;
  inverse_view_projection = inverse_view_projection * back;
}

gl::BlockLayout CameraBlock::layout() {
  return gl::describe_block<CameraBlock>("Camera")
      .member("view", &CameraBlock::view)
      .member("projection", &CameraBlock::projection)
      .member("view_projection", &CameraBlock::view_projection)
      .member("inverse_view_projection", &CameraBlock::inverse_view_projection)
      .member("eye", &CameraBlock::eye)
      .member("near", &CameraBlock::near)
      .member("far", &CameraBlock::far)
      .member("towards_eye", &CameraBlock::towards_eye);
}

gl::BlockLayout ObjectBlock::layout() {
  return gl::describe_block<ObjectBlock>("Objects", "objects")
      .member("x", &ObjectBlock::x)
      .member("colors", &ObjectBlock::colors)
      .member("y", &ObjectBlock::y)
      .member("second_uv", &ObjectBlock::second_uv)
      .member("z", &ObjectBlock::z)
      .member("origin", &ObjectBlock::origin);
}

void ObjectBlock::place(const Transform& world) {
  const Mat4& matrix = world.matrix();
  x = matrix.column(0).head<3>();
  y = matrix.column(1).head<3>();
  z = matrix.column(2).head<3>();
  origin = matrix.column(3).head<3>();
}

gl::BlockLayout MaterialBlock::layout() {
  gl::BlockLayout layout = gl::describe_block<MaterialBlock>("Materials", "materials")
                               .member("base_color", &MaterialBlock::base_color)
                               .member("emission", &MaterialBlock::emission)
                               .member("specular", &MaterialBlock::specular)
                               .member("factors", &MaterialBlock::factors);
  layout.members.push_back({"numbers", gl::ValueType::ivec4, offsetof(MaterialBlock, numbers)});
  for (std::size_t i = 0; i < map_count; ++i) {
    const std::size_t at = offsetof(MaterialBlock, maps) + i * sizeof(MapBlock);
    const std::string map = material_maps[i].name;
    layout.members.push_back({map + ".u", gl::ValueType::vec4, at + offsetof(MapBlock, u)});
    layout.members.push_back({map + ".v", gl::ValueType::vec4, at + offsetof(MapBlock, v)});
    layout.members.push_back({map + ".handle", gl::ValueType::uvec2, at + offsetof(MapBlock, handle)});
  }
  return layout;
}

gl::BlockLayout BoundsBlock::layout() {
  return gl::describe_block<BoundsBlock>("BoundsOfNodes", "bounds")
      .member("middle", &BoundsBlock::middle)
      .member("half_size", &BoundsBlock::half_size);
}

}  // namespace periscena::draw
