#include <periscena/gl/pixel_reader.h>

#include "gl/pixel_transfer.h"
#include "gl/sync.h"

#include <periscena/base/error.h>
#include <periscena/base/names.h>

#include <fmt/format.h>

#include <algorithm>
#include <utility>

namespace periscena::gl {
namespace {

constexpr std::size_t pixel_bytes = 16;  ///< of the largest format

/// Lets go of a fence that the device has passed.
bool take_if_done(void*& fence) {
  if (glClientWaitSync(sync_of(fence), GL_SYNC_FLUSH_COMMANDS_BIT, 0) == GL_TIMEOUT_EXPIRED) return false;
  glDeleteSync(sync_of(fence));
  fence = nullptr;
  return true;
}

}  // namespace

PixelReader::PixelReader(std::size_t places)
    : places_(std::max<std::size_t>(1, places)),
      buffer_(Buffer::writable(places_.size() * pixel_bytes, "pixels that were asked for")) {}

PixelReader::~PixelReader() {
  for (const Waiting& one : places_) {
    if (one.fence) glDeleteSync(sync_of(one.fence));
  }
}

std::size_t PixelReader::offset_of(std::uint64_t question) const {
  return question % places_.size() * pixel_bytes;
}

std::optional<std::uint64_t> PixelReader::ask(const Texture& texture, int x, int y, Place place) {
  if (x < 0 || y < 0 || x >= texture.width() || y >= texture.height()) {
    throw Mistake("pixel-outside", std::move(place),
                  fmt::format("there is no pixel {}, {} in {} x {}", x, y, texture.width(), texture.height()),
                  "pixels count from 0 at the upper left");
  }
  if (waiting() == places_.size()) return std::nullopt;
  Waiting& waits = place_of(asked_ + 1);
  waits.format = texture.read_pixel_into(buffer_, offset_of(asked_ + 1), x, y);
  waits.fence = glFenceSync(GL_SYNC_GPU_COMMANDS_COMPLETE, 0);
  return ++asked_;
}

std::optional<PixelAnswer> PixelReader::answer() {
  if (waiting() == 0) return std::nullopt;
  const std::uint64_t question = answered_ + 1;
  Waiting& waits = place_of(question);
  if (!take_if_done(waits.fence)) return std::nullopt;
  ++answered_;
  Image pixel(1, 1, waits.format);
  buffer_.read(offset_of(question), pixel.bytes());
  return PixelAnswer{question, pixel.at(0, 0)};
}

TargetReader::TargetReader(std::size_t places) : places_(std::max<std::size_t>(1, places)) {}

TargetReader::~TargetReader() {
  for (const Waiting& one : places_) {
    if (one.fence) glDeleteSync(sync_of(one.fence));
  }
}

std::optional<std::uint64_t> TargetReader::ask(const Texture& texture, int level, int layer, Place place) {
  const TextureDescription& description = texture.description();
  const int layers = description.shape == TargetShape::cube ? 6 : description.layers;
  if (level < 0 || level >= description.levels || layer < 0 || layer >= layers) {
    throw Mistake("level-outside", std::move(place),
                  fmt::format("there is no level {} of layer {} in a texture of {} and {}", level, layer,
                              counted(static_cast<std::size_t>(description.levels), "level"),
                              counted(static_cast<std::size_t>(layers), "layer")),
                  "both count from 0");
  }
  if (waiting() == places_.size()) return std::nullopt;
  Waiting& waits = places_[(asked_ + 1) % places_.size()];
  const std::size_t bytes = texture.level_bytes(level);
  if (waits.buffer.size() != bytes) waits.buffer = Buffer::writable(bytes, "a target that was asked for");
  const Format format = texture.read_level_into(waits.buffer, level, layer);
  const int width = std::max(1, texture.width() >> level), height = std::max(1, texture.height() >> level);
  waits.image = Image(width, height, format);
  waits.fence = glFenceSync(GL_SYNC_GPU_COMMANDS_COMPLETE, 0);
  return ++asked_;
}

std::optional<TargetAnswer> TargetReader::answer() {
  if (waiting() == 0) return std::nullopt;
  Waiting& waits = places_[(answered_ + 1) % places_.size()];
  if (!take_if_done(waits.fence)) return std::nullopt;
  waits.buffer.read(0, waits.image.bytes());
  flip_rows(waits.image);
  return TargetAnswer{++answered_, std::move(waits.image)};
}

}  // namespace periscena::gl
