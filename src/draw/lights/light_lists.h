#pragma once

#include "draw/lights/lighting.h"
#include "draw/scene/view_camera.h"

namespace periscena::draw {

/// Which way lights are bounded where nobody says: lists pay where there are several that end.
batch::LightBounds chosen_bounds(batch::LightBounds wanted, const Lighting& lighting, batch::LightBounds with_lists);

/// Where each light of a pass can matter in the picture: an element of the storage block LightReaches, std430.
struct LightReachBlock {
  Vec4 ball = Vec4::zero();       ///< camera space, metres; w: radius, below 0 without end
  Vec4 rect = Vec4::zero();       ///< pixels: left, bottom, right, top; empty where it can't be seen
  Vec4 distances = Vec4::zero();  ///< nearest, farthest, metres along the view axis

  static gl::BlockLayout layout();
};

/// The same of all lights, on the device.
class LightReaches {
 public:
  explicit LightReaches(const Lighting& lighting);

  /// Anew when the view or a light has moved. @return has it?
  bool update(const gl::PassContext& context, const ViewCamera& view, bool moved, const Lighting& lighting);

  void bind(gl::State& state) const { state.bind_storage_block(gl::binding::reach_storage, buffer_.name()); }
  std::span<const LightReachBlock> blocks() const { return blocks_; }

  /// How far the farthest light that ends is seen, metres.
  float farthest() const { return farthest_; }

 private:
  std::vector<LightReachBlock> blocks_;
  gl::Buffer buffer_;
  std::uint64_t version_ = 0;  ///< of the lights
  int width_ = 0, height_ = 0;
  float farthest_ = 0;
};

/// For each cell of the picture, which lights can reach what is there: bits that EACH_LIGHT_NEAR of lights.glsl walks
/// along.
class LightLists {
 public:
  /// @param bounds  tiles or clusters
  /// @param samples  of the depth that tiles read
  LightLists(gl::Device& device, const Lighting& lighting, batch::LightBounds bounds, DepthOrder order,
             int samples = 1);

  /// For a picture of this size, pixels. @throws Mistake "too-many-lights"
  void resize(int width, int height);

  /// @param depth  what tiles are bounded by; null for clusters
  /// @param changed  of the view or the lights
  void update(const gl::PassContext& context, const ViewCamera& view, const LightReaches& reaches,
              const gl::Texture* depth, bool changed);

  /// What programs that walk along them are to define.
  std::vector<std::string> defines() const;

  /// Where a program that walks along them takes them from.
  class Reader {
   public:
    Reader(const gl::Program& program, const BoundTextures& textures);

   private:
    friend class LightLists;
    gl::Uniform<IntVec4> grid_;
    std::optional<gl::Uniform<Vec2>> slices_;
    std::optional<gl::Uniform<int>> bits_;
    std::optional<std::size_t> unit_;
  };

  /// Before draws.
  void put(const Reader& reader, gl::Program& program, BoundTextures& into) const;

  gl::Choice choice() const;

 private:
  /// A compute program that goes through cells.
  struct Step {
    Step(gl::Device& device, const gl::ProgramDescription& description)
        : program(device, description),
          reader(program, BoundTextures(program)),
          picture(program.uniform<IntVec4>("light_picture")) {}

    gl::Program program;
    Reader reader;
    gl::Uniform<IntVec4> picture;
  };

  void use(Step& step, gl::State& state) const;
  bool sliced() const { return bounds_ == batch::LightBounds::clusters; }
  int stride() const { return groups_ + words_; }
  void set(const Reader& reader, gl::Program& program) const;
  void expect_room(std::int64_t words) const;

  batch::LightBounds bounds_;
  int light_count_, words_, groups_;
  int width_ = 0, height_ = 0, across_ = 0, up_ = 0;
  int bits_ = 0;  ///< cells are 2 to that many pixels wide
  /// Where the first one ends, metres, and how many there are for each doubling of distance
  Vec2 slices_ = Vec2(1, 1);
  Step lists_of_cells_;
  std::optional<Step> distances_of_tiles_;
  gl::Texture lists_;
  gl::Sampler nearest_;
  bool fresh_ = false;
};

}  // namespace periscena::draw
