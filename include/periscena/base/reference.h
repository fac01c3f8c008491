#pragma once

#include <periscena/base/place.h>

#include <string>
#include <utility>

namespace periscena {

/// A name that points at something declared elsewhere (a view, a light, a target, a file), with the place where it was
/// said.
struct Reference {
  std::string name;
  Place place;

  Reference() = default;
  Reference(std::string text, Place where) : name(std::move(text)), place(std::move(where)) {}
  Reference(const char* text, std::source_location location = std::source_location::current())
      : name(text), place(Place::here(location)) {}
  Reference(std::string text, std::source_location location = std::source_location::current())
      : name(std::move(text)), place(Place::here(location)) {}

  bool empty() const { return name.empty(); }
};

}  // namespace periscena
