// SPDX-License-Identifier: MIT
#pragma once
// FilterMenus: the conditions that suit a column, begun in its cell of the filter row or entered whole.

#include <QMenu>

#include <functional>

#include "core/columns/type.h"
#include "grid/filter/filter_control.h"

namespace jollyrow {

class FilterMenus final {
  public:
    FilterMenus(GridContext& context, FilterControl& filters, std::function<void(const QString& field)> openPickList)
        : context_(context), filters_(filters), openPickList_(std::move(openPickList)) {}

    void open(const QString& field, const QPoint& global);
    void openForRow(const QPoint& global);
    void fill(QMenu& menu, const QString& field);

  private:
    /// An entry that the person completes: the cursor stands between the two texts.
    void addBegun(QMenu& menu, const QString& field, const QString& words, const QString& before,
                  const QString& after = {});
    void addWhole(QMenu& menu, const QString& field, const QString& words, const QString& entry);
    void addForType(QMenu& menu, const QString& field, Type type);
    void addOperators(QMenu& menu, const QString& field, Type type);

    GridContext& context_;
    FilterControl& filters_;
    std::function<void(const QString& field)> openPickList_;
};

}  // namespace jollyrow
