# Debian packages by CPack (scripts/package): the tool, the shared library, and its headers.
set(package_components tool lib dev)
set(package_names kiteknot libkiteknot${KITEKNOT_ABI} libkiteknot-dev)
set(package_files ${CMAKE_CURRENT_BINARY_DIR}/package)
file(MAKE_DIRECTORY ${package_files})
# Debian keeps the licence as copyright and the changes packed, for each package.
add_custom_command(
  OUTPUT ${package_files}/copyright ${package_files}/changelog.gz
  COMMAND ${CMAKE_COMMAND} -E cat ${PROJECT_SOURCE_DIR}/cmake/debian/copyright > ${package_files}/copyright
  COMMAND gzip -9nc ${PROJECT_SOURCE_DIR}/cmake/debian/changelog > ${package_files}/changelog.gz
  DEPENDS ${PROJECT_SOURCE_DIR}/cmake/debian/copyright ${PROJECT_SOURCE_DIR}/cmake/debian/changelog
  VERBATIM)
add_custom_target(kiteknot_package_files ALL DEPENDS ${package_files}/copyright)
foreach(component name IN ZIP_LISTS package_components package_names)
  install(FILES ${package_files}/copyright ${package_files}/changelog.gz
          DESTINATION ${CMAKE_INSTALL_DATADIR}/doc/${name} COMPONENT ${component})
endforeach()

set(CPACK_GENERATOR DEB)
set(CPACK_PACKAGE_NAME kiteknot)
set(CPACK_PACKAGE_VERSION ${PROJECT_VERSION})
set(CPACK_PACKAGE_CONTACT "The Kite Knot developers <kiteknot@festival.example>")
set(CPACK_PACKAGING_INSTALL_PREFIX /usr)
set(CPACK_STRIP_FILES ON)
set(CPACK_DEB_COMPONENT_INSTALL ON)
set(CPACK_COMPONENTS_ALL tool lib dev)
set(CPACK_DEBIAN_ENABLE_COMPONENT_DEPENDS OFF)
set(CPACK_DEBIAN_FILE_NAME DEB-DEFAULT)
set(CPACK_DEBIAN_TOOL_PACKAGE_NAME kiteknot)
set(CPACK_DEBIAN_TOOL_PACKAGE_SECTION science)
set(CPACK_DEBIAN_TOOL_PACKAGE_SHLIBDEPS ON)
# The library of the tool's own is found where it was built; its package is said below.
set(CPACK_DEBIAN_PACKAGE_SHLIBDEPS_PRIVATE_DIRS ${CMAKE_BINARY_DIR}/src)
set(CPACK_DEBIAN_TOOL_PACKAGE_RECOMMENDS "gnuplot-nox, librsvg2-bin")
set(CPACK_DEBIAN_TOOL_PACKAGE_DEPENDS "libkiteknot${KITEKNOT_ABI} (= ${PROJECT_VERSION})")
set(CPACK_DEBIAN_LIB_PACKAGE_NAME libkiteknot${KITEKNOT_ABI})
set(CPACK_DEBIAN_LIB_PACKAGE_SECTION libs)
set(CPACK_DEBIAN_LIB_PACKAGE_SHLIBDEPS ON)
set(CPACK_DEBIAN_LIB_PACKAGE_GENERATE_SHLIBS ON)
set(CPACK_DEBIAN_DEV_PACKAGE_NAME libkiteknot-dev)
set(CPACK_DEBIAN_DEV_PACKAGE_SECTION libdevel)
set(CPACK_DEBIAN_DEV_PACKAGE_DEPENDS "libkiteknot${KITEKNOT_ABI} (= ${PROJECT_VERSION})")
set(CPACK_PACKAGE_DESCRIPTION_SUMMARY "whole decisions, solved to proof and told in their own names")
set(CPACK_COMPONENT_TOOL_DESCRIPTION
"States models of selection, assignment, packing, cover, facilities and tours,
reads them back, solves them by branch and bound with exact proofs, compares
the answer with what people do by hand, and tells why nothing is feasible.")
set(CPACK_COMPONENT_LIB_DESCRIPTION
"The library behind the tool kiteknot, for programs that were built with it.")
set(CPACK_COMPONENT_DEV_DESCRIPTION
"What programs are built with against the library behind the tool kiteknot:
public headers, and files that let CMake and pkg-config find them.")
include(CPack)
