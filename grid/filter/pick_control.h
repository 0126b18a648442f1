// SPDX-License-Identifier: MIT
#pragma once
// PickControl: the list of a column's values to pick from, and what is picked as the column's condition.

#include <QPointer>

#include <memory>

#include "core/rows/pick_list.h"
#include "grid/filter/filter_control.h"
#include "grid/filter/pick_popup.h"

namespace jollyrow {

class PickControl final {
  public:
    PickControl(GridContext& context, FilterControl& filters, Scroller& scroller,
                std::function<QRect(const QString& field)> headingOf)
        : context_(context), filters_(filters), scroller_(scroller), headingOf_(std::move(headingOf)) {}

    /// Opens the list under the column's cell of the filter row, or under its heading.
    void open(const QString& field);

  private:
    struct Picking {
        QString field;       ///< of the column
        std::string tested;  ///< of the condition: of a look-up its label
        int column = 0;
        Type type = Type::Text;
    };
    using List = std::shared_ptr<const PickList>;
    void ask(const Picking& what, FieldIndex tested);
    void show(const Picking& what, const List& list, const PickList* chosen);
    void take(const Picking& what, const List& list);
    void showFoot(const List& list);
    std::function<std::string(const Value&)> wordsFor(const Picking& what) const;

    GridContext& context_;
    FilterControl& filters_;
    Scroller& scroller_;
    std::function<QRect(const QString& field)> headingOf_;
    QPointer<PickPopup> popup_;
};

}  // namespace jollyrow
