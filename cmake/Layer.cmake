# kiteknot_layer(name SOURCES ... [HEADERS ...] [BELOW ...] [PRIVATE ...])
# One target a layer. HEADERS are public ones (under include/); BELOW names the layers it may include.
function(kiteknot_layer name)
  cmake_parse_arguments(a "" "" "SOURCES;HEADERS;BELOW;PRIVATE" ${ARGN})
  add_library(kiteknot_${name} STATIC ${a_SOURCES})
  add_library(kiteknot::${name} ALIAS kiteknot_${name})
  set_target_properties(kiteknot_${name} PROPERTIES EXPORT_NAME ${name} POSITION_INDEPENDENT_CODE ON)
  target_compile_features(kiteknot_${name} PUBLIC cxx_std_20)
  # One meaning of floating-point code in every build: no contraction to fused operations.
  target_compile_options(kiteknot_${name} PRIVATE -ffp-contract=off)
  # What reads, states and tells is as fast at -O1 (measured on 90,000 decisions) and builds in two
  # thirds of the time; what searches is not.
  if(name MATCHES "^(data|formats|model|report|study|workbench)$")
    target_compile_options(kiteknot_${name} PRIVATE $<$<CONFIG:Release>:-O1>
                           "$<$<CXX_COMPILER_ID:GNU>:-Wno-array-bounds;-Wno-stringop-overflow>")
  endif()
  target_include_directories(kiteknot_${name} PRIVATE ${PROJECT_SOURCE_DIR}/src)
  target_sources(kiteknot_${name} PUBLIC FILE_SET HEADERS
                 BASE_DIRS ${PROJECT_SOURCE_DIR}/include FILES ${a_HEADERS})
  if(KITEKNOT_ASSERTIONS)
    target_compile_definitions(kiteknot_${name} PRIVATE KITEKNOT_ASSERTIONS)
  endif()
  # Where builds are slow (the sanitizers). Not for optimised ones: there GCC 12 finds faults in precompiled headers
  # that are none.
  if(KITEKNOT_PRECOMPILE)
    target_precompile_headers(kiteknot_${name} PRIVATE <algorithm> <cmath> <functional> <map> <memory> <optional>
                              <span> <string> <unordered_map> <vector>)
  endif()
  list(TRANSFORM a_BELOW PREPEND kiteknot_)
  target_link_libraries(kiteknot_${name} PUBLIC ${a_BELOW} PRIVATE ${a_PRIVATE})
  set_property(GLOBAL APPEND PROPERTY KITEKNOT_LAYERS ${name})
  set_property(GLOBAL APPEND PROPERTY KITEKNOT_HEADERS ${a_HEADERS})
  set_property(GLOBAL APPEND PROPERTY KITEKNOT_LINKED ${a_PRIVATE})
  # A shared library of them shows what the public headers declare, and nothing else.
  set_target_properties(kiteknot_${name} PROPERTIES CXX_VISIBILITY_PRESET hidden
                        VISIBILITY_INLINES_HIDDEN ON)
  if(NOT BUILD_SHARED_LIBS)
    install(TARGETS kiteknot_${name} EXPORT KiteKnotTargets
            ARCHIVE DESTINATION ${CMAKE_INSTALL_LIBDIR}
            FILE_SET HEADERS DESTINATION ${CMAKE_INSTALL_INCLUDEDIR})
  endif()
endfunction()
