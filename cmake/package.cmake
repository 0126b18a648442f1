# find_package(JollyRow): targets JollyRow::Core and JollyRow::Grid, their headers below include/jollyrow.
include(CMakePackageConfigHelpers)
install(TARGETS JollyRowCore JollyRowGrid EXPORT JollyRowTargets
  LIBRARY DESTINATION ${CMAKE_INSTALL_LIBDIR} ARCHIVE DESTINATION ${CMAKE_INSTALL_LIBDIR})
install(TARGETS jollyrow RUNTIME DESTINATION ${CMAKE_INSTALL_BINDIR})
# The headers an application may include: the grid's API and what it reaches.
foreach(header
    core/base/result.h core/base/cancel.h core/base/indexes.h core/base/page_allocator.h
    core/columns/type.h core/columns/look_up.h core/columns/decimal.h core/columns/civil.h core/columns/value.h core/columns/schema.h core/columns/sort_key.h
    core/columns/shared_span.h core/columns/column.h core/columns/table.h core/columns/edits.h
    core/design/design.h core/design/design_file.h core/design/make_design.h core/design/finding.h core/design/plan.h core/design/tier_tree.h core/design/cell_text.h core/design/operators.h core/design/computed_fields.h core/design/condition.h core/design/filter_entry.h core/design/find.h
    core/formats/text_format.h core/formats/format_spec.h core/formats/formatter.h core/rows/collation.h core/rows/row_order.h core/rows/snapshot.h core/rows/rowline.h core/rows/record_set.h core/rows/pick_list.h core/rows/sort_stage.h core/rows/compute_stage.h core/rows/group_stage.h core/rows/group_tree.h core/rows/group_codes.h core/rows/term_sums.h core/rows/grouped_lines.h core/rows/figure_origin.h core/rows/value_spread.h core/rows/parallel.h core/design/grouping.h core/design/captions.h core/design/summary_table.h
    core/rules/sort_list.h core/rules/summary_list.h core/rules/sort_term.h core/rules/program.h core/rules/op.h core/rules/rule_type.h core/rules/interval.h core/rules/wide_decimal.h core/rules/syntax.h core/rules/evaluator.h core/rules/vector.h core/rules/sql_writer.h
    core/sources/source.h core/session/session.h
    grid/grid.h grid/grid_column.h grid/record.h grid/selection.h grid/filter_words.h grid/parameter_bar.h)
  get_filename_component(folder ${header} DIRECTORY)
  install(FILES ${PROJECT_SOURCE_DIR}/${header} DESTINATION ${CMAKE_INSTALL_INCLUDEDIR}/jollyrow/${folder})
endforeach()
install(EXPORT JollyRowTargets NAMESPACE JollyRow:: DESTINATION ${CMAKE_INSTALL_LIBDIR}/cmake/JollyRow)
configure_package_config_file(${CMAKE_CURRENT_LIST_DIR}/JollyRowConfig.cmake.in ${CMAKE_BINARY_DIR}/JollyRowConfig.cmake
  INSTALL_DESTINATION ${CMAKE_INSTALL_LIBDIR}/cmake/JollyRow)
write_basic_package_version_file(${CMAKE_BINARY_DIR}/JollyRowConfigVersion.cmake COMPATIBILITY SameMinorVersion)
install(FILES ${CMAKE_BINARY_DIR}/JollyRowConfig.cmake ${CMAKE_BINARY_DIR}/JollyRowConfigVersion.cmake
  DESTINATION ${CMAKE_INSTALL_LIBDIR}/cmake/JollyRow)
