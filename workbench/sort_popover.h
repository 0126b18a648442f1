// SPDX-License-Identifier: MIT
#pragma once
// SortPopover: the sort keys as cards: what by, which way, where empties go, which comes first.

#include "core/columns/schema.h"
#include "core/design/design.h"
#include "workbench/popover.h"

namespace jollyrow {

class SortPopover final : public Popover {
    Q_OBJECT
  public:
    SortPopover(QWidget* window, const Design& design, const TableSchema& schema);
    /// After undo, or a click on a heading while open.
    void setDesign(const Design& design);

  Q_SIGNALS:
    void changed(const jollyrow::Design& next, const QString& label);

  private:
    void rebuild();
    QWidget* keyCard(std::size_t index);
    void setKeys(std::vector<SortDesign> keys, const QString& label);
    QString headingOf(const std::string& field) const;
    Design design_;
    TableSchema schema_;
    QWidget* cards_ = nullptr;
};

}  // namespace jollyrow
