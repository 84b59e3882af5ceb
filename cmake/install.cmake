# Installation, in three components: the libraries, what is needed to build with them, and the command with the
# documentation. Whatever part was built is installed.
include(CMakePackageConfigHelpers)

set(parts "")
foreach(part io report figure)
  if(TARGET truecurve_${part})
    list(APPEND parts ${part})
  endif()
endforeach()

# Each part has an export set and a .pc file of its own.
set(config_folder ${CMAKE_INSTALL_LIBDIR}/cmake/TrueCurve)
function(truecurve_installed target set)
  set_target_properties(${target} PROPERTIES VERSION ${PROJECT_VERSION} SOVERSION ${PROJECT_VERSION_MAJOR}.${PROJECT_VERSION_MINOR})
  install(TARGETS ${target} EXPORT ${set}
    LIBRARY DESTINATION ${CMAKE_INSTALL_LIBDIR} COMPONENT library NAMELINK_COMPONENT development
    ARCHIVE DESTINATION ${CMAKE_INSTALL_LIBDIR} COMPONENT development)
  install(EXPORT ${set} NAMESPACE TrueCurve:: DESTINATION ${config_folder} COMPONENT development)
endfunction()
# Where the libraries are from where a .pc file is, so that a tree can be moved.
file(RELATIVE_PATH PC_PREFIX /${CMAKE_INSTALL_LIBDIR}/pkgconfig /)
string(REGEX REPLACE "/$" "" PC_PREFIX "${PC_PREFIX}")
function(truecurve_pc name title requires libraries private_requires private_libraries)
  set(PC_NAME ${title})
  set(PC_REQUIRES "${requires}")
  set(PC_LIBRARIES "${libraries}")
  set(PC_REQUIRES_PRIVATE "")
  set(PC_LIBRARIES_PRIVATE "")
  # What a shared library is made of is its own business.
  if(NOT BUILD_SHARED_LIBS)
    set(PC_REQUIRES_PRIVATE "${private_requires}")
    set(PC_LIBRARIES_PRIVATE "${private_libraries}")
  endif()
  configure_file(${PROJECT_SOURCE_DIR}/cmake/truecurve.pc.in ${name}.pc @ONLY)
  install(FILES ${CMAKE_CURRENT_BINARY_DIR}/${name}.pc DESTINATION ${CMAKE_INSTALL_LIBDIR}/pkgconfig COMPONENT development)
endfunction()
truecurve_installed(truecurve TrueCurveTargets)
truecurve_pc(truecurve "True Curve" "" -ltruecurve "fmt tbb" "")
foreach(part ${parts})
  truecurve_installed(truecurve_${part} TrueCurve_${part}Targets)
endforeach()
set(same "truecurve = ${PROJECT_VERSION}")
if(TARGET truecurve_io)
  truecurve_pc(truecurve-io "True Curve: tables and records" "${same}" -ltruecurve_io "libmd libutf8proc zlib libzip pugixml" -lcsv)
endif()
if(TARGET truecurve_report)
  truecurve_pc(truecurve-report "True Curve: reports" "${same}" -ltruecurve_report "libutf8proc xlsxwriter" "")
endif()
if(TARGET truecurve_figure)
  truecurve_pc(truecurve-figure "True Curve: figures" "${same}" -ltruecurve_figure "truecurve-io plplot pugixml" "")
endif()

# The headers of what was built.
set(headers assess base calibrate compare data fit model ${parts})
foreach(room ${headers})
  install(DIRECTORY include/truecurve/${room} DESTINATION ${CMAKE_INSTALL_INCLUDEDIR}/truecurve COMPONENT development)
endforeach()
install(FILES include/truecurve/truecurve.hpp DESTINATION ${CMAKE_INSTALL_INCLUDEDIR}/truecurve COMPONENT development)
install(DIRECTORY ${CMAKE_CURRENT_BINARY_DIR}/generated/truecurve DESTINATION ${CMAKE_INSTALL_INCLUDEDIR} COMPONENT development)

configure_package_config_file(cmake/TrueCurveConfig.cmake.in TrueCurveConfig.cmake INSTALL_DESTINATION ${config_folder})
write_basic_package_version_file(TrueCurveConfigVersion.cmake COMPATIBILITY SameMinorVersion)
install(FILES ${CMAKE_CURRENT_BINARY_DIR}/TrueCurveConfig.cmake ${CMAKE_CURRENT_BINARY_DIR}/TrueCurveConfigVersion.cmake
  DESTINATION ${config_folder} COMPONENT development)

if(TARGET truecurve_app)
  install(TARGETS truecurve_app RUNTIME DESTINATION ${CMAKE_INSTALL_BINDIR} COMPONENT command)
  install(DIRECTORY ${TRUECURVE_SHELL_FILES}/man1 ${TRUECURVE_SHELL_FILES}/man7 TYPE MAN COMPONENT command)
  install(FILES ${TRUECURVE_SHELL_FILES}/completions/truecurve DESTINATION ${CMAKE_INSTALL_DATADIR}/bash-completion/completions
    COMPONENT command)
  install(FILES ${TRUECURVE_SHELL_FILES}/completions/_truecurve DESTINATION ${CMAKE_INSTALL_DATADIR}/zsh/vendor-completions
    COMPONENT command)
  install(FILES ${TRUECURVE_SHELL_FILES}/completions/truecurve.fish DESTINATION ${CMAKE_INSTALL_DATADIR}/fish/vendor_completions.d
    COMPONENT command)
  # The guide and the examples, and the data they speak of beside them.
  set(doc ${CMAKE_INSTALL_DATAROOTDIR}/doc/truecurve)
  install(FILES README.md CHANGELOG.md DESTINATION ${doc} COMPONENT command)
  install(DIRECTORY docs examples DESTINATION ${doc} COMPONENT command PATTERN make.sh EXCLUDE PATTERN Doxyfile.in EXCLUDE)
  install(DIRECTORY demo DESTINATION ${doc} COMPONENT command
    FILES_MATCHING PATTERN "*.csv" PATTERN "*.json" PATTERN "*.toml" PATTERN "truth.hpp")
endif()

# What Debian asks of each package.
execute_process(COMMAND ${CMAKE_COMMAND} -E env LC_ALL=C date -u -R -d "${TRUECURVE_DATE} 12:00"
  OUTPUT_VARIABLE TRUECURVE_RFC_DATE OUTPUT_STRIP_TRAILING_WHITESPACE COMMAND_ERROR_IS_FATAL ANY)
configure_file(cmake/debian_changelog.in changelog @ONLY)
add_custom_command(OUTPUT ${CMAKE_CURRENT_BINARY_DIR}/changelog.gz
  COMMAND gzip -9nc changelog > changelog.gz DEPENDS ${CMAKE_CURRENT_BINARY_DIR}/changelog VERBATIM)
add_custom_target(truecurve_changelog ALL DEPENDS ${CMAKE_CURRENT_BINARY_DIR}/changelog.gz)
add_dependencies(truecurve truecurve_changelog)
set(package_of_library libtruecurve${PROJECT_VERSION_MAJOR}.${PROJECT_VERSION_MINOR})
set(package_of_development libtruecurve-dev)
set(package_of_command truecurve)
foreach(component library development command)
  if(component STREQUAL command AND NOT TARGET truecurve_app)
    continue()
  endif()
  set(doc ${CMAKE_INSTALL_DATAROOTDIR}/doc/${package_of_${component}})
  install(FILES LICENSE DESTINATION ${doc} RENAME copyright COMPONENT ${component})
  install(FILES ${CMAKE_CURRENT_BINARY_DIR}/changelog.gz DESTINATION ${doc} COMPONENT ${component})
endforeach()

if(PROJECT_IS_TOP_LEVEL)
  include(cmake/packages.cmake)
endif()
