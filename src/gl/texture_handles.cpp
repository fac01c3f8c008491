#include <periscena/gl/texture_handles.h>

#include "gl/api.h"

#include <periscena/base/error.h>

#include <fmt/format.h>

#include <algorithm>

namespace periscena::gl {

TextureHandles::~TextureHandles() {
  for (const std::uint32_t place : resident_) glMakeTextureHandleNonResidentARB(entries_[place].handle);
}

std::uint32_t TextureHandles::add(const Texture& texture, const Sampler& sampler) {
  const auto known = std::find_if(entries_.begin(), entries_.end(), [&](const Entry& entry) {
    return entry.texture == texture.name() && entry.sampler == sampler.name();
  });
  const auto place = static_cast<std::uint32_t>(known - entries_.begin());
  if (known != entries_.end()) return place;
  const std::uint64_t handle = glGetTextureSamplerHandleARB(texture.name(), sampler.name());
  if (handle == 0) {
    throw Mistake("no-texture-handle", {},
                  fmt::format("the driver gives no more handles of textures, after {} of them", entries_.size()),
                  "give textures one size and format, so that they share an array");
  }
  entries_.push_back({texture.name(), sampler.name(), handle});
  resident_.reserve(entries_.size());
  return place;
}

void TextureHandles::need(std::uint32_t place, std::uint64_t frame) {
  Entry& entry = entries_[place];
  entry.needed = frame;
  if (entry.resident) return;
  glMakeTextureHandleResidentARB(entry.handle);
  entry.resident = true;
  resident_.push_back(place);
}

void TextureHandles::end_frame(std::uint64_t frame) {
  std::erase_if(resident_, [&](std::uint32_t place) {
    Entry& entry = entries_[place];
    if (frame < entry.needed + frames_kept_) return false;
    glMakeTextureHandleNonResidentARB(entry.handle);
    entry.resident = false;
    return true;
  });
}

}  // namespace periscena::gl
