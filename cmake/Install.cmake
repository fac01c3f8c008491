# What `cmake --install` and `cpack -G DEB` give: the command (component `tool`), and the library with headers, documents,
# examples and readable GLSL (component `dev`).
include(CMakePackageConfigHelpers)
set(CMAKE_INSTALL_DEFAULT_COMPONENT_NAME dev)
set(cmake_folder ${CMAKE_INSTALL_LIBDIR}/cmake/Periscena)
set(document_folder ${CMAKE_INSTALL_DATADIR}/doc/periscena)

get_property(libraries GLOBAL PROPERTY PERISCENA_LIBRARIES)
install(TARGETS ${libraries} periscena EXPORT PeriscenaTargets ARCHIVE DESTINATION ${CMAKE_INSTALL_LIBDIR})
install(TARGETS periscena_tool RUNTIME DESTINATION ${CMAKE_INSTALL_BINDIR} COMPONENT tool)
install(DIRECTORY include/periscena DESTINATION ${CMAKE_INSTALL_INCLUDEDIR})
install(EXPORT PeriscenaTargets NAMESPACE Periscena:: DESTINATION ${cmake_folder})

# What find_package(Periscena COMPONENTS …) has to know: which modules each uses.
set(PERISCENA_MODULE_USES "")
foreach(module IN LISTS PERISCENA_MODULES)
  if(NOT module STREQUAL "tool")
    get_property(uses GLOBAL PROPERTY PERISCENA_USES_${module})
    string(APPEND PERISCENA_MODULE_USES "set(Periscena_uses_${module} \"${uses}\")\n")
  endif()
endforeach()
configure_package_config_file(cmake/PeriscenaConfig.cmake.in ${PROJECT_BINARY_DIR}/PeriscenaConfig.cmake
  INSTALL_DESTINATION ${cmake_folder})
write_basic_package_version_file(${PROJECT_BINARY_DIR}/PeriscenaConfigVersion.cmake COMPATIBILITY SameMinorVersion)
install(FILES ${PROJECT_BINARY_DIR}/PeriscenaConfig.cmake ${PROJECT_BINARY_DIR}/PeriscenaConfigVersion.cmake
  DESTINATION ${cmake_folder})

# pkg-config finds everything from where its own file is, so the tree may be moved.
file(RELATIVE_PATH PERISCENA_UP "/${CMAKE_INSTALL_LIBDIR}/pkgconfig" "/")
list(TRANSFORM libraries PREPEND "-l" OUTPUT_VARIABLE flags)
list(REVERSE flags)
list(JOIN flags " " PERISCENA_LINK_FLAGS)
configure_file(cmake/periscena.pc.in ${PROJECT_BINARY_DIR}/periscena.pc @ONLY)
install(FILES ${PROJECT_BINARY_DIR}/periscena.pc DESTINATION ${CMAKE_INSTALL_LIBDIR}/pkgconfig)

# Documents, examples and the demo keep their folders, so that links and paths between them hold.
install(FILES README.md CHANGELOG.md LICENSE DESTINATION ${document_folder})
install(DIRECTORY docs DESTINATION ${document_folder} FILES_MATCHING PATTERN "*.md" PATTERN "*.svg" PATTERN "*.png")
install(DIRECTORY examples DESTINATION ${document_folder} PATTERN CMakeLists.txt EXCLUDE)
install(DIRECTORY demo DESTINATION ${document_folder} PATTERN CMakeLists.txt EXCLUDE PATTERN "*.cpp" EXCLUDE PATTERN "*.h" EXCLUDE)
file(GLOB_RECURSE texts CONFIGURE_DEPENDS src/*.glsl src/*.vert src/*.frag src/*.comp src/*.filter)
install(FILES ${texts} DESTINATION ${CMAKE_INSTALL_DATADIR}/periscena/glsl)

set(CPACK_PACKAGE_NAME periscena)
set(CPACK_PACKAGE_VENDOR Periscena)
set(CPACK_PACKAGE_CONTACT "Periscena <periscena@localhost>")
set(CPACK_PACKAGE_DESCRIPTION_SUMMARY "${PROJECT_DESCRIPTION}")
set(CPACK_RESOURCE_FILE_LICENSE ${PROJECT_SOURCE_DIR}/LICENSE)
set(CPACK_PACKAGING_INSTALL_PREFIX /usr)
set(CPACK_STRIP_FILES ON)
set(CPACK_GENERATOR DEB)
set(CPACK_COMPONENTS_ALL tool dev)
set(CPACK_DEB_COMPONENT_INSTALL ON)
set(CPACK_DEBIAN_FILE_NAME DEB-DEFAULT)
set(CPACK_DEBIAN_TOOL_PACKAGE_NAME periscena)
set(CPACK_DEBIAN_TOOL_PACKAGE_SECTION graphics)
set(CPACK_DEBIAN_TOOL_PACKAGE_SHLIBDEPS ON)
set(CPACK_DEBIAN_TOOL_PACKAGE_DEPENDS "libegl1, libegl-mesa0")
set(CPACK_DEBIAN_DEV_PACKAGE_NAME libperiscena-dev)
set(CPACK_DEBIAN_DEV_PACKAGE_SECTION libdevel)
set(CPACK_DEBIAN_DEV_PACKAGE_DEPENDS "libfmt-dev (>= 9), libpng-dev, libopenexr-dev (>= 3.1), libfreetype-dev, libtinyobjloader-dev, \
libepoxy-dev (>= 1.5), libturbojpeg0-dev (>= 1:2.1), libtomlplusplus-dev (>= 3.3)")
include(CPack)
