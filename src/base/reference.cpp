#include <periscena/base/reference.h>

#include <utility>

namespace periscena {

// Options of passes hold a dozen of these: what copies and destroys them stands here once.
Reference::Reference() = default;
Reference::Reference(std::string text, Place where) : name(std::move(text)), place(std::move(where)) {}
Reference::Reference(const char* text, std::source_location location) : name(text), place(Place::here(location)) {}
Reference::Reference(std::string text, std::source_location location)
    : name(std::move(text)), place(Place::here(location)) {}
Reference::Reference(const Reference&) = default;
Reference::Reference(Reference&&) noexcept = default;
Reference& Reference::operator=(const Reference&) = default;
Reference& Reference::operator=(Reference&&) noexcept = default;
Reference::~Reference() = default;

}  // namespace periscena
