# The modules, in the order in which they may use each other: a module may use those that stand before it.
set(PERISCENA_MODULES base math image scene model batch graph gl draw passes frame inspect window tool)

# periscena_module(NAME [USES module …] [PACKAGES target …])
#
# Makes the library periscena_NAME (Periscena::NAME for others) of all that lies in src/NAME: C++, and GLSL, which a
# function NAME_texts() returns. It is static, or shared with BUILD_SHARED_LIBS. An arrow that points down the list above is
# an error here, at configure time; tests/arrows.cmake reads the #include lines for what a link graph can't see.
function(periscena_module name)
  cmake_parse_arguments(arg "" "" "USES;PACKAGES;PRIVATE_PACKAGES" ${ARGN})
  file(GLOB_RECURSE arg_SOURCES CONFIGURE_DEPENDS ${name}/*.cpp ${name}/*.S)
  file(GLOB_RECURSE texts CONFIGURE_DEPENDS ${name}/*.glsl ${name}/*.vert ${name}/*.frag ${name}/*.comp ${name}/*.filter)
  if(texts)
    periscena_embed(${CMAKE_CURRENT_BINARY_DIR}/${name}_texts.cpp ${name}_texts ${texts})
    list(APPEND arg_SOURCES ${CMAKE_CURRENT_BINARY_DIR}/${name}_texts.cpp)
  endif()
  list(FIND PERISCENA_MODULES ${name} own_rank)
  if(own_rank EQUAL -1)
    message(FATAL_ERROR "periscena_module: '${name}' is not in PERISCENA_MODULES")
  endif()
  add_library(periscena_${name} ${arg_SOURCES})
  add_library(Periscena::${name} ALIAS periscena_${name})
  set_target_properties(periscena_${name} PROPERTIES EXPORT_NAME ${name} POSITION_INDEPENDENT_CODE ON
    VERSION ${PROJECT_VERSION} SOVERSION ${PERISCENA_SOVERSION} INSTALL_RPATH "$ORIGIN")
  if(BUILD_SHARED_LIBS)
    # What is compiled into a library is what it calls, not the copy of an inline function that a program was compiled with.
    set_target_properties(periscena_${name} PROPERTIES VISIBILITY_INLINES_HIDDEN ON)
    target_link_options(periscena_${name} PRIVATE LINKER:-Bsymbolic-functions)
  endif()
  target_compile_features(periscena_${name} PUBLIC cxx_std_20)
  target_include_directories(periscena_${name}
    PUBLIC $<BUILD_INTERFACE:${PROJECT_SOURCE_DIR}/include> $<INSTALL_INTERFACE:include>
    PRIVATE ${PROJECT_SOURCE_DIR}/src)
  foreach(used IN LISTS arg_USES)
    list(FIND PERISCENA_MODULES ${used} used_rank)
    if(used_rank EQUAL -1 OR NOT used_rank LESS own_rank)
      message(FATAL_ERROR "module '${name}' may not use '${used}': arrows only point up (${PERISCENA_MODULES})")
    endif()
    target_link_libraries(periscena_${name} PUBLIC periscena_${used})
  endforeach()
  target_link_libraries(periscena_${name} PUBLIC ${arg_PACKAGES} PRIVATE ${arg_PRIVATE_PACKAGES})
  periscena_warnings(periscena_${name})
  set_property(GLOBAL APPEND PROPERTY PERISCENA_LIBRARIES periscena_${name})
  set_property(GLOBAL PROPERTY PERISCENA_USES_${name} "${arg_USES}")
endfunction()

# Warnings are errors in our own code, for developers; a user's newer compiler must not fail the build.
function(periscena_warnings target)
  target_compile_options(${target} PRIVATE -Wall -Wextra -Wpedantic -Wshadow -Wconversion -Wno-sign-conversion
    -Wnon-virtual-dtor -Woverloaded-virtual
    # g++ 12 sees overlaps in std::string that are not there (its bug 105651).
    $<$<CXX_COMPILER_ID:GNU>:-Wno-restrict>
    # …and, at -O3, members of std::variant that are not set (its bug 105562).
    $<$<AND:$<CXX_COMPILER_ID:GNU>,$<CONFIG:Release>>:-Wno-maybe-uninitialized>
    $<$<BOOL:${PERISCENA_DEVELOPER}>:-Werror>)
endfunction()

# periscena_read_once(TARGET header …): headers that each file of a program takes in are compiled once, and need not be
# included. Sources of the library have none: the preset dev, which makes no bundles, shows which of them forgets an include.
function(periscena_read_once target)
  target_precompile_headers(${target} PRIVATE ${ARGN})
endfunction()

# periscena_compile_quickly(TARGET): with sanitizers, nine tenths of compiling is optimisation, which short programs around a
# shared library do without; nor does what they do guide the fuzzers.
function(periscena_compile_quickly target)
  if(BUILD_SHARED_LIBS AND CMAKE_CXX_FLAGS_DEBUG MATCHES "fsanitize")
    target_compile_options(${target} PRIVATE -O0 -fno-sanitize=fuzzer-no-link)
  endif()
endfunction()

# periscena_embed(output function file …)
#
# Puts text files into the program, as "periscena/FILE", so that an installed library finds its GLSL without a data
# folder.
function(periscena_embed output function)
  add_custom_command(OUTPUT ${output}
    COMMAND ${CMAKE_COMMAND} "-DOUTPUT=${output}" "-DFUNCTION=${function}" "-DFILES=${ARGN}"
            -P ${PROJECT_SOURCE_DIR}/cmake/embed.cmake
    DEPENDS ${ARGN} ${PROJECT_SOURCE_DIR}/cmake/embed.cmake
    VERBATIM)
endfunction()
