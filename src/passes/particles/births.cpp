#include "passes/particles/births.h"

#include <periscena/gl/bindings.h>

#include <algorithm>

namespace periscena::passes {

BirthTable::Entry BirthTable::entry_of(const ParticleBirth& birth) {
  return {birth.offset.with(birth.emission), birth.velocity.with(0)};
}

void BirthTable::follow(gl::PassContext& context, const ParticleCloud& cloud, std::int64_t step) {
  if (!cloud.has_births()) {
    entries_.clear();
    return;
  }
  const std::uint32_t lasts = cloud.life_steps();
  const bool goes_on = entries_.size() == lasts && step >= step_ && step - step_ < lasts;
  if (!goes_on) entries_.assign(lasts, {});
  const std::int64_t from = goes_on ? step_ + 1 : step - lasts + 1;
  for (std::int64_t k = from; k <= step; ++k) entries_[wrapped_step(k, lasts)] = entry_of(cloud.birth_at(k));
  step_ = step;
  const std::size_t bytes = std::span(entries_).size_bytes();
  if (buffer_.size() < bytes) buffer_ = gl::Buffer::writable(bytes, name_ + ", births");
  // What is new may go round the end.
  for (std::int64_t k = from; k <= step;) {
    const std::uint32_t first = wrapped_step(k, lasts);
    const auto count = static_cast<std::size_t>(std::min<std::int64_t>(step - k + 1, lasts - first));
    context.write(buffer_, first * sizeof(Entry), std::as_bytes(std::span(entries_).subspan(first, count)));
    k += static_cast<std::int64_t>(count);
  }
}

bool BirthTable::take(const ParticleCloud& cloud, std::int64_t step) {
  if (entries_.empty() && !cloud.has_births()) return true;
  const std::uint32_t lasts = cloud.life_steps();
  bool same = entries_.empty() || entries_.size() == lasts;
  for (std::int64_t k = step - lasts + 1; k <= step && same; ++k) {
    const Entry before = entries_.empty() ? entry_of({}) : entries_[wrapped_step(k, lasts)];
    same = before == entry_of(cloud.birth_at(k));
  }
  if (!same) entries_.clear();
  return same;
}

void BirthTable::bind(gl::State& state) {
  if (buffer_.size() == 0) buffer_ = gl::Buffer::writable(sizeof(Entry), name_ + ", births");
  state.bind_storage_block(gl::binding::birth_storage, buffer_.name());
}

}  // namespace periscena::passes
