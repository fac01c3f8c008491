#pragma once

#include <periscena/base/place.h>
#include <periscena/gl/buffer.h>
#include <periscena/gl/texture.h>
#include <periscena/image/image.h>

#include <array>
#include <cstdint>
#include <optional>
#include <vector>

namespace periscena::gl {

/// What was at a pixel when somebody asked.
struct PixelAnswer {
  std::uint64_t question = 0;
  std::array<double, 4> values{};  ///< by channel, as Image::at
};

/// Reads single pixels without waiting for the device: a question is put behind what the device still has to do, and
/// its answer comes some frames later. For picking, and for meters that may lag.
class PixelReader {
 public:
  /// @param places  how many questions may wait, >= 1
  explicit PixelReader(std::size_t places = 8);
  PixelReader(const PixelReader&) = delete;
  PixelReader& operator=(const PixelReader&) = delete;
  ~PixelReader();

  /// Asks what is at a pixel as the commands until now leave it.
  /// @param x, y  pixels from the upper left
  /// @return the question's number, counted from 1; nothing while all places are taken
  /// @throws Mistake "pixel-outside"; "multisampled"
  std::optional<std::uint64_t> ask(const Texture& texture, int x, int y, Place place = Place::here());

  /// The oldest question's answer, if it has come. Never waits.
  std::optional<PixelAnswer> answer();

  std::size_t waiting() const { return asked_ - answered_; }

 private:
  struct Waiting {
    void* fence = nullptr;
    Format format = {};
  };

  Waiting& place_of(std::uint64_t question) { return places_[question % places_.size()]; }
  std::size_t offset_of(std::uint64_t question) const;

  std::vector<Waiting> places_;
  Buffer buffer_;
  std::uint64_t asked_ = 0, answered_ = 0;
};

/// A whole target as it was when somebody asked.
struct TargetAnswer {
  std::uint64_t question = 0;
  Image image;  ///< as Texture::read gives it
};

/// Reads whole targets without waiting for the device, as PixelReader reads pixels: for screenshots and films, and for
/// what the program computes of pictures that may lag.
///
///     reader.ask(runner.texture("output"));
///     …
///     while (const auto picture = reader.answer()) …  // some frames later
class TargetReader {
 public:
  /// @param places  how many questions may wait, >= 1; each keeps memory of the size of what was asked for
  explicit TargetReader(std::size_t places = 3);
  TargetReader(const TargetReader&) = delete;
  TargetReader& operator=(const TargetReader&) = delete;
  ~TargetReader();

  /// Asks for a level of a layer as the commands until now leave it.
  /// @return the question's number, counted from 1; nothing while all places are taken
  /// @throws Mistake "level-outside", "multisampled"; Error "out-of-memory"
  std::optional<std::uint64_t> ask(const Texture& texture, int level = 0, int layer = 0, Place place = Place::here());

  /// The oldest question's answer, if it has come. Never waits.
  std::optional<TargetAnswer> answer();

  std::size_t waiting() const { return asked_ - answered_; }

 private:
  struct Waiting {
    void* fence = nullptr;
    Buffer buffer;
    Image image;  ///< of the size and format that comes
  };

  std::vector<Waiting> places_;
  std::uint64_t asked_ = 0, answered_ = 0;
};

}  // namespace periscena::gl
