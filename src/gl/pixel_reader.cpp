#include <periscena/gl/pixel_reader.h>

#include "gl/pixel_transfer.h"
#include "gl/sync.h"

#include <periscena/base/error.h>
#include <periscena/base/names.h>

#include <fmt/format.h>

#include <algorithm>

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
  for (const Place& place : places_) {
    if (place.fence) glDeleteSync(sync_of(place.fence));
  }
}

std::size_t PixelReader::offset_of(std::uint64_t question) const {
  return question % places_.size() * pixel_bytes;
}

std::optional<std::uint64_t> PixelReader::ask(const Texture& texture, int x, int y) {
  if (x < 0 || y < 0 || x >= texture.width() || y >= texture.height()) {
    throw Mistake("pixel-outside", {},
                  fmt::format("there is no pixel {}, {} in {} x {}", x, y, texture.width(), texture.height()),
                  "pixels count from 0 at the upper left");
  }
  if (waiting() == places_.size()) return std::nullopt;
  Place& place = place_of(++asked_);
  place.format = texture.read_pixel_into(buffer_, offset_of(asked_), x, y);
  place.fence = glFenceSync(GL_SYNC_GPU_COMMANDS_COMPLETE, 0);
  return asked_;
}

std::optional<PixelAnswer> PixelReader::answer() {
  if (waiting() == 0) return std::nullopt;
  const std::uint64_t question = answered_ + 1;
  Place& place = place_of(question);
  if (!take_if_done(place.fence)) return std::nullopt;
  ++answered_;
  Image pixel(1, 1, place.format);
  buffer_.read(offset_of(question), pixel.bytes());
  return PixelAnswer{question, pixel.at(0, 0)};
}

TargetReader::TargetReader(std::size_t places) : places_(std::max<std::size_t>(1, places)) {}

TargetReader::~TargetReader() {
  for (const Place& place : places_) {
    if (place.fence) glDeleteSync(sync_of(place.fence));
  }
}

std::optional<std::uint64_t> TargetReader::ask(const Texture& texture, int level, int layer) {
  const TextureDescription& description = texture.description();
  const int layers = description.shape == TargetShape::cube ? 6 : description.layers;
  if (level < 0 || level >= description.levels || layer < 0 || layer >= layers) {
    throw Mistake("level-outside", {},
                  fmt::format("there is no level {} of layer {} in a texture of {} and {}", level, layer,
                              counted(static_cast<std::size_t>(description.levels), "level"),
                              counted(static_cast<std::size_t>(layers), "layer")),
                  "both count from 0");
  }
  if (waiting() == places_.size()) return std::nullopt;
  Place& place = places_[(asked_ + 1) % places_.size()];
  const std::size_t bytes = texture.level_bytes(level);
  if (place.buffer.size() != bytes) place.buffer = Buffer::writable(bytes, "a target that was asked for");
  const Format format = texture.read_level_into(place.buffer, level, layer);
  const int width = std::max(1, texture.width() >> level), height = std::max(1, texture.height() >> level);
  place.image = Image(width, height, format);
  place.fence = glFenceSync(GL_SYNC_GPU_COMMANDS_COMPLETE, 0);
  return ++asked_;
}

std::optional<TargetAnswer> TargetReader::answer() {
  if (waiting() == 0) return std::nullopt;
  Place& place = places_[(answered_ + 1) % places_.size()];
  if (!take_if_done(place.fence)) return std::nullopt;
  place.buffer.read(0, place.image.bytes());
  flip_rows(place.image);
  return TargetAnswer{++answered_, std::move(place.image)};
}

}  // namespace periscena::gl
