# find_package(KiteKnot) for other projects: targets, version and the packages the archive links to.
include(CMakePackageConfigHelpers)
set(kiteknot_config_dir ${CMAKE_INSTALL_LIBDIR}/cmake/KiteKnot)
install(EXPORT KiteKnotTargets NAMESPACE KiteKnot:: DESTINATION ${kiteknot_config_dir})
configure_package_config_file(cmake/KiteKnotConfig.cmake.in
  ${CMAKE_CURRENT_BINARY_DIR}/KiteKnotConfig.cmake INSTALL_DESTINATION ${kiteknot_config_dir})
write_basic_package_version_file(${CMAKE_CURRENT_BINARY_DIR}/KiteKnotConfigVersion.cmake
  COMPATIBILITY SameMinorVersion)
install(FILES ${CMAKE_CURRENT_BINARY_DIR}/KiteKnotConfig.cmake
              ${CMAKE_CURRENT_BINARY_DIR}/KiteKnotConfigVersion.cmake
        DESTINATION ${kiteknot_config_dir})
# The same for pkg-config; it finds its files from where it stands itself.
file(RELATIVE_PATH kiteknot_prefix_from_pc ${CMAKE_INSTALL_FULL_LIBDIR}/pkgconfig ${CMAKE_INSTALL_PREFIX})
if(BUILD_SHARED_LIBS)
  set(kiteknot_pc_libs "-lkiteknot")
  set(kiteknot_pc_requires "")
else()
  get_property(pc_layers GLOBAL PROPERTY KITEKNOT_LAYERS)
  list(REVERSE pc_layers)  # who includes comes first
  list(TRANSFORM pc_layers PREPEND "-lkiteknot_")
  list(JOIN pc_layers " " kiteknot_pc_libs)
  set(kiteknot_pc_requires "fmt gmp sqlite3 xlsxwriter")
endif()
configure_file(cmake/kiteknot.pc.in ${CMAKE_CURRENT_BINARY_DIR}/kiteknot.pc @ONLY)
install(FILES ${CMAKE_CURRENT_BINARY_DIR}/kiteknot.pc DESTINATION ${CMAKE_INSTALL_LIBDIR}/pkgconfig)
install(DIRECTORY demo/ DESTINATION ${CMAKE_INSTALL_DATADIR}/kiteknot/demo COMPONENT tool)
