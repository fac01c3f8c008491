#pragma once

namespace periscena {

/// A function for each type of a std::variant, for std::visit: a type that is forgotten does not compile.
///
///     std::visit(Cases{[](const Circle& one) { … }, [](const Square& one) { … }}, shape);
template <class... Functions>
struct Cases : Functions... {
  using Functions::operator()...;
};
template <class... Functions>
Cases(Functions...) -> Cases<Functions...>;

}  // namespace periscena
