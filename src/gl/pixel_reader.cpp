#include <periscena/gl/pixel_reader.h>

#include "gl/sync.h"

#include <periscena/base/error.h>

#include <fmt/format.h>

#include <algorithm>

namespace periscena::gl {
namespace {

constexpr std::size_t pixel_bytes = 16;  ///< of the largest format

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
  if (glClientWaitSync(sync_of(place.fence), GL_SYNC_FLUSH_COMMANDS_BIT, 0) == GL_TIMEOUT_EXPIRED) return std::nullopt;
  glDeleteSync(sync_of(place.fence));
  place.fence = nullptr;
  ++answered_;
  Image pixel(1, 1, place.format);
  buffer_.read(offset_of(question), pixel.bytes());
  return PixelAnswer{question, pixel.at(0, 0)};
}

}  // namespace periscena::gl
