include(CMakePackageConfigHelpers)

get_property(libraries GLOBAL PROPERTY PERISCENA_LIBRARIES)
install(TARGETS ${libraries} periscena EXPORT PeriscenaTargets ARCHIVE DESTINATION ${CMAKE_INSTALL_LIBDIR})
install(TARGETS periscena_tool RUNTIME DESTINATION ${CMAKE_INSTALL_BINDIR})
install(DIRECTORY include/periscena DESTINATION ${CMAKE_INSTALL_INCLUDEDIR})
install(EXPORT PeriscenaTargets NAMESPACE Periscena:: DESTINATION ${CMAKE_INSTALL_LIBDIR}/cmake/Periscena)
configure_package_config_file(cmake/PeriscenaConfig.cmake.in ${PROJECT_BINARY_DIR}/PeriscenaConfig.cmake
  INSTALL_DESTINATION ${CMAKE_INSTALL_LIBDIR}/cmake/Periscena)
write_basic_package_version_file(${PROJECT_BINARY_DIR}/PeriscenaConfigVersion.cmake COMPATIBILITY SameMinorVersion)
install(FILES ${PROJECT_BINARY_DIR}/PeriscenaConfig.cmake ${PROJECT_BINARY_DIR}/PeriscenaConfigVersion.cmake
  DESTINATION ${CMAKE_INSTALL_LIBDIR}/cmake/Periscena)
