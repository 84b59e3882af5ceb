# Debian packages: cpack --preset dev writes them into build/dev/packages.
set(CPACK_PACKAGE_NAME truecurve)
set(CPACK_PACKAGE_VERSION ${PROJECT_VERSION})
set(CPACK_PACKAGE_CONTACT "True Curve developers <truecurve@example.invalid>")
set(CPACK_PACKAGE_DIRECTORY ${PROJECT_BINARY_DIR}/packages)
set(CPACK_PACKAGING_INSTALL_PREFIX /usr)
set(CPACK_COMPONENTS_ALL development library)
if(TARGET truecurve_app)
  list(PREPEND CPACK_COMPONENTS_ALL command)
endif()
set(CPACK_STRIP_FILES ON)

set(CPACK_DEB_COMPONENT_INSTALL ON)
set(CPACK_DEBIAN_FILE_NAME DEB-DEFAULT)
set(CPACK_DEBIAN_PACKAGE_SECTION science)
set(CPACK_DEBIAN_ENABLE_COMPONENT_DEPENDS ON)
# The libraries that the packages need, read off the binaries; the packages' own library is known by what it says of itself.
set(CPACK_DEBIAN_PACKAGE_SHLIBDEPS ON)
set(CPACK_DEBIAN_PACKAGE_GENERATE_SHLIBS ON)
set(CPACK_DEBIAN_PACKAGE_GENERATE_SHLIBS_POLICY "=")
set(CPACK_DEBIAN_PACKAGE_SHLIBDEPS_PRIVATE_DIRS ${PROJECT_BINARY_DIR})

set(version ${PROJECT_VERSION_MAJOR}.${PROJECT_VERSION_MINOR})
set(CPACK_DEBIAN_LIBRARY_PACKAGE_NAME libtruecurve${version})
set(CPACK_DEBIAN_LIBRARY_PACKAGE_SECTION libs)
# Debian's own way to say that the loader's cache changes; CPack's scripts call ldconfig besides, which can't be left out.
file(WRITE ${PROJECT_BINARY_DIR}/debian/triggers "activate-noawait ldconfig\n")
set(CPACK_DEBIAN_LIBRARY_PACKAGE_CONTROL_EXTRA ${PROJECT_BINARY_DIR}/debian/triggers)
# Figures are drawn by a driver that is loaded, and that no binary names.
if(TARGET truecurve_figure)
  set(CPACK_DEBIAN_LIBRARY_PACKAGE_DEPENDS "plplot-driver-cairo, fonts-dejavu-core")
endif()
set(CPACK_COMPONENT_LIBRARY_DESCRIPTION "curve fitting with defensible uncertainties: shared libraries
 Fits linear, polynomial and nonlinear models to laboratory data, with
 uncertainties, comparison and calibration.")

set(CPACK_DEBIAN_DEVELOPMENT_PACKAGE_NAME libtruecurve-dev)
set(CPACK_DEBIAN_DEVELOPMENT_PACKAGE_SECTION libdevel)
set(CPACK_DEBIAN_DEVELOPMENT_PACKAGE_SHLIBDEPS OFF)
set(CPACK_DEBIAN_DEVELOPMENT_PACKAGE_SUGGESTS "libeigen3-dev")
set(CPACK_COMPONENT_DEVELOPMENT_DEPENDS library)
set(CPACK_COMPONENT_DEVELOPMENT_DESCRIPTION "curve fitting with defensible uncertainties: development files
 Headers, the CMake package and the pkg-config files.")

set(CPACK_DEBIAN_COMMAND_PACKAGE_NAME truecurve)
set(CPACK_COMPONENT_COMMAND_DEPENDS library)
set(CPACK_COMPONENT_COMMAND_DESCRIPTION "curve fitting with defensible uncertainties: command
 The command truecurve, its manual pages, completions and documentation.")
include(CPack)
