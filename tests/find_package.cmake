# Installs into a fresh folder, builds consumers against it (all, one module with the packages of the others out of reach,
# pkg-config), runs them, and follows the links of the installed documents.
set(prefix ${BUILD}/install-test)
file(REMOVE_RECURSE ${prefix} ${BUILD}/consumer-test ${BUILD}/component-test)
include(${CMAKE_CURRENT_LIST_DIR}/run.cmake)
run(${CMAKE_COMMAND} --install ${BUILD} --prefix ${prefix})
run(${CMAKE_COMMAND} -G Ninja -S ${SOURCE} -B ${BUILD}/consumer-test -DCMAKE_PREFIX_PATH=${prefix} -DCMAKE_BUILD_TYPE=${BUILD_TYPE})
run(${CMAKE_COMMAND} --build ${BUILD}/consumer-test)
run(${BUILD}/consumer-test/consumer)
run(${CMAKE_CTEST_COMMAND} --test-dir ${BUILD}/consumer-test --output-on-failure)

# One component asks for its own packages only.
set(out_of_reach -DCMAKE_DISABLE_FIND_PACKAGE_PNG=ON -DCMAKE_DISABLE_FIND_PACKAGE_OpenEXR=ON -DCMAKE_DISABLE_FIND_PACKAGE_Freetype=ON
  -DCMAKE_DISABLE_FIND_PACKAGE_tinyobjloader=ON -DCMAKE_DISABLE_FIND_PACKAGE_PkgConfig=ON -DCMAKE_DISABLE_FIND_PACKAGE_Eigen3=ON)
run(${CMAKE_COMMAND} -G Ninja -S ${SOURCE}/component -B ${BUILD}/component-test -DCMAKE_PREFIX_PATH=${prefix}
  -DCMAKE_BUILD_TYPE=${BUILD_TYPE} -DCOMPONENT=math ${out_of_reach})
run(${CMAKE_COMMAND} --build ${BUILD}/component-test)
run(${BUILD}/component-test/use)
# The window is a component that is asked for by name.
file(GLOB_RECURSE window_package ${prefix}/*/periscena-window.pc)
if(window_package)
  run(${CMAKE_COMMAND} -G Ninja -S ${SOURCE}/component -B ${BUILD}/component-test/window -DCMAKE_PREFIX_PATH=${prefix}
    -DCMAKE_BUILD_TYPE=${BUILD_TYPE} -DCOMPONENT=window)
  run(${CMAKE_COMMAND} --build ${BUILD}/component-test/window)
  run(${BUILD}/component-test/window/use)
endif()

# refuse(COMPONENT OPTION …): sets `output` to why.
function(refuse component)
  execute_process(COMMAND ${CMAKE_COMMAND} -G Ninja -S ${SOURCE}/component -B ${BUILD}/component-test/refused
    -DCMAKE_PREFIX_PATH=${prefix} -DCOMPONENT=${component} ${ARGN}
    RESULT_VARIABLE result ERROR_VARIABLE output OUTPUT_QUIET)
  if(result EQUAL 0)
    message(FATAL_ERROR "component ${component} should have been refused")
  endif()
  set(output ${output} PARENT_SCOPE)
endfunction()
# What shared libraries use of others, they bring.
if(NOT SHARED)
  refuse(image ${out_of_reach})
endif()
refuse(maths)
string(REGEX REPLACE "[ \n]+" " " output "${output}")
if(NOT output MATCHES "there is no component \"maths\": choose of base, math, image, scene, model, batch, graph, gl, passes, frame, inspect")
  message(FATAL_ERROR "an unknown component is refused without saying what there is:\n${output}")
endif()

file(GLOB_RECURSE package_file ${prefix}/*/periscena.pc)
cmake_path(GET package_file PARENT_PATH package_folder)
set(ENV{PKG_CONFIG_PATH} ${package_folder})
execute_process(COMMAND pkg-config --cflags --libs periscena OUTPUT_VARIABLE flags COMMAND_ERROR_IS_FATAL ANY)
separate_arguments(flags UNIX_COMMAND "${flags}")
separate_arguments(compiler UNIX_COMMAND "$ENV{CXX} $ENV{CXXFLAGS}")
run(${compiler} -std=c++20 ${SOURCE}/main.cpp -o ${BUILD}/consumer-test/by-pkg-config ${flags})
cmake_path(GET package_folder PARENT_PATH library_folder)
set(ENV{LD_LIBRARY_PATH} ${library_folder})
run(${BUILD}/consumer-test/by-pkg-config)

# What the documents link to is installed, but for what is only in the sources.
set(documents ${prefix}/share/doc/periscena)
file(GLOB pages ${documents}/*.md ${documents}/docs/*.md)
foreach(page IN LISTS pages)
  cmake_path(GET page PARENT_PATH folder)
  file(READ ${page} text)
  string(REPLACE "](" "<" text "${text}")  # lists of CMake take square brackets for their own
  string(REGEX MATCHALL "<[a-zA-Z0-9_./]+\\.(md|png|svg|cpp|toml|cube|frag)[)#]" links "${text}")
  foreach(link IN LISTS links)
    string(REGEX REPLACE "^<|[)#]$" "" link "${link}")
    if(NOT link MATCHES "tests/|cmake/|CONTRIBUTING" AND NOT EXISTS ${folder}/${link})
      message(FATAL_ERROR "${page} links to ${link}, which is not installed")
    endif()
  endforeach()
endforeach()
list(LENGTH pages count)
if(count LESS 7 OR NOT EXISTS ${prefix}/share/periscena/glsl/camera.glsl)
  message(FATAL_ERROR "documents or GLSL are not installed")
endif()
