# Lists the kinds of passes that the headers in include/periscena/passes declare (`PassKind bloom_kind();`), as the C++
# file that makes them known. Included by src/CMakeLists.txt.
file(GLOB headers CONFIGURE_DEPENDS ${PROJECT_SOURCE_DIR}/include/periscena/passes/*.h)
set_property(DIRECTORY APPEND PROPERTY CMAKE_CONFIGURE_DEPENDS ${headers})
set(kinds "")
foreach(header IN LISTS headers)
  file(STRINGS ${header} declarations REGEX "^PassKind [a-z_]+_kind\\(\\);")
  foreach(line IN LISTS declarations)
    string(REGEX REPLACE "^PassKind ([a-z_]+)_kind.*" "\\1" kind "${line}")
    list(APPEND kinds ${kind})
  endforeach()
endforeach()
list(SORT kinds)
set(PASS_KIND_DECLARATIONS "")
set(PASS_KIND_CALLS "")
foreach(kind IN LISTS kinds)
  string(APPEND PASS_KIND_DECLARATIONS "PassKind ${kind}_kind();\n")
  string(APPEND PASS_KIND_CALLS "    all.add(${kind}_kind());\n")
endforeach()
file(CONFIGURE OUTPUT pass_kinds.cpp CONTENT [[#include <periscena/passes/pass_kind.h>

namespace periscena::passes {

@PASS_KIND_DECLARATIONS@
const PassKinds& pass_kinds() {
  static const PassKinds kinds = [] {
    PassKinds all;
@PASS_KIND_CALLS@    return all;
  }();
  return kinds;
}

}  // namespace periscena::passes
]] @ONLY)
