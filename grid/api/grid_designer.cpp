// SPDX-License-Identifier: MIT
// Covered by tests/grid/tst_headings.cpp and tests/workbench/tst_workbench.cpp.
#include "grid/api/grid_designer.h"

#include "grid/api/grid.h"
#include "grid/inside/grid_private.h"

namespace jollyrow {

void GridDesigner::setDesigning(bool designing) { d_->context.setDesigning(designing); }

bool GridDesigner::isDesigning() const { return d_->context.isDesigning(); }

void GridDesigner::setTinted(const std::vector<QString>& fields, const std::optional<QString>& tier) {
    if (d_->headings.setDesigned(fields, tier)) d_->grid.viewport()->update();
}

std::vector<QString> GridDesigner::tinted() const { return d_->headings.designed(); }

std::vector<std::string> GridDesigner::selectedColumns() const { return d_->headings.chosen(); }

void GridDesigner::fitAll() { d_->exactFits.beginAll(); }

void GridDesigner::makeTier(const std::vector<std::string>& fields) { d_->headings.makeTier(fields); }

void GridDesigner::openColumnList() { d_->menus.headings.openColumnList(); }

}  // namespace jollyrow
