#pragma once

#include <periscena/base/place.h>

#include <string>

namespace periscena {

/// A name that points at something declared elsewhere (a view, a light, a target, a file), with the place where it was
/// said.
struct Reference {
  std::string name;
  Place place;

  Reference();
  Reference(std::string text, Place where);
  Reference(const char* text, std::source_location location = std::source_location::current());
  Reference(std::string text, std::source_location location = std::source_location::current());
  Reference(const Reference&);
  Reference(Reference&&) noexcept;
  Reference& operator=(const Reference&);
  Reference& operator=(Reference&&) noexcept;
  ~Reference();

  bool empty() const { return name.empty(); }
};

}  // namespace periscena
