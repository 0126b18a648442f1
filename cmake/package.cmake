# find_package(JollyRow): targets JollyRow::Core and JollyRow::Grid, their headers below include/jollyrow.
include(CMakePackageConfigHelpers)
install(TARGETS JollyRowCore JollyRowGrid EXPORT JollyRowTargets
  LIBRARY DESTINATION ${CMAKE_INSTALL_LIBDIR} ARCHIVE DESTINATION ${CMAKE_INSTALL_LIBDIR})
install(TARGETS jollyrow RUNTIME DESTINATION ${CMAKE_INSTALL_BINDIR})
# The headers an application may include, and all that they reach: read from the files, so that none can be forgotten.
set(api grid/api/grid.h grid/api/grid_column.h grid/api/record.h grid/api/filter_words.h grid/api/parameter_bar.h grid/api/form.h grid/api/load_line.h grid/groups/figure_card.h grid/api/qt_members.h grid/paint/looks.h
    grid/sheet/record_sheet.h grid/records/change_list.h grid/records/drafts_bar.h
    core/design/design_file.h core/design/make_design.h core/formats/text_format.h core/session/session.h core/sources/source.h core/sources/credentials.h core/sources/objects/object_source.h)
set(api_headers)
while(api)
  list(POP_FRONT api header)
  if(header IN_LIST api_headers)
    continue()
  endif()
  list(APPEND api_headers ${header})
  set_property(DIRECTORY APPEND PROPERTY CMAKE_CONFIGURE_DEPENDS ${PROJECT_SOURCE_DIR}/${header})
  file(STRINGS ${PROJECT_SOURCE_DIR}/${header} lines REGEX "^#include \"(core|grid)/")
  foreach(line ${lines})
    string(REGEX REPLACE "^#include \"([^\"]+)\".*" "\\1" reached ${line})
    list(APPEND api ${reached})
  endforeach()
endwhile()
foreach(header ${api_headers})
  get_filename_component(folder ${header} DIRECTORY)
  install(FILES ${PROJECT_SOURCE_DIR}/${header} DESTINATION ${CMAKE_INSTALL_INCLUDEDIR}/jollyrow/${folder})
endforeach()
install(EXPORT JollyRowTargets NAMESPACE JollyRow:: DESTINATION ${CMAKE_INSTALL_LIBDIR}/cmake/JollyRow)
configure_package_config_file(${CMAKE_CURRENT_LIST_DIR}/JollyRowConfig.cmake.in ${CMAKE_BINARY_DIR}/JollyRowConfig.cmake
  INSTALL_DESTINATION ${CMAKE_INSTALL_LIBDIR}/cmake/JollyRow)
write_basic_package_version_file(${CMAKE_BINARY_DIR}/JollyRowConfigVersion.cmake COMPATIBILITY SameMinorVersion)
install(FILES ${CMAKE_BINARY_DIR}/JollyRowConfig.cmake ${CMAKE_BINARY_DIR}/JollyRowConfigVersion.cmake
  DESTINATION ${CMAKE_INSTALL_LIBDIR}/cmake/JollyRow)
# The guide, which F1 opens: beside its pictures and what it leads to.
install(DIRECTORY ${PROJECT_SOURCE_DIR}/docs/guide ${PROJECT_SOURCE_DIR}/docs/screenshots ${PROJECT_SOURCE_DIR}/docs/formats
  ${PROJECT_SOURCE_DIR}/docs/recipes DESTINATION ${CMAKE_INSTALL_DATADIR}/doc/jollyrow)
install(FILES ${PROJECT_SOURCE_DIR}/docs/recipes.md ${PROJECT_SOURCE_DIR}/LICENSE DESTINATION ${CMAKE_INSTALL_DATADIR}/doc/jollyrow)
